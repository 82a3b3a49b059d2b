"""Documents into core setups and checks: read once, judged once, faults as faults."""

from __future__ import annotations

import json
from dataclasses import dataclass
from threading import Lock

from cachetools import LRUCache, cached

from ironmargin.document import Document
from ironmargin.errors import Fault, SetupError
from ironmargin.planning.answer import check_fully
from ironmargin.setup.loads import Rotating
from ironmargin.setup.model import Setup
from ironmargin.setup.reading import parse_setup, read_setup, write_setup
from ironmargin.setup.versions import notice, renamed
from ironmargin.setup.work import work_of
from ironmargin.verdict.check import Checked

TOO_MUCH = "too-much-at-once"
MAX_AT_ONCE = 400_000
"""Work of a check, as :func:`work_of` counts it, that a request does itself: two seconds of one
core at worst (measured: docs/reliability.md). A larger one waits in the queue.
"""
STORED_READ = 64
"""Documents a web process has read, the longest unused fall away."""
STORED_BYTES = 32 << 20
"""Memory of a web process for checks it made; the longest unused fall away."""


@dataclass(frozen=True)
class Judged:
    """A document judged: the check, or the faults that keep it from being checked.

    One that is sound and too large to be checked at once has its setup, no check, and a fault that
    says so.
    """

    document: Document
    checked: Checked | None
    faults: tuple[Fault, ...]
    picture: str | None = None
    setup: Setup | None = None

    @property
    def fault_by_path(self) -> dict[str, str]:
        """The first fault of each field."""
        out: dict[str, str] = {}
        for fault in self.faults:
            out.setdefault(fault.path, fault.message)
        return out


def default_picture(setup: Setup) -> str | None:
    """The load whose start is drawn when none was chosen: the wanted motor with the most
    locked-rotor amps, the last of equals.
    """
    wanted = {w.load for w in setup.wanted if w.mode is None or w.mode.endswith("cool")}
    motors = [
        load
        for load in setup.rig.loads
        if load.id in wanted
        and isinstance(load, Rotating)
        and load.start_gear not in ("inverter-drive", "universal")
    ]
    largest = max(
        reversed(motors), key=lambda load: (load.lra_a or 0.0) * load.voltage_v, default=None
    )
    return largest.id if largest else None


@cached(LRUCache(STORED_READ), key=lambda text, document: text, lock=Lock())
def _read(text: str, document: Document) -> Setup:
    return read_setup(document)


def read(document: Document) -> Setup:
    """A document as the core reads it; the same one is read once, however many turns of a change
    ask for it.

    Raises:
        SetupError: it has faults.
    """
    return _read(json.dumps(document, sort_keys=True), document)


def judge(
    document: Document,
    picture: str | None = None,
    *,
    remedy: bool = False,
    at_once: bool = True,
    setup: Setup | None = None,
) -> Judged:
    """Check a document; bad input comes back as faults, never as an exception.

    Args:
        at_once: a request asks, so that a check too large for one is left to the queue.
        setup: the document's, where it has been read before.
    """
    try:
        setup = setup or read(document)
    except SetupError as error:
        return Judged(document, None, tuple(error.faults))
    if at_once and work_of(setup) > MAX_AT_ONCE:
        return Judged(document, None, (_too_much(setup),), setup=setup)
    known = {load.id for load in setup.rig.loads}
    drawn = picture if picture in known else default_picture(setup)
    text = json.dumps(document, sort_keys=True)
    return Judged(document, _checked((text, drawn, remedy), setup), (), drawn, setup)


def is_large(document: Document) -> bool:
    """Whether a sound document's check is left to the queue."""
    return work_of(read_setup(document)) > MAX_AT_ONCE


def _too_much(setup: Setup) -> Fault:
    """That a check is left to the queue, and what to do."""
    return Fault(
        "rules.trials",
        TOO_MUCH,
        f"this asks for {work_of(setup) / MAX_AT_ONCE:.1f} times what is computed at once: open "
        "the setup's own page, where it is computed in line, or want fewer motors and loads "
        f"together (got {setup.rules.trials} trials)",
    )


def _weight(checked: Checked) -> int:
    """About the memory a check takes [bytes]: its starts, one after another."""
    traces = [t for s in checked.starts for t in (s.trace, *(t for _, t in s.trial_traces))]
    return (
        50_000
        + 5_000 * len(checked.case.setup.rig.loads)
        + sum(8 * len(t.t_s) * (5 + len(t.speed) + len(t.heat)) for t in traces)
    )


CHECKS: LRUCache[tuple[str, str | None, bool], Checked] = LRUCache(STORED_BYTES, _weight)
LOOKING = Lock()


@cached(CHECKS, key=lambda requested, setup: requested, lock=LOOKING)
def _checked(requested: tuple[str, str | None, bool], setup: Setup) -> Checked:
    """The check of a document, in words, with its picture and remedy or without."""
    _, drawn, remedy = requested
    return check_fully(setup, picture=drawn, remedy=remedy)


def known_check(setup: Setup) -> Checked | None:
    """The check of a setup with its usual picture, if it was made here a moment ago."""
    text = json.dumps(write_setup(setup), sort_keys=True)
    with LOOKING:
        return CHECKS.get((text, default_picture(setup), False))


def parse_document(raw: bytes) -> Document:
    """The document in an uploaded file.

    Raises:
        SetupError: with every fault of the file.
    """
    return write_setup(parse_setup(raw))


def former_names(raw: bytes) -> str:
    """What is said of former names in a file that was read; empty where it has none."""
    seen: dict[str, str] = {}
    renamed(json.loads(raw.decode("utf-8-sig")), seen)
    return notice(seen)
