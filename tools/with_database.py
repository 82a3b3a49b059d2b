"""Runs a Django command beside a throw-away database, as it would be deployed: python
tools/with_database.py manage.py check.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tools.database import throwaway  # noqa: E402


def main() -> int:
    with throwaway(IRONMARGIN_TLS="1", IRONMARGIN_DEMO="0") as env:
        return subprocess.run(
            [sys.executable, *sys.argv[1:]], cwd=ROOT, env=env, check=False
        ).returncode


if __name__ == "__main__":
    sys.exit(main())
