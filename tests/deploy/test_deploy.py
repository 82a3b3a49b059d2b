"""Every unit of deploy/ and a real nginx before the site: what goes through them, and what a web
server that dies costs those who are sending.
"""

from __future__ import annotations

import http.client
import json
import re
import select
import ssl
import subprocess
import sys
import tempfile
import threading
import unittest
from contextlib import ExitStack
from http.cookies import SimpleCookie
from pathlib import Path
from urllib.parse import urlencode

from tests.deploy.units import ROOT, Proxy, Unit
from tools.database import free_port, throwaway

IDLE_S = 3.0
"""Longer than a web server holds a connection by itself (gunicorn: two seconds)."""
PASSWORD = "only-on-this-site"
OWNER = (
    "from django.contrib.auth.models import User; "
    f"User.objects.create_user('owner', password={PASSWORD!r})"
)
STORED = ("worker", "meters", "metrics")
PATIENCE_S = 120.0


class Browser:
    """One connection with what a browser keeps of a site."""

    def __init__(self, port: int) -> None:
        unchecked = ssl._create_unverified_context()
        self.link = http.client.HTTPSConnection(
            "127.0.0.1", port, context=unchecked, timeout=PATIENCE_S
        )
        self.cookies: dict[str, str] = {}

    def ask(
        self, method: str, path: str, body: bytes | None = None, kind: str = ""
    ) -> tuple[int, bytes, http.client.HTTPMessage]:
        headers = {"Host": "ironmargin.example", "Referer": "https://ironmargin.example/"}
        if self.cookies:
            headers["Cookie"] = "; ".join(f"{k}={v}" for k, v in self.cookies.items())
        if kind:
            headers["Content-Type"] = kind
        self.link.request(method, path, body, headers)
        answer = self.link.getresponse()
        for words in answer.headers.get_all("Set-Cookie") or []:
            self.cookies |= {key: morsel.value for key, morsel in SimpleCookie(words).items()}
        return answer.status, answer.read(), answer.headers

    def post(self, path: str, **fields: str) -> tuple[int, bytes, http.client.HTTPMessage]:
        body = urlencode(fields | {"csrfmiddlewaretoken": self.token()}).encode()
        return self.ask("POST", path, body, "application/x-www-form-urlencoded")

    def token(self) -> str:
        return next(v for k, v in self.cookies.items() if "csrftoken" in k)

    def upload(self, path: str, name: str, raw: bytes) -> int:
        edge = "edge-of-a-part"
        parts = [
            f'--{edge}\r\nContent-Disposition: form-data; name="csrfmiddlewaretoken"\r\n\r\n'
            f"{self.token()}\r\n--{edge}\r\nContent-Disposition: form-data; "
            f'name="{name}"; filename="account.zip"\r\n\r\n'.encode(),
            raw,
            f"\r\n--{edge}--\r\n".encode(),
        ]
        kind = f"multipart/form-data; boundary={edge}"
        return self.ask("POST", path, b"".join(parts), kind)[0]

    def announce(self, path: str, many: int) -> int:
        """What a body of so many bytes is answered before any of it is sent."""
        headers = {"Host": "ironmargin.example", "Content-Length": str(many)}
        self.link.request("POST", path, headers=headers)
        return self.link.getresponse().status


