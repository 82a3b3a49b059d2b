"""A deadline on every request, kept by the end of its process.

One thread of each process watches. A request past its deadline is answered in words, by the watch
and over its own socket, which is shut then; its connection to the database is ended, so that what
it had begun there is rolled back. That ends whoever waits for a slow client or for the database.
Where it goes on nevertheless, its process takes no more requests, lets those beside it finish, and
ends, whatever the late one still does. The web server puts another process in its place.

Nothing is thrown into code that runs, so that nothing of ours or of a library has to be ready for
it. The price is a process: a fork of a tenth of a second, and what it had kept in memory.
"""

from __future__ import annotations

import contextlib
import json
import logging
import os
import signal
import socket
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, cast

from django.conf import settings
from django.db import connections
from django.template.loader import render_to_string
from django.urls import Resolver404, resolve

if TYPE_CHECKING:
    from wsgiref.types import StartResponse

LOOKS_EACH_S = 0.2
LETS_GO_S = 2.0
"""How long a late request may take to end by itself once its socket is shut."""
LINGERS_S, GRACE_S = 1.0, 10.0
"""How long a process waits for requests on connections that it has taken on already, and then for
those under way, until it ends.
"""
AGAIN_S = 60
ADVICE = (
    "This took longer than a page may, so it was stopped. Try it with fewer loads at once, or in a "
    "minute. If you were saving something, look whether it is there before you send it again."
)
PROGRAMS = "/api/"
LOG = logging.getLogger("ironmargin.request")

Environ = dict[str, Any]
Application = Callable[[Environ, "StartResponse"], Iterable[bytes]]


@dataclass(eq=False)
class Requested:
    """A request under way: when it must be over, its socket, whether words may be written to that
    as they are, its thread's connection to the database, and who answers it.
    """

    until: float
    path: str
    wire: socket.socket
    plain: bool
    database: Any
    late: bool = False
    answered: bool = False
    lock: threading.Lock = field(default_factory=threading.Lock)

    def claim(self, *, late: bool) -> bool:
        """Take the answer on, as the page or as the watch; whichever comes first has it."""
        with self.lock:
            first = not (self.late or self.answered)
            if first:
                self.late, self.answered = late, not late
            return first


class Watch:
    """The requests of this process and their deadlines."""

    def __init__(self, ends: Callable[[Watch], None]) -> None:
        self.requested: list[Requested] = []
        self.changed = threading.Condition()
        self.thread: threading.Thread | None = None
        self.ends = ends

    def begin(self, environ: Environ) -> Requested:
        """Watch the request of this thread from now on."""
        one = Requested(
            until=time.monotonic() + settings.DEADLINE_S,
            path=str(environ.get("PATH_INFO", "")),
            wire=environ["gunicorn.socket"],
            plain=str(environ.get("SERVER_PROTOCOL", "")).startswith("HTTP/1."),
            database=connections["default"],
        )
        with self.changed:
            if self.thread is None or not self.thread.is_alive():  # a forked process has none
                self.thread = threading.Thread(target=self._look, daemon=True)
                self.thread.start()
            self.requested.append(one)
            self.changed.notify()
        return one

    def forget(self, one: Requested) -> None:
        """A request that was answered is watched no more."""
        with self.changed:
            self.requested.remove(one)
            self.changed.notify()

    def _look(self) -> None:
        while True:
            with self.changed:
                while not self.requested:
                    self.changed.wait()
                over = [one for one in self.requested if one.until < time.monotonic()]
            late = [one for one in over if one.claim(late=True)]
            for one in late:
                _stop(one)
            if late and not self.gone(late, LETS_GO_S):
                self.ends(self)
                return
            time.sleep(LOOKS_EACH_S)

    def gone(self, late: list[Requested], within_s: float) -> bool:
        """Wait for late requests to end by themselves; whether all did. One that waits for the rest
        of what its client sends does so as soon as its socket is shut, one that waits for the
        database as soon as its connection is.
        """
        until = time.monotonic() + within_s
        with self.changed:
            while any(one in self.requested for one in late):
                if time.monotonic() >= until:
                    return False
                self.changed.wait(LOOKS_EACH_S)
        return True

    def others_end(self, within_s: float) -> None:
        """Wait until none but late requests is left."""
        until = time.monotonic() + within_s
        with self.changed:
            while any(not one.late for one in self.requested) and time.monotonic() < until:
                self.changed.wait(LOOKS_EACH_S)


def _stop(one: Requested) -> None:
    """Take a late request's hands off the database, and answer it."""
    LOG.error("%s took too long", route_of(one.path))
    held = one.database.connection
    if held is not None:
        # Whatever becomes of that, the late one is answered and its process ends.
        with contextlib.suppress(Exception):
            with connections["default"].cursor() as cursor:
                cursor.execute("KILL CONNECTION %s", [held.thread_id()])
            connections["default"].close()  # this thread's own
    with contextlib.suppress(OSError):
        if one.plain:
            one.wire.sendall(in_words(one.path))
        one.wire.shutdown(socket.SHUT_RDWR)


def route_of(path: str) -> str:
    """The name of an address, never its numbers."""
    try:
        return str(resolve(path).url_name)
    except Resolver404:
        return "an unknown address"


def in_words(path: str) -> bytes:
    """What a late request is answered with, as it goes over the wire."""
    if path.startswith(PROGRAMS):
        kind = "application/problem+json"
        said = {"type": "about:blank", "title": "Took too long", "status": 503, "detail": ADVICE}
        body = json.dumps(said).encode()
    else:
        kind = "text/html; charset=utf-8"
        body = render_to_string("design/broken.html", {"slow": ADVICE}).encode()
    head = (
        "HTTP/1.1 503 Service Unavailable",
        f"Content-Type: {kind}",
        f"Content-Length: {len(body)}",
        f"Retry-After: {AGAIN_S}",
        "Cache-Control: no-store",
        "X-Content-Type-Options: nosniff",
        "Connection: close",
    )
    return "\r\n".join((*head, "", "")).encode() + body


def end_process(watch: Watch) -> None:
    """End this process once those beside the late request are answered: SIGTERM makes the web
    server's process take no more, but it would wait for the late one, too.
    """
    os.kill(os.getpid(), signal.SIGTERM)
    time.sleep(LINGERS_S)
    watch.others_end(GRACE_S)
    os._exit(0)


def ends_in_time(application: Application, watch: Watch | None = None) -> Application:
    """An application whose requests end in time. What streams has its own bounds once it began. A
    server that lends no socket (Django's own, for trying things) has no deadline.
    """
    watch = watch or Watch(end_process)

    def respond(environ: Environ, start_response: StartResponse) -> Iterable[bytes]:
        if "gunicorn.socket" not in environ:
            return application(environ, start_response)
        one = watch.begin(environ)
        try:
            body: Any = application(environ, start_response)
        except BaseException:
            watch.forget(one)
            raise
        closes = getattr(body, "close", None)

        def close() -> None:
            try:
                if closes is not None:
                    closes()
            finally:
                watch.forget(one)

        if one.claim(late=False):
            body.close = close  # the server calls it once all is written
            return cast(Iterable[bytes], body)
        close()
        return ()  # it was answered as too late: nobody reads this

    return respond
