"""What ``./start`` runs once everything is installed: database, migrations, demo, web server; and
stops all of it.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import types
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tools.database import Database, DatabaseError, die_with_parent, secret_key  # noqa: E402

VAR = Path(os.environ.get("IRONMARGIN_VAR", ROOT / "var"))
MIN_FREE_MB = 300
STOP_S = 15
READY_S = 30
NICE = 10
DAY_S = 86_400.0
MAX_DEATHS, DEATHS_S, PAUSE_S = 8, 30.0, 5.0
"""A server that dies so often in so short a time is brought back more slowly [s]."""
METERED = ROOT / "ironmargin_meter" / "demo.setup.json"
HOME_NETS = "10.0.0.0/8,172.16.0.0/12,192.168.0.0/16"
"""On one's own machine a meter stands in one's own network."""


class Refused(Exception):
    """A start that cannot be; the message is one line with what to do."""


def _port() -> int:
    words = os.environ.get("PORT", "8000")
    if not words.isdigit() or not 0 < int(words) < 65536:
        raise Refused(f"PORT must be a port number from 1 to 65535 (got {words})")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", int(words)))
        except OSError as error:
            raise Refused(
                f"port {words} cannot be used ({error.strerror}); stop what holds it, or "
                "choose another: PORT=8001 ./start"
            ) from None
    return int(words)


def _room() -> None:
    try:
        VAR.mkdir(parents=True, exist_ok=True)
        free_mb = shutil.disk_usage(VAR).free // 1_000_000
    except OSError as error:
        raise Refused(
            f"cannot write {VAR}: {error.strerror}; give the folder back its rights"
        ) from None
    if free_mb < MIN_FREE_MB:
        raise Refused(f"only {free_mb} MB free for {VAR}; make at least {MIN_FREE_MB} MB of room")


def _prepare(env: dict[str, str]) -> None:
    """Bring database, demo and static files up to date, unless just this code did so before."""
    stamp = VAR / "db" / "prepared"
    made_from = hashlib.sha256(env["IRONMARGIN_DEMO"].encode())
    for file in (ROOT / "requirements.lock", *sorted((ROOT / "web").rglob("*"))):
        if file.is_file() and file.suffix != ".pyc":
            found = file.stat()
            made_from.update(f"{file} {found.st_size} {found.st_mtime_ns}\n".encode())
    whole = (VAR / "static" / "staticfiles.json").exists()
    if whole and stamp.exists() and stamp.read_text(encoding="utf-8") == made_from.hexdigest():
        return
    stamp.unlink(missing_ok=True)
    prepare = [sys.executable, str(ROOT / "manage.py"), "prepare"]
    if subprocess.run(prepare, env=env, cwd=ROOT, check=False).returncode:
        raise Refused("the database could not be brought up to date; the lines above say why")
    stamp.write_text(made_from.hexdigest(), encoding="utf-8")


def _await(port: int, web: subprocess.Popen[bytes]) -> None:
    """Wait until the web server listens."""
    until = time.monotonic() + READY_S
    while web.poll() is None and time.monotonic() < until:
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.05)
    raise Refused("the web server does not listen; the lines above say why")


def _stop(process: subprocess.Popen[bytes] | None) -> None:
    if process is not None and process.poll() is None:
        process.terminate()
        try:
            process.wait(STOP_S)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _bury(process: subprocess.Popen[bytes]) -> None:
    """End whatever a killed process left behind: its children would hold its port."""
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(process.pid, signal.SIGKILL)


def _web(env: dict[str, str], port: int) -> subprocess.Popen[bytes]:
    """The web server."""
    command = [sys.executable, "-m", "gunicorn", "--preload", "--workers=2", "--threads=4"]
    command += ["--no-control-socket", f"--bind=127.0.0.1:{port}", "--worker-tmp-dir=/dev/shm"]
    command += ["--graceful-timeout=5", "--log-level=warning", "web.project.wsgi:application"]
    return subprocess.Popen(
        command, env=env, cwd=ROOT, start_new_session=True, preexec_fn=die_with_parent
    )


def _worker(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """The process that runs searches from the queue, behind the pages in what it gets of a core."""

    def behind() -> None:
        die_with_parent()
        os.nice(NICE)

    command = [sys.executable, str(ROOT / "manage.py"), "db_worker", "--interval=0.2"]
    return subprocess.Popen(
        [*command, "--no-startup-delay", "--verbosity=0"],
        env=env,
        cwd=ROOT,
        start_new_session=True,
        preexec_fn=behind,
    )


def _reader(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """The process that reads the meters on the wire."""
    return subprocess.Popen(
        [sys.executable, str(ROOT / "manage.py"), "read_meters"],
        env=env,
        cwd=ROOT,
        start_new_session=True,
        preexec_fn=die_with_parent,
    )


def _simulated_meter(port: int) -> subprocess.Popen[bytes]:
    """The demo's meter, on a port of its own."""
    command = [sys.executable, "-m", "ironmargin_meter", str(METERED), f"--port={port}"]
    return subprocess.Popen(command, cwd=ROOT, start_new_session=True, preexec_fn=die_with_parent)


def _broker(port: int) -> subprocess.Popen[bytes] | None:
    """An MQTT broker on loopback for the demo's meter; without a configuration it listens nowhere
    else. None where it is not installed.
    """
    program = shutil.which("mosquitto", path=os.environ.get("PATH", "") + ":/usr/sbin")
    if program is None:
        return None
    return subprocess.Popen(
        [program, "-p", str(port)],
        stderr=subprocess.DEVNULL,
        cwd=ROOT,
        start_new_session=True,
        preexec_fn=die_with_parent,
    )


