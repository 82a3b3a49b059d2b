"""Readings by the senses: a start heard, a display photographed, and what was kept of them."""

from __future__ import annotations

from collections.abc import Callable

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_POST, require_safe

from ironmargin.case import prepare
from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.setup.model import Setup
from web.accounts.limits import limited, person_of
from web.design.pictures import LARGEST_BYTES as LARGEST_PHOTO
from web.design.pictures import NotAPicture
from web.logbook import display as displays
from web.logbook import evidence, hearing, sounded
from web.logbook.models import Evidence
from web.logbook.service import PREFIX
from web.logbook.views import page_with
from web.verdicts.sound import sound_setup


def _sent(request: HttpRequest, name: str, maximum: int, what: str) -> bytes:
    """The file that was sent.

    Raises:
        NotAPicture: none was, or it is too large.
    """
    file = request.FILES.get(name)
    if file is None or not file.size:
        raise NotAPicture(f"{what} first")
    if file.size > maximum:
        raise NotAPicture(f"it must be at most {maximum // 1_000_000} MB (got {file.size:,} bytes)")
    raw: bytes = file.read()
    return raw


def _sensed(
    request: HttpRequest,
    pk: int,
    setup: Setup,
    key: str,
    look: Callable[[], tuple[dict[str, str], Document]],
) -> HttpResponse:
    """The log's page with what a sense found, or with why it found nothing; what was typed stays.

    Args:
        look: gives the figures for the form, and what the page shows of it.
    """
    try:
        filled, shown = look()
    except NotAPicture as why:
        fault = Fault(key, "unclear", f"{why}.")
        return page_with(request, pk, setup, [fault], sense_fault=True)
    return page_with(request, pk, setup, [], filled=filled, **shown)


@limited("photo", by=person_of)
@require_POST
def sound(request: HttpRequest, pk: int) -> HttpResponse:
    """A start heard: what is sure goes into the form, with the picture it was found on."""
    _, setup = sound_setup(request, pk)

    def look() -> tuple[dict[str, str], Document]:
        raw = _sent(request, "sound", hearing.LARGEST_BYTES, "record the start")
        sets = setup.supply.engines
        line_hz = prepare(setup).source.frequency_hz
        drawn = hearing.read(raw, line_hz, bool(sets))
        conventional = bool(sets) and not any(u.inverter for u in sets)
        filled = hearing.figures(drawn.found, line_hz, conventional)
        return filled, {"heard": drawn, "kept_here": evidence.packed("sound", raw)}

    return _sensed(request, pk, setup, "sound", look)


@require_safe
def sounding(request: HttpRequest, pk: int) -> HttpResponse:
    """How a load's start should sound, by the check: the stand-in for a microphone."""
    saved, setup = sound_setup(request, pk)
    made = sounded.wav_of(setup, request.GET.get("load", "")[:60])
    if made is None:
        raise Http404
    answer = HttpResponse(made, content_type="audio/wav")
    answer["Content-Disposition"] = f'inline; filename="start-{saved.pk}.wav"'
    return answer


@limited("photo", by=person_of)
@require_POST
def display(request: HttpRequest, pk: int) -> HttpResponse:
    """A display photographed: its figure goes into the form where it is sure."""
    _, setup = sound_setup(request, pk)

    def look() -> tuple[dict[str, str], Document]:
        raw = _sent(request, "display", LARGEST_PHOTO, "choose a photograph")
        kind = request.POST.get("kind", "start")
        seen = displays.read(raw)
        filled = displays.figures(seen, kind)
        fields = displays.fields_of(seen, kind)
        return filled, {
            "seen": seen,
            "seen_filled": bool(filled),
            "seen_fields": [(f"{PREFIX}.{field}", unit) for field, unit in fields],
            "kept_here": evidence.packed("photo", raw),
        }

    return _sensed(request, pk, setup, "display", look)


@require_safe
def evidence_raw(request: HttpRequest, pk: int, entry: int) -> HttpResponse:
    """A photograph or a sound, as it is kept."""
    saved, _ = sound_setup(request, pk)
    held = get_object_or_404(Evidence, entry__setup=saved, entry__deleted_at=None, entry=entry)
    answer = HttpResponse(bytes(held.raw), content_type=evidence.TYPES[held.kind])
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    end = "jpg" if held.kind == "photo" else "wav"
    answer["Content-Disposition"] = f'inline; filename="kept.{end}"'
    return answer
