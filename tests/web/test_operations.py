"""Running it for others: settings, logs, figures, limits, backups, what deploy/ holds."""

from __future__ import annotations

import configparser
import gzip
import io
import json
import logging
import re
import shutil
import subprocess
import tempfile
import threading
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import crossplane
import yaml
from django.contrib.auth.models import User
from django.core import mail
from django.core.management import CommandError, call_command, get_commands
from django.db import connection, transaction
from django.test import (
    RequestFactory,
    SimpleTestCase,
    TestCase,
    TransactionTestCase,
    override_settings,
)
from django.urls import reverse

from tests.shared import document
from web.accounts.limits import address_of, allowed
from web.accounts.models import Tally
from web.project import environment
from web.project.logs import REQUEST, logging_of, request_id_of
from web.rigs.models import Rig
from web.setups import judging, repository
from web.setups.demo import load_demo, reset_demo
from web.setups.models import SavedSetup
from web.storage.backup import BackupError, dump, load, verify

ROOT = Path(__file__).resolve().parents[2]
DEPLOY = ROOT / "deploy"


class Settings(SimpleTestCase):
    def test_each_is_read_and_a_wrong_one_is_named_in_one_line(self) -> None:
        found = environment.read({"IRONMARGIN_PROXIES": "2", "IRONMARGIN_HOSTS": "a, b"})
        self.assertEqual((found["IRONMARGIN_PROXIES"], found["IRONMARGIN_HOSTS"]), (2, ["a", "b"]))
        for name, bad, rule in (
            ("IRONMARGIN_PROXIES", "many", "must be a whole number from 0 to 5"),
            ("IRONMARGIN_TLS", "yes", "must be 0 or 1"),
            ("IRONMARGIN_METER_NETS", "10.0.0.1/8", "must be networks as 192.168.0.0/16"),
            ("IRONMARGIN_LOG", "xml", "must be one of: plain, json"),
            ("IRONMARGIN_MAIL_PORT", "0", "must be a whole number from 1 to 65535"),
            ("IRONMARGIN_DB_PASSWORD_FILE", "/nowhere", "must name a file that can be read"),
        ):
            with self.assertRaises(environment.Wrong) as caught:
                environment.read({name: bad})
            self.assertIn(f"{name} {rule}", str(caught.exception))
            self.assertNotIn("\n", str(caught.exception))

    def test_a_command_ends_with_that_line(self) -> None:
        python = str(ROOT / ".venv" / "bin" / "python")
        done = subprocess.run(
            [python, "manage.py", "check"], cwd=ROOT, capture_output=True, text=True, check=False,
            env={"IRONMARGIN_TLS": "maybe", "PATH": "/usr/bin:/bin"},
        )  # fmt: skip
        self.assertEqual(done.returncode, 1)
        self.assertEqual(
            done.stderr.strip(), "settings: IRONMARGIN_TLS must be 0 or 1 (got 'maybe')"
        )

    def test_the_documented_table_is_this_one(self) -> None:
        words = (ROOT / "docs" / "operations.md").read_text(encoding="utf-8")
        self.assertIn(environment.as_markdown(), words)

    def test_the_demo_is_shut_where_nobody_opened_it(self) -> None:
        self.assertFalse(environment.read({})["IRONMARGIN_DEMO"])


class Logs(TestCase):
    def test_a_line_of_json_says_the_address_by_name_and_nothing_posted(self) -> None:
        config = logging_of("json", testing=False)
        handler = logging.StreamHandler(io.StringIO())
        made = logging.config.DictConfigurator(config)  # type: ignore[attr-defined]
        parts: Any = config
        handler.setFormatter(made.configure_formatter(parts["formatters"]["line"]))
        handler.addFilter(made.configure_filter(parts["filters"]["request"]))
        log = logging.getLogger("ironmargin.request")
        log.addHandler(handler)
        level = log.level
        log.setLevel(logging.INFO)
        try:
            posted = {"username": "meadow", "password": "wet-clay-and-iron"}
            answer = self.client.post(
                reverse("sign-in") + "?next=/rigs/seventy-seven/",
                posted,
                headers={"x-request-id": "abc-1"},
            )
        finally:
            log.removeHandler(handler)
            log.setLevel(level)
        line = json.loads(handler.stream.getvalue())
        self.assertEqual((line["route"], line["method"], line["status"]), ("sign-in", "POST", 200))
        self.assertEqual((line["request_id"], answer["X-Request-ID"]), ("abc-1", "abc-1"))
        self.assertEqual(REQUEST.get(), "")
        for word in ("meadow", "wet-clay", "seventy"):
            self.assertNotIn(word, handler.stream.getvalue())

    def test_an_id_that_is_no_id_is_not_taken(self) -> None:
        for said in ("a\nb", "x" * 41, "<b>", "ünï", ""):
            request = RequestFactory().get("/", headers={"x-request-id": said})
            self.assertRegex(request_id_of(request), "^[0-9a-f]{16}$")


