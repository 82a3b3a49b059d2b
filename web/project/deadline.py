"""A deadline on every request: what takes too long is ended and its core is free again.

One thread of each process watches. Of a request past its deadline it raises :class:`TookTooLong` in
the request's own thread, where Python next looks: between two runs of the start engine, two rows,
two tags of a template. What the request had begun in the database is rolled back by that.
"""

from __future__ import annotations

import ctypes
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from web.api.wire import problem

LOOKS_EACH_S = 0.2
AGAIN_S = "60"
ADVICE = (
    "This took longer than a page may, so it was stopped; nothing was changed by it. Try it with "
    "fewer loads at once, or in a minute."
)


class TookTooLong(BaseException):
    """A request past its deadline; no error of the program, so that nothing on the way mends it."""


@dataclass(eq=False)
class Asked:
    """A request under way: its thread, when it must be over, whether it was told to stop."""

    thread: int
    until: float
    told: bool = False


class Watch:
    """The requests of this process and their deadlines."""

    def __init__(self) -> None:
        self.asked: list[Asked] = []
        self.changed = threading.Condition()
        self.thread: threading.Thread | None = None

    def begin(self) -> Asked:
        """Watch the request of this thread from now on."""
        one = Asked(threading.get_ident(), time.monotonic() + settings.DEADLINE_S)
        with self.changed:
            if self.thread is None or not self.thread.is_alive():  # a forked process has none
                self.thread = threading.Thread(target=self._look, daemon=True)
                self.thread.start()
            self.asked.append(one)
            self.changed.notify()
        return one

    def end(self, one: Asked) -> None:
        """It is over: from here on nothing is raised in its thread any more."""
        with self.changed:
            if one in self.asked:
                self.asked.remove(one)
            if one.told:
                _raise_in(one.thread, None)

    def _look(self) -> None:
        while True:
            with self.changed:
                while not self.asked:
                    self.changed.wait()
                now = time.monotonic()
                for one in self.asked:
                    if one.until < now and not one.told:
                        one.told = True
                        _raise_in(one.thread, TookTooLong)
            time.sleep(LOOKS_EACH_S)


def _raise_in(thread: int, error: type[BaseException] | None) -> None:
    """Raise in another thread, or take back what it has not met yet."""
    what = ctypes.py_object(error) if error is not None else None
    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), what)


WATCH = Watch()


def ends_in_time(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Answer in words where a request takes too long. What streams has its own bounds."""

    def respond(request: HttpRequest) -> HttpResponse:
        one = WATCH.begin()
        try:
            try:
                return answer(request)
            finally:
                WATCH.end(one)
        except TookTooLong:
            WATCH.end(one)  # it may have struck before that was done
            # Whatever the database was saying when it was stopped, nobody reads it to its end.
            connection.close()
            if request.path.startswith("/api/"):
                said: HttpResponse = problem(503, "Took too long", ADVICE, Retry_After=AGAIN_S)
                return said
            page = render_to_string("design/broken.html", {"slow": ADVICE})
            return HttpResponse(page, status=503, headers={"Retry-After": AGAIN_S})

    return respond