class Deployed(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.stack = ExitStack()
        cls.addClassCleanup(cls.stack.close)
        env = cls.stack.enter_context(
            throwaway(
                IRONMARGIN_TLS="1", IRONMARGIN_DEMO="0", IRONMARGIN_PROXIES="1",
                IRONMARGIN_HOSTS="ironmargin.example", IRONMARGIN_DEADLINE_S="60",
                IRONMARGIN_METRICS_PORT=str(free_port()),
            )
        )  # fmt: skip
        env["IRONMARGIN_METRICS_DIR"] = f"{env['IRONMARGIN_VAR']}/metrics"
        cls.folder = Path(cls.stack.enter_context(tempfile.TemporaryDirectory(prefix="im-deploy-")))
        cls.units = {name: Unit(name, env, cls.folder) for name in ("web", *STORED, "nightly")}
        port = free_port()
        cls.web = cls.units["web"]
        cls.web.hold(port)
        cls.web.start()
        cls.stack.callback(cls.web.stop)
        cls.proxy = Proxy(cls.folder, port)
        cls.stack.callback(cls.proxy.stop)
        cls.wait_ready()
        shell = [sys.executable, "manage.py", "shell", "-c", OWNER]
        subprocess.run(shell, cwd=ROOT, env=env, check=True, capture_output=True)
        for name in STORED:
            cls.units[name].start()
            cls.stack.callback(cls.units[name].stop)

    @classmethod
    def wait_ready(cls) -> None:
        """Until a page comes through the proxy: it waits in the socket, so one answer is enough."""
        while True:
            try:
                status, _, _ = Browser(cls.proxy.secure).ask("GET", "/ready")
            except ConnectionRefusedError:  # nginx has not begun to listen
                assert cls.proxy.process.poll() is None, "nginx does not take its file"
                continue
            if status == 200:
                return
            assert status in (502, 504), status
            assert cls.web.process is not None
            assert cls.web.deaths < 5, "the web server does not start"

    def entered(self) -> Browser:
        """Somebody who signed in."""
        person = Browser(self.proxy.secure)
        self.addCleanup(person.link.close)
        person.ask("GET", "/account/sign-in/")
        status, _, headers = person.post("/account/sign-in/", username="owner", password=PASSWORD)
        self.assertEqual((status, headers["Location"]), (302, "/setups/"))
        return person

    def test_pages_come_over_tls_and_files_are_kept(self) -> None:
        person = Browser(self.proxy.secure)
        self.addCleanup(person.link.close)
        status, page, headers = person.ask("GET", "/account/sign-in/")
        self.assertEqual(status, 200)
        self.assertIn("max-age=", headers["Strict-Transport-Security"])
        self.assertRegex(headers["X-Request-ID"], r"^[0-9a-f]{32}$")
        style = re.search(rb'href="(/static/design/app\.[0-9a-f]+\.css)"', page)
        assert style is not None
        status, css, headers = person.ask("GET", style[1].decode())
        self.assertEqual(status, 200)
        self.assertIn("immutable", headers["Cache-Control"])
        self.assertIn(b"--iron", css)
        plain = http.client.HTTPConnection("127.0.0.1", self.proxy.plain, timeout=PATIENCE_S)
        self.addCleanup(plain.close)
        plain.request("GET", "/board/?a=1", headers={"Host": "ironmargin.example"})
        answer = plain.getresponse()
        self.assertEqual(answer.status, 301)
        self.assertEqual(answer.headers["Location"], "https://ironmargin.example/board/?a=1")

    def test_a_post_after_idle_seconds_arrives(self) -> None:
        person = self.entered()
        sock = person.link.sock
        # Nobody hangs up meanwhile, neither on the person nor, unseen, on the proxy.
        self.assertEqual(select.select([sock], [], [], IDLE_S)[0], [])
        for _ in range(4):
            status, _, _ = person.post("/account/sign-out/")
            self.assertEqual(status, 302)
            person = self.entered()
        self.assertNotIn(" 502 ", (self.folder / "access.log").read_text(encoding="utf-8"))

    def test_a_web_server_that_is_killed_loses_no_post(self) -> None:
        """The socket outlives it: who sends meanwhile waits. Only what was in its hands is gone, so
        that nobody sends in the moment of the kill."""
        person = self.entered()
        deaths = self.web.deaths
        for _ in range(2):
            self.web.kill()
            statuses: list[int] = []

            def send(statuses: list[int] = statuses) -> None:
                statuses.append(self.entered().post("/account/sign-out/")[0])

            senders = [threading.Thread(target=send) for _ in range(4)]
            for one in senders:
                one.start()
            for one in senders:
                one.join()
            self.assertEqual(statuses, [302] * 4)
        self.assertEqual(self.web.deaths, deaths + 2)
        status, words, _ = person.ask("GET", "/account/who/")
        self.assertEqual((status, bool(json.loads(words)["who"])), (200, True))
        for status in ("502", "504"):
            self.assertNotIn(f"POST {status} ", (self.folder / "access.log").read_text("utf-8"))

    def test_bodies_have_their_bound_and_an_account_goes_round(self) -> None:
        person = self.entered()
        status, packed, _ = person.ask("GET", "/kept/account.zip")
        self.assertEqual(status, 200)
        self.assertTrue(packed.startswith(b"PK"))
        self.assertIn(person.upload("/kept/account/", "file", packed), (200, 302, 422))
        other = self.entered()
        self.assertEqual(other.announce("/kept/account/", 23_000_000), 413)

    def test_the_other_units_stay_up_and_the_night_ends_well(self) -> None:
        self.assertEqual(self.units["nightly"].run(), [0, 0])
        self.assertTrue((self.folder / "nightly.sql.gz").exists())
        for name in STORED:
            unit = self.units[name]
            self.assertEqual(unit.deaths, 0, name)
            assert unit.process is not None
            self.assertIsNone(unit.process.poll(), name)


if __name__ == "__main__":
    unittest.main()