def _publisher(port: int) -> subprocess.Popen[bytes]:
    """The demo's meter once more, publishing to that broker."""
    command = [sys.executable, "-m", "ironmargin_meter", str(METERED), f"--mqtt=127.0.0.1:{port}"]
    return subprocess.Popen(command, cwd=ROOT, start_new_session=True, preexec_fn=die_with_parent)


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _nightly(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """What is done once a night, beside the pages."""
    return subprocess.Popen(
        [sys.executable, str(ROOT / "manage.py"), "nightly"],
        env=env,
        cwd=ROOT,
        stdout=subprocess.DEVNULL,
        preexec_fn=die_with_parent,
    )


def _may_lose(fresh_asked: bool) -> bool:
    """Whether what is kept may be deleted: asked where somebody can answer."""
    if not (VAR / "db").exists() or fresh_asked:
        return True
    if not sys.stdin.isatty():
        return False
    print(f"This deletes every account and everything kept in {VAR / 'db'}, for good.")
    return input("Type yes to do it: ").strip().lower() == "yes"


def _moved(database: Database) -> bool:
    """Start the database server again; whether it answers somewhere else now.

    A full disk or a folder that is away is no end: the pages say so, and it is tried again.
    """
    try:
        was = database.port
        database.start()
        return database.port != was
    except (DatabaseError, OSError, ValueError) as error:
        print(f"not yet: {error}", file=sys.stderr, flush=True)
        return False


def _interrupt(number: int, frame: types.FrameType | None) -> None:
    raise KeyboardInterrupt


def serve(fresh: bool, sure: bool) -> int:
    """Run until told to stop."""
    port = _port()
    if fresh and not _may_lose(sure):
        raise Refused("nothing was deleted; ./start --fresh --yes deletes without asking")
    if fresh:
        for name in ("db", "static", "secret_key"):
            shutil.rmtree(VAR / name, ignore_errors=True) if (VAR / name).is_dir() else (
                VAR / name
            ).unlink(missing_ok=True)
    _room()
    secret_key(VAR)
    database = Database(VAR / "db")
    web: subprocess.Popen[bytes] | None = None
    worker: subprocess.Popen[bytes] | None = None
    reader: subprocess.Popen[bytes] | None = None
    simulated: subprocess.Popen[bytes] | None = None
    nightly: subprocess.Popen[bytes] | None = None
    publisher: subprocess.Popen[bytes] | None = None
    meter_port, broker_port = _free_port(), _free_port()
    broker = _broker(broker_port)
    env = os.environ | {
        "IRONMARGIN_DEMO": os.environ.get("IRONMARGIN_DEMO", "1"),
        "IRONMARGIN_METER_SIMULATED": f"127.0.0.1:{meter_port}",
        "IRONMARGIN_METER_BROKER": f"127.0.0.1:{broker_port}" if broker is not None else "",
        "IRONMARGIN_METER_NETS": os.environ.get("IRONMARGIN_METER_NETS", HOME_NETS),
        "IRONMARGIN_VAR": str(VAR),
        "DJANGO_SETTINGS_MODULE": "web.project.settings",
        "PYTHONPATH": str(ROOT),
    }
    try:
        database.initialise()
        database.start()
        _prepare(env)
        web = _web(env, port)
        _await(port, web)
        worker = _worker(env)
        reader = _reader(env)
        simulated = _simulated_meter(meter_port)
        publisher = _publisher(broker_port) if broker is not None else None
        print(f"Iron Margin is at http://127.0.0.1:{port}/  (Ctrl-C stops it)", flush=True)
        night = time.monotonic() + DAY_S
        died: list[float] = []
        while True:
            if time.monotonic() >= night:
                night += DAY_S
                nightly = _nightly(env)
            if web.poll() is not None:
                died.append(time.monotonic())
                print("the web server died; starting it again", file=sys.stderr, flush=True)
                if len(died) >= MAX_DEATHS and died[-1] - died[-MAX_DEATHS] < DEATHS_S:
                    print("it stops again and again; the lines above say why", file=sys.stderr)
                    time.sleep(PAUSE_S)
                _bury(web)
                web = _web(env, port)
            if worker.poll() is not None:
                print("the worker died; starting it again", file=sys.stderr, flush=True)
                worker = _worker(env)
            if reader.poll() is not None:
                print("the meter reader died; starting it again", file=sys.stderr, flush=True)
                reader = _reader(env)
            if database.process is None or database.process.poll() is not None:
                print("the database server died; starting it again", file=sys.stderr, flush=True)
                if _moved(database):  # who knew it there looks for it where it is now
                    for process in (web, worker, reader):
                        _stop(process)
                    web, worker, reader = _web(env, port), _worker(env), _reader(env)
            try:
                web.wait(1.0)
            except subprocess.TimeoutExpired:
                continue
    except KeyboardInterrupt:
        return 0
    finally:
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, signal.SIG_IGN)
        _stop(web)
        _stop(worker)
        _stop(reader)
        _stop(simulated)
        _stop(publisher)
        _stop(broker)
        _stop(nightly)
        database.close()


def main() -> int:
    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
        signal.signal(number, _interrupt)
    words = sys.argv[1:]
    if any(w not in ("--fresh", "--yes") for w in words):
        print("usage: ./start [--fresh [--yes]]", file=sys.stderr)
        return 2
    try:
        return serve("--fresh" in words, "--yes" in words)
    except (Refused, DatabaseError) as error:
        print(f"start: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 0


if __name__ == "__main__":
    sys.exit(main())
