"""A setup's meter: where it answers, a live strip of what it shows, the starts it caught."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator, Mapping

from django.conf import settings
from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.crypto import get_random_string
from django.views.decorators.http import require_POST, require_safe

from ironmargin.document import Document
from ironmargin_meter.registers import MAP
from web.accounts.access import account_of
from web.accounts.demo import is_demo
from web.design.context import Context
from web.design.typed import typed_figure
from web.meter import forms
from web.meter.models import SIMULATED, Meter
from web.verdicts.sound import sound_setup

LOOK_EVERY_S, STREAM_S = 0.25, 50.0
STREAMS = threading.BoundedSemaphore(2)
"""Streams one web process holds open: each has a thread of it. Who finds none free polls."""


def _context(
    request: HttpRequest, pk: int, fault: str = "", typed: Mapping[str, str] | None = None
) -> Context:
    saved, setup = sound_setup(request, pk)
    meter = Meter.objects.filter(setup=saved).first()
    typed = typed or forms.shown(meter)
    return {
        "saved": saved,
        "meter": meter,
        "loads": setup.rig.loads,
        "once": get_random_string(16),
        "simulated": bool(settings.METER_SIMULATED),
        "broker": bool(settings.METER_BROKER),
        "registers": MAP,
        "fixed": is_demo(account_of(request)),
        "typed": typed,
        "fault": fault,
        "map": forms.rows(typed),
    }


@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The meter."""
    return render(request, "meter/page.html", _context(request, pk))


@require_POST
def store(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep where the meter answers."""
    saved, _ = sound_setup(request, pk)
    typed = forms.typed_of(request.POST)
    found, fault = forms.read(typed, "simulated" in request.POST)
    if not fault and is_demo(account_of(request)) and found.get("host") != SIMULATED:
        fault = "the demo reads only the simulated meter; make your own account for yours"
    if fault:
        context = _context(request, pk, fault=fault, typed=typed)
        return render(request, "meter/page.html", context, status=422)
    old = Meter.objects.filter(setup=saved).first()
    if (
        old is not None
        and not found["password"]
        and found["user"] == old.user
        and (found["host"], found["port"]) == (old.host, old.port)
    ):
        found["password"] = old.password  # it is never shown, so it comes back empty
    fresh = found | {"wanted_at": None}
    Meter.objects.update_or_create(
        setup=saved, defaults=fresh | {"readings": [], "state": "waiting", "words": ""}
    )
    messages.success(request, "Saved.")
    return redirect("meter", pk=saved.pk)


@require_POST
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    """Forget the meter."""
    saved, _ = sound_setup(request, pk)
    Meter.objects.filter(setup=saved).delete()
    return redirect("meter", pk=saved.pk)


def _plain(meter: Meter, after: float = 0.0) -> Document:
    return {
        "state": meter.state,
        "words": meter.words,
        "beat": meter.beat,
        "readings": [r for r in meter.readings if r[0] > after],
        "caught": meter.caught,
    }


def _looked(pk: int) -> Meter | None:
    """A meter as it stands, noted as looked at."""
    Meter.objects.filter(pk=pk).update(wanted_at=timezone.now())
    return Meter.objects.filter(pk=pk).first()


@require_safe
def readings(request: HttpRequest, pk: int) -> HttpResponse:
    """What the meter shows, as plain data: the last half minute, or what came after a moment."""
    saved, _ = sound_setup(request, pk)
    meter = _looked(get_object_or_404(Meter, setup=saved).pk)
    after = typed_figure(request.GET.get("after")) or 0.0
    return JsonResponse(_plain(meter, after) if meter is not None else {"state": "gone"})


@require_safe
def stream(request: HttpRequest, pk: int) -> HttpResponse | StreamingHttpResponse:
    """The same as it comes, as server-sent events, for a minute at a time."""
    saved, _ = sound_setup(request, pk)
    meter = get_object_or_404(Meter, setup=saved)
    if not STREAMS.acquire(blocking=False):
        return HttpResponse("Every stream is taken; ask for the readings.", status=204)
    answer = StreamingHttpResponse(_Events(meter.pk), content_type="text/event-stream")
    answer["Cache-Control"] = "no-store"
    answer["X-Accel-Buffering"] = "no"
    answer["Content-Encoding"] = "identity"  # compressing would hold the events back
    return answer


class _Events:
    """The events of one stream; its place is given back when it ends, whoever ends it."""

    def __init__(self, pk: int) -> None:
        self.lines = self._lines(pk)
        self.freed = False

    def __iter__(self) -> Iterator[str]:
        return self.lines

    def _lines(self, pk: int) -> Iterator[str]:
        until = time.monotonic() + STREAM_S
        beat, last = -1, 0.0
        while time.monotonic() < until:
            meter = _looked(pk)
            if meter is None:
                return
            if meter.beat != beat:
                beat = meter.beat
                yield f"data: {json.dumps(_plain(meter, last))}\n\n"
                last = meter.readings[-1][0] if meter.readings else last
            time.sleep(LOOK_EVERY_S)

    def close(self) -> None:
        """Give the place back."""
        self.lines.close()  # type: ignore[attr-defined]
        if not self.freed:
            self.freed = True
            STREAMS.release()
