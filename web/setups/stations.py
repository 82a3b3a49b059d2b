"""The stations of the workbench: what may be looked at of one setup, each in one frame.

A station is one folder that registers one row here when the site starts. It owns its view model and
its partial; the frame (``web/verdicts/workbench.py``) owns everything around them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest
from django.urls import reverse

from web.setups.question import Question

LONG = 12
"""Letters of an answer that stand on one line in the largest type."""

Judgment = Mapping[str, Any]
"""What was judged of a question, as a page shows it."""
View = Callable[[HttpRequest, Question, Judgment], Mapping[str, Any]]
"""What a station shows: of a request and a question, with what was judged of it."""


def judged_alone(request: HttpRequest, question: Question, judged: Judgment) -> Judgment:
    """What a station shows that needs nothing but what was judged."""
    return {}


@dataclass(frozen=True)
class Answer:
    """What stands first on a station: one word or figure, one sentence.

    Attributes:
        state: ``holds``, ``thin`` or ``fails`` where the word says so; act, act_url: a button's
        words and where it leads.
    """

    word: str
    sentence: str
    state: str = ""
    act: str = ""
    act_url: str = ""

    @property
    def long(self) -> bool:
        """Whether the word needs a smaller type."""
        return len(self.word) > LONG


@dataclass(frozen=True)
class Station:
    """One station.

    Attributes:
        key: its name in a form; title: its name on the tab.
        place: where its tab stands in the route, 1 the first.
        address: name of the URL that takes a setup's number.
        template: its partial; the frame puts it into the page, or sends it alone.
        view: what the partial shows of a question.
        live: a change of the setup draws the partial anew. Where that would take away what is being
        typed or played, only ``answer`` is.
        answer: template of the answer at its top, where not live.
        script: its own script module, if any.
        urls: the module of its addresses; they stand under its key.
    """

    key: str
    title: str
    place: int
    address: str
    template: str
    view: View = judged_alone
    live: bool = True
    answer: str = ""
    script: str = ""
    urls: str = ""

    def url(self, question: Question) -> str:
        """Where it is shown for a question; empty for one that was never saved."""
        if question.saved is None:
            return reverse("setup-new") if self.place == 1 else ""
        return reverse(self.address, args=[question.saved.pk])


_STATIONS: dict[str, Station] = {}


def register(station: Station) -> None:
    """Put a station into the route."""
    _STATIONS[station.key] = station


def route() -> list[Station]:
    """All stations, in the order of the work."""
    return sorted(_STATIONS.values(), key=lambda station: station.place)


def station_of(key: str) -> Station:
    """A station by its key; the first one where there is none of that name."""
    return _STATIONS.get(key) or route()[0]