class Metrics(SimpleTestCase):
    def test_what_one_process_counted_another_serves(self) -> None:
        script = """
import os, sys
import django
django.setup()
from django.test import RequestFactory
from django.http import HttpResponse
from django.urls import resolve
from web.project.metrics import count_requests
def answer(request):
    request.resolver_match = resolve("/health")
    return HttpResponse("x")
respond = count_requests(answer)
for _ in range(3):
    respond(RequestFactory().get("/health"))
"""
        python = str(ROOT / ".venv" / "bin" / "python")
        with tempfile.TemporaryDirectory() as folder:
            env = {
                "IRONMARGIN_METRICS_DIR": folder, "DJANGO_SETTINGS_MODULE": "web.project.settings",
                "IRONMARGIN_TESTING": "1", "PYTHONPATH": str(ROOT), "PATH": "/usr/bin:/bin",
            }  # fmt: skip
            subprocess.run([python, "-c", script], cwd=ROOT, env=env, check=True)
            read = (
                "from prometheus_client import CollectorRegistry, generate_latest\n"
                "from prometheus_client.multiprocess import MultiProcessCollector\n"
                "r = CollectorRegistry(); MultiProcessCollector(r)\n"
                "print(generate_latest(r).decode())"
            )
            done = subprocess.run(
                [python, "-c", read], capture_output=True, text=True, check=True,
                env=env | {"PROMETHEUS_MULTIPROC_DIR": folder},
            )  # fmt: skip
        self.assertIn(
            'ironmargin_requests_total{method="GET",route="health",status="200"} 3.0', done.stdout
        )
        self.assertIn('ironmargin_request_seconds_count{route="health"} 3.0', done.stdout)


class Limits(TestCase):
    def test_tries_count_by_who_and_begin_anew(self) -> None:
        at = datetime(2026, 7, 4, 12, 0, 1, tzinfo=UTC)
        self.assertEqual([allowed("x", "a", 2, 60, at) for _ in range(3)], [True, True, False])
        self.assertTrue(allowed("x", "b", 2, 60, at))
        self.assertTrue(allowed("y", "a", 2, 60, at))
        self.assertFalse(allowed("x", "a", 2, 60, at.replace(second=59)))
        self.assertTrue(allowed("x", "a", 2, 60, at.replace(minute=1, second=0)))
        self.assertEqual(Tally.objects.count(), 3)

    def test_the_address_is_the_proxys_word_only_behind_one(self) -> None:
        said = {"HTTP_X_FORWARDED_FOR": "6.6.6.6, 9.9.9.9", "REMOTE_ADDR": "10.0.0.1"}
        request = RequestFactory().get("/", **said)
        self.assertEqual(address_of(request), "10.0.0.1")
        with override_settings(PROXIES=1):  # what the client itself wrote before it is not believed
            self.assertEqual(address_of(request), "9.9.9.9")

    @override_settings(
        LIMITS=dict.fromkeys(
            ("sign-in", "sign-up", "demo", "reset", "invite", "quick-check"), (2, 3600)
        )
    )
    def test_every_door_is_held_and_says_when_to_come_back(self) -> None:
        load_demo()
        for name, posted in (
            ("sign-in", {"username": "x", "password": "y"}),
            ("sign-up", {"username": "x"}),
            ("password-reset", {"email": "a@example.org"}),
            ("enter-demo", {}),
        ):
            for _ in range(2):
                self.assertLess(self.client.post(reverse(name), posted).status_code, 429, name)
            refused = self.client.post(reverse(name), posted)
            self.assertEqual((refused.status_code, refused["Retry-After"]), (429, "3600"), name)
        self.client.logout()
        codes = [self.client.get("/", {"load": "x"}).status_code for _ in range(3)]
        self.assertEqual(codes, [200, 200, 429])
        self.assertEqual(self.client.get("/").status_code, 200)  # looking alone computes nothing

    @override_settings(LIMITS={"reset": (2, 3600)})
    def test_a_mail_box_is_not_flooded_from_many_addresses(self) -> None:
        User.objects.create_user("owner", "owner@example.org", "a-long-enough-word")
        for n in range(6):
            self.client.post(
                reverse("password-reset"), {"email": "OWNER@example.org"}, REMOTE_ADDR=f"9.9.9.{n}"
            )
        self.assertEqual(len(mail.outbox), 2)


