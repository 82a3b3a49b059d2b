"""What the costliest requests within the limits cost, each asked once by who is signed in:

    IRONMARGIN_TESTING=1 .venv/bin/python tools/with_database.py -m benchmarks.costliest

Every page of the largest setups there may be, a log of four hundred different starts, a full
inventory, its zip, and files taken in at their limits. Prints seconds of one core and the memory of
the process after each, the dearest first.
"""

from __future__ import annotations

import io
import json
import os
import resource
import sys
import time
import zipfile
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "web.project.settings")
CHEAP_S, TOO_DEAR_S = 0.15, 2.0
FULL = 500


def question(motors: int, others: int, trials: int, *, drive: bool = False) -> dict[str, Any]:
    """A setup of so many air conditioners and other loads, on a set that just does not do."""
    cooler = {"start": "inverter-drive"} if drive else {"lra_a": 20}
    loads: list[dict[str, Any]] = [
        {"id": f"a{n}", "name": f"Unit {n}", "kind": "air-conditioner", "running_a": 4, **cooler}
        for n in range(motors)
    ]
    loads += [
        {"id": f"l{n}", "name": f"Load {n}", "kind": "electronic", "watts": 10}
        for n in range(others)
    ]
    watts = 0.7 * (480 * motors + 10 * others) + 1000
    return {
        "format": "iron-margin/setup",
        "version": 1,
        "name": f"{motors} units, {others} loads",
        "conditions": {"target_hours": 8760},
        "supply": {
            "kind": "generator",
            "continuous_w": watts,
            "starting_w": 1.1 * watts,
            "tank_l": 500,
        },
        "hookup": [],
        "rig": {"name": f"rig {motors}", "service": "120", "main_a": 100, "loads": loads},
        "wanted": [{"load": x["id"]} for x in loads],
        "rules": {"trials": trials},
    }


LARGEST = (
    question(11, 16, 1000),
    question(6, 150, 500),
    question(1, 480, 300),
    question(500, 0, 1000, drive=True),
)
PAGES = (
    "setups/{}/", "setups/{}/result/", "setups/{}/start.csv", "setups/{}/chip/",
    "setups/{}/export/", "verdicts/{}/report.pdf", "order/{}/", "order/{}/card-a6.pdf",
    "now/{}/", "now/{}/table/", "log/{}/", "log/{}/power.pdf", "log/{}/pairs/",
    "log/{}/survey/", "log/{}/learning/", "bench/{}/", "hours/{}/",
    "hours/{}/?outdoor=99", "hours/{}/series.csv", "reach/{}/", "reach/{}/places/",
    "steps/{}/", "meter/{}/",
)  # fmt: skip


def main() -> None:
    import django

    django.setup()
    from django.conf import settings
    from django.contrib.auth.models import User
    from django.core.files.uploadedfile import SimpleUploadedFile
    from django.core.management import call_command
    from django.test import Client

    from web.logbook.models import MAX_ENTRIES, LogEntry
    from web.setups import judging, repository
    from web.storage.account import pack

    settings.JOBS_INLINE = False  # searches are the queue's, not the request's
    call_command("migrate", verbosity=0)
    user = User.objects.create_user("costly", "c@x.invalid", "not-a-common-one-7")
    client = Client(HTTP_HOST="127.0.0.1", raise_request_exception=False)
    client.force_login(user)
    rows: list[tuple[float, float, float, str, int]] = []

    def cost(method: str, path: str, body: Any = None, **more: Any) -> None:
        before, begun, wall = _memory(), time.process_time(), time.perf_counter()
        answer = getattr(client, method)(path, body, secure=True, **more)
        used, lasted = time.process_time() - begun, time.perf_counter() - wall
        size = f"{method} {path} {getattr(client, 'what', '')}"
        rows.append((used, lasted, _memory() - before, size, answer.status_code))
        if used > TOO_DEAR_S:
            print(f"{used:.1f} s: {size}", flush=True)

    for document in LARGEST:
        client.what = document["name"]
        saved = repository.store(user, judging.judge(document))
        text = json.dumps(repository.compose(saved))
        form = {"document": text, "saved": saved.pk, "version": 1, "units": "si"}
        for path in PAGES:
            cost("get", "/" + path.format(saved.pk))
        for path in ("preview", "remedy", "save"):
            cost("post", f"/setups/{path}/", form | {"name": "x"}, headers={"HX-Request": "true"})
        load = document["rig"]["loads"][0]["id"]
        LogEntry.objects.bulk_create(
            LogEntry(setup=saved, kind="start", document=_start(load, n))
            for n in range(MAX_ENTRIES)
        )
        cost("get", f"/log/{saved.pk}/?full")
        cost("get", f"/log/{saved.pk}/pairs/?full")
        cost("get", f"/log/rig/{saved.rig_id}/")
    client.what = "everything"
    pks = "&".join(f"pk={n}" for n in range(1, 20))
    cost("get", f"/setups/compare/?{pks}")
    for path in ("setups/", "rigs/", "supplies/", "kept/account.zip"):
        cost("get", f"/{path}")
    setup = json.dumps(repository.compose(saved) | {"x": {"notes": "x" * 700_000}})
    starts = {
        "format": "iron-margin/log",
        "version": 1,
        "entries": [_start(load, n) for n in range(400)],
    }
    table = "name,kind,watts\n" + "\n".join(f"Load {n},electronic,10" for n in range(500))
    for path, name, raw in (
        ("setups/import/", "s.json", setup.encode()),
        (f"log/{saved.pk}/take-in/", "l.json", json.dumps(starts).encode()),
        (f"rigs/{saved.rig_id}/import/", "t.csv", table.encode()),
        ("kept/account/", "a.zip", _full(pack(user))),
    ):
        if path.startswith("kept/"):
            client.force_login(
                User.objects.create_user("empty", "e@x.invalid", "not-a-common-one-8")
            )
        client.what = f"{name} of {len(raw):,} bytes"
        cost("post", f"/{path}", {"file": SimpleUploadedFile(name, raw)})
    rows.sort(reverse=True)
    for used, lasted, memory, what, status in rows:
        if used >= CHEAP_S or status not in (200, 204):
            print(f"{used:6.2f} s of a core, {lasted:6.2f} s, {memory:+5.0f} MB, {status}  {what}")
    print(f"{len(rows)} requests; the process holds {_memory():.0f} MB at most")


def _memory() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def _full(raw: bytes) -> bytes:
    """An account's zip with its things repeated until it is as large as one may be."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(raw)) as file, zipfile.ZipFile(out, "w", 8) as more:
        more.writestr("manifest.json", file.read("manifest.json"))
        names = [
            n for n in file.namelist() if n.startswith(("rigs/", "setups/")) and n.endswith("json")
        ]
        for folder in ("rigs", "setups"):
            mine = [json.loads(file.read(n)) for n in names if n.startswith(folder)]
            for n in range(FULL):
                thing = mine[n % len(mine)] | {"name": f"Thing {n}"}
                thing.pop("log", None)
                more.writestr(f"{folder}/{n + 1:04d}-x.json", json.dumps(thing))
    return out.getvalue()


def _start(load: str, n: int) -> dict[str, Any]:
    """A start no other is like: each with other figures changed."""
    return {
        "kind": "start", "load": load, "outcome": "starts", "peak_a": 40.0 + n % 7,
        "changed": {"lra_a": 20.0 + n / 100.0},
    }  # fmt: skip


if __name__ == "__main__":
    main()
