"""A deadline on every request: what takes too long is ended and its core is free again.

One thread of each process watches. Of a request past its deadline it raises :class:`TookTooLong` in
the request's own thread, where Python next looks: between two runs of the start engine, two rows,
two tags of a template. What the request had begun in the database is rolled back by that.

It may strike only between ``armed`` and ``over``, and never where a request's thread holds the
watch's lock: an exception out of nowhere in there would leave it shut for good. One that was raised
is met, not taken back: CPython would go on looking for it at every step.
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
STEPS_TO_MEET = 1000
AGAIN_S = "60"
ADVICE = (
    "This took longer than a page may, so it was stopped; nothing was changed by it. Try it with "
    "fewer loads at once, or in a minute."
)


class TookTooLong(BaseException):
    """A request past its deadline; no error of the program, so that nothing on the way mends it."""


@dataclass(eq=False)
class Asked:
    """A request under way: its thread, when it must be over; whether it may be struck, is over, was
    told to stop, and whether the watch is just about to tell it.
    """

    thread: int
    until: float
    armed: bool = False
    over: bool = False
    told: bool = False
    telling: bool = False


class Watch:
    """The requests of this process and their deadlines."""

    def __init__(self) -> None:
        self.asked: list[Asked] = []
        self.changed = threading.Condition()
        self.thread: threading.Thread | None = None

    def begin(self) -> Asked:
        """Watch the request of this thread from now on; it is struck only once it is armed."""
        one = Asked(threading.get_ident(), time.monotonic() + settings.DEADLINE_S)
        with self.changed:
            if self.thread is None or not self.thread.is_alive():  # a forked process has none
                self.thread = threading.Thread(target=self._look, daemon=True)
                self.thread.start()
            self.asked.append(one)
            self.changed.notify()
        return one

    def forget(self, one: Asked) -> None:
        """A request that is settled is watched no more."""
        with self.changed:
            self.asked.remove(one)

    def _look(self) -> None:
        while True:
            with self.changed:
                while not self.asked:
                    self.changed.wait()
                for one in self.asked:
                    if one.until < time.monotonic():
                        _tell(one)
            time.sleep(LOOKS_EACH_S)


def _tell(one: Asked) -> None:
    """Raise in a request's thread, once, while it may be struck."""
    one.telling = True
    if one.armed and not one.over and not one.told:
        one.told = True
        thread, error = ctypes.c_ulong(one.thread), ctypes.py_object(TookTooLong)
        ctypes.pythonapi.PyThreadState_SetAsyncExc(thread, error)
    one.telling = False


def settle(one: Asked) -> None:
    """End the time in which a request may be struck; what was raised and is not met yet strikes
    here.

    Raises:
        TookTooLong: that.
    """
    one.over = True
    while one.telling:
        time.sleep(0)
    if one.told:
        for _ in range(STEPS_TO_MEET):
            pass  # at each turn Python looks for it


WATCH = Watch()


def ends_in_time(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Answer in words where a request takes too long. What streams has its own bounds."""

    def respond(request: HttpRequest) -> HttpResponse:
        one, found = WATCH.begin(), None
        try:
            try:
                one.armed = True
                found = answer(request)
            finally:
                settle(one)
        except TookTooLong:
            settle(one)  # it may have struck before that was done
        finally:
            WATCH.forget(one)
        return found if found is not None else _too_long(request)

    return respond


def _too_long(request: HttpRequest) -> HttpResponse:
    # Whatever the database was saying when it was stopped, nobody reads it to its end.
    connection.close()
    if request.path.startswith("/api/"):
        said: HttpResponse = problem(503, "Took too long", ADVICE, Retry_After=AGAIN_S)
        return said
    page = render_to_string("design/broken.html", {"slow": ADVICE})
    return HttpResponse(page, status=503, headers={"Retry-After": AGAIN_S})