class TheDemo(TestCase):
    def test_it_is_made_anew_each_night(self) -> None:
        load_demo()
        demo = User.objects.get(username="demo")
        self.client.force_login(demo)
        before = sorted(SavedSetup.objects.filter(owner=demo).values_list("name", flat=True))
        SavedSetup.objects.filter(owner=demo).first().delete()
        Rig.objects.create(owner=demo, name="left behind", document={})
        other = User.objects.create_user("other")
        Rig.objects.create(owner=other, name="theirs", document={})
        self.assertEqual(reset_demo(), len(before))
        after = SavedSetup.objects.filter(owner=demo).values_list("name", flat=True)
        self.assertEqual(sorted(after), before)
        self.assertEqual(Rig.objects.filter(name="left behind").count(), 0)
        self.assertEqual(Rig.objects.filter(owner=other).count(), 1)
        self.assertEqual(self.client.get(reverse("setups")).status_code, 200)  # still signed in


class BackupAndRestore(TransactionTestCase):
    spare = "test_ironmargin_restored"

    def setUp(self) -> None:
        self.owner = User.objects.create_user("owner")
        self.saved = repository.store(
            self.owner, judging.judge(document(2) | {"rules": {"trials": 0}})
        )
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        self.database = dict(connection.settings_dict)
        with connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE IF EXISTS {self.spare}")
            cursor.execute(f"CREATE DATABASE {self.spare}")
        self.addCleanup(self._drop)

    def _drop(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE IF EXISTS {self.spare}")

    def rows(self, name: str) -> dict[str, Any]:
        """Every table of a database with a checksum of what is in it."""
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT table_name FROM information_schema.tables WHERE table_schema = %s", [name]
            )
            tables = sorted(row[0] for row in cursor.fetchall())
            found = {}
            for table in tables:
                cursor.execute(f"CHECKSUM TABLE `{name}`.`{table}`")
                found[table] = cursor.fetchone()[1]
        return found

    def test_what_is_restored_is_what_was_kept(self) -> None:
        file = self.folder / "a.sql.gz"
        call_command("backup", str(file), stdout=io.StringIO())
        self.assertEqual(file.stat().st_mode & 0o077, 0)
        head = load(self.database | {"NAME": self.spare}, file)
        self.assertIn("accounts", head["migrations"])
        self.assertEqual(self.rows(self.spare), self.rows(self.database["NAME"]))

    def test_it_is_of_one_moment_while_others_write(self) -> None:
        """A writer keeps two rows equal in each transaction; the backup never has them apart."""
        over = threading.Event()
        begun = threading.Event()

        def write() -> None:
            n = 0
            while not over.is_set():
                n += 1
                with transaction.atomic():
                    Rig.objects.update(name=f"n{n}")
                    SavedSetup.objects.update(name=f"n{n}")
                begun.set()
            connection.close()

        thread = threading.Thread(target=write)
        thread.start()
        begun.wait()
        try:
            for n in range(3):
                dump(self.database, self.folder / f"{n}.sql.gz", {})
        finally:
            over.set()
            thread.join()
        for n in range(3):
            words = gzip.decompress((self.folder / f"{n}.sql.gz").read_bytes()).decode()
            self.assertEqual(len(set(re.findall(r"'(n\d+)'", words))), 1, n)

    def test_one_that_is_cut_off_or_none_at_all_is_refused_before_anything_is_lost(self) -> None:
        file = self.folder / "a.sql.gz"
        dump(self.database, file, {})
        raw = file.read_bytes()
        whole = gzip.decompress(raw)
        for name, bad in (
            ("cut", raw[: len(raw) // 2]),
            ("short", gzip.compress(whole[: len(whole) // 2])),
            ("none", gzip.compress(b"SELECT 1;\n-- Dump completed")),
            ("text", b"hello"),
        ):
            path = self.folder / name
            path.write_bytes(bad)
            with self.assertRaises(BackupError):
                verify(path)
            with self.assertRaises(CommandError):
                call_command("restore", str(path), "--over")
        self.assertEqual(SavedSetup.objects.count(), 1)

    def test_a_database_that_holds_something_is_not_written_over_unasked(self) -> None:
        file = self.folder / "a.sql.gz"
        dump(self.database, file, {})
        with self.assertRaisesRegex(CommandError, "restore into an empty one"):
            call_command("restore", str(file))
        Rig.objects.all().update(name="later")
        said = io.StringIO()
        call_command("restore", str(file), "--over", stdout=said)
        self.assertIn("restored as it was at", said.getvalue())
        self.assertNotEqual(Rig.objects.get().name, "later")

    def test_a_wrong_password_is_said_and_no_half_file_stays(self) -> None:
        with self.assertRaises(BackupError):
            dump(self.database | {"PASSWORD": "wrong"}, self.folder / "a.sql.gz", {})
        self.assertEqual(list(self.folder.iterdir()), [])


class Deploy(SimpleTestCase):
    """Each file of deploy/ is what its reader takes, and speaks of what is there."""

    known = frozenset(row.name for row in environment.TABLE)

    def commands(self, words: str) -> set[str]:
        return set(re.findall(r"manage\.py\W+([a-z_]+)", words))

    def test_the_proxy_gives_a_connection_up_before_the_web_server_does(self) -> None:
        """Else a POST on a connection that was just closed is a 502: gunicorn holds one for two
        seconds unless told, nginx for sixty (their manuals, from memory).
        """
        proxy = re.search(r"keepalive_timeout (\d+)s", (DEPLOY / "nginx.conf").read_text("utf-8"))
        server = re.search(r"--keep-alive (\d+)", (DEPLOY / "web.sh").read_text("utf-8"))
        assert proxy is not None
        assert server is not None
        self.assertGreater(int(server[1]), int(proxy[1]) + 5)

    def test_units_are_what_systemd_takes(self) -> None:
        units = sorted((DEPLOY / "systemd").iterdir())
        self.assertEqual(len(units), 7)
        for unit in units:
            words = unit.read_text(encoding="utf-8")
            parser = configparser.RawConfigParser(strict=False)
            parser.optionxform = str  # type: ignore[assignment]
            parser.read_string(words)
            self.assertTrue(parser.get("Unit", "Description"))
            self.assertLessEqual(self.commands(words), set(get_commands()), unit.name)
            for named in re.findall(r"ironmargin-[a-z]+\.(?:service|socket)", words):
                self.assertTrue((DEPLOY / "systemd" / named).exists(), named)
        analyze = shutil.which("systemd-analyze")
        if analyze:
            done = subprocess.run(
                [analyze, "verify", "--man=no", *map(str, units)],
                capture_output=True, text=True, check=False,
            )  # fmt: skip
            # The paths of an installation are not here; anything else it says is a fault.
            said = [
                line for line in done.stderr.splitlines()
                if "ironmargin" in line and "is not executable" not in line
            ]  # fmt: skip
            self.assertEqual(said, [])

    def test_the_compose_file(self) -> None:
        whole = yaml.safe_load((DEPLOY / "compose.yaml").read_text(encoding="utf-8"))
        services = whole["services"]
        self.assertEqual(set(services), {"database", "web", "worker", "meters", "proxy"})
        for name, service in services.items():
            for needed in service.get("depends_on", {}):
                self.assertIn(needed, services)
            for secret in service.get("secrets", []):
                self.assertIn(secret, whole["secrets"])
            own = {k for k in service.get("environment", {}) if k.startswith("IRONMARGIN")}
            self.assertLessEqual(own, self.known, name)
            command = " ".join(service.get("command", []))
            self.assertLessEqual(self.commands(command), set(get_commands()))
        self.assertTrue((DEPLOY / services["web"]["build"]["context"] / "manage.py").exists())

    def test_the_container_file(self) -> None:
        words = (DEPLOY / "Containerfile").read_text(encoding="utf-8")
        lines = re.sub(r"\\\n", " ", words).splitlines()
        verbs = {line.split()[0] for line in lines if line.strip() and not line.startswith("#")}
        self.assertLessEqual(
            verbs, {"FROM", "RUN", "WORKDIR", "COPY", "USER", "ENV", "EXPOSE", "CMD"}
        )
        self.assertTrue((DEPLOY / "web.sh").stat().st_mode & 0o100)
        self.assertEqual(
            subprocess.run(["sh", "-n", str(DEPLOY / "web.sh")], check=False).returncode, 0
        )

    def test_the_proxy(self) -> None:
        found = crossplane.parse(str(DEPLOY / "nginx.conf"), check_ctx=True, check_args=True)
        errors = [e for e in found["errors"] if "mime.types" not in str(e)]
        self.assertEqual(errors, [])
        words = (DEPLOY / "nginx.conf").read_text(encoding="utf-8")
        for header in ("X-Forwarded-For", "X-Forwarded-Proto", "X-Request-ID"):
            self.assertIn(f"proxy_set_header {header}", words)
