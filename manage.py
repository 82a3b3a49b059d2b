#!/usr/bin/env python
"""Django's commands."""

import os
import sys


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "web.project.settings")
    from web.project.environment import Wrong

    try:
        from django.core.management import execute_from_command_line

        execute_from_command_line(sys.argv)
    except Wrong as error:
        sys.exit(f"settings: {error}")


if __name__ == "__main__":
    main()
