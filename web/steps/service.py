"""Step lists: begun, worked through gate by gate, ended; and the reminders of the upkeep."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime, time, timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from ironmargin.document import Document
from ironmargin.listed import counted, listed
from ironmargin.practice.facts import facts_of
from ironmargin.practice.lists import TITLES
from ironmargin.practice.lists.before_need import UPKEEP_DAYS
from ironmargin.practice.steps import Gate, Passed, pass_gate, steps_json, steps_of
from ironmargin.setup.model import Setup
from web.design.context import Context
from web.setups import judging
from web.setups.models import SavedSetup
from web.steps.models import Checklist

MAX_LISTS = 200
IN_TURN = ("hook-up", "start", "shut-down")
"""The lists of an evening, one after the other."""


def begin(saved: SavedSetup, setup: Setup, purpose: str) -> Checklist:
    """A new list; the one still in hand for the same purpose where there is one."""
    held = Checklist.objects.filter(
        owner_id=saved.owner_id, setup=saved, purpose=purpose, ended=""
    ).first()
    if held is not None:
        return held
    steps = filled(setup, purpose)
    made = Checklist.objects.create(
        owner_id=saved.owner_id, setup=saved, purpose=purpose, steps=steps
    )
    old = Checklist.objects.filter(owner_id=saved.owner_id).values_list("pk", flat=True)
    Checklist.objects.filter(pk__in=list(old[MAX_LISTS : MAX_LISTS + 50])).delete()
    return made


def gate_of(step: Document) -> Gate | None:
    """The gate of a kept step."""
    found = step.get("gate")
    return Gate(**found) if found else None


def go_on(
    owner: User, pk: int, place: int, reading: str, who: str
) -> tuple[Checklist, Passed | None]:
    """Finish the step in hand; a gate that is not passed keeps the list where it is, or ends it.

    Args:
        place: the step the page showed; another one is answered with the list as it stands.

    Raises:
        Checklist.DoesNotExist: it is nobody's of this owner.
        SetupError: a number was asked for and none was given.
    """
    with transaction.atomic():
        held = Checklist.objects.select_for_update().select_related("setup").get(owner=owner, pk=pk)
        if held.ended or place != held.place:
            return held, None
        step = held.steps[held.place]
        gate, passed = gate_of(step), None
        if gate is not None:
            passed = pass_gate(gate, reading)
            held.readings = held.readings | {
                step["id"]: {"read": reading.strip()[:40], "passed": passed.passes}
            }
        held.who = who
        if passed is not None and passed.ends:
            held.ended, held.ended_at = "stopped", timezone.now()
        elif passed is None or passed.passes:
            held.place += 1
            if held.place >= len(held.steps):
                held.place = len(held.steps) - 1
                held.ended, held.ended_at = "done", timezone.now()
        held.save()
        return held, passed


def back(owner: User, pk: int) -> Checklist:
    """One step back."""
    with transaction.atomic():
        held = Checklist.objects.select_for_update().get(owner=owner, pk=pk)
        if not held.ended and held.place:
            held.place -= 1
            held.save(update_fields=["place"])
        return held


def numbered(held: Checklist) -> list[Context]:
    """The steps with what was read at each and whether they are done."""
    return [
        step
        | {
            "number": n + 1,
            "read": held.readings.get(step["id"]),
            "done": held.ended == "done" or n < held.place,
        }
        for n, step in enumerate(held.steps)
    ]


def reminders(saved: SavedSetup, setup: Setup) -> bytes:
    """The upkeep as a calendar file: each line comes back after its days."""
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Iron Margin//upkeep//EN")
    calendar.add("version", "2.0")
    today = timezone.localdate()
    for step in steps_of(setup, "upkeep"):
        days = UPKEEP_DAYS[step.id]
        event = Event()
        event.add("uid", f"{saved.pk}-{step.id}@ironmargin")
        event.add("dtstamp", datetime.combine(today, time(0), UTC))
        event.add("summary", f"{saved.name}: {step.text}")
        event.add("description", step.why)
        event.add("dtstart", today + timedelta(days=days))
        event.add("rrule", {"freq": "daily", "interval": days})
        calendar.add_component(event)
    raw: bytes = calendar.to_ical()
    return raw


def filled(setup: Setup, purpose: str) -> list[Document]:
    """The steps of a list with this setup's figures, as they are kept."""
    facts = facts_of(setup, judging.known_check(setup))
    steps = steps_of(setup, purpose, facts)
    found: list[Document] = steps_json(setup, purpose, steps)["steps"]
    return found


def next_purpose(done: Iterable[str]) -> str:
    """The list that comes next, from those finished today: the first of an evening not done."""
    return next((p for p in IN_TURN if p not in done), IN_TURN[0])


def told(steps: list[Document]) -> str:
    """A list in a sentence: how long it is, what it asks for, and its first step."""
    gates = sum(1 for s in steps if s.get("gate"))
    cautions = sum(1 for s in steps if s.get("caution"))
    parts = [
        counted(len(steps), "step"),
        *([counted(gates, "reading") + " to take"] if gates else []),
        *([counted(cautions, "caution")] if cautions else []),
    ]
    return f"{listed(parts)}. First: {steps[0]['text']}"


def titles() -> list[tuple[str, str]]:
    """Purposes with their titles, in the order of the work."""
    return list(TITLES.items())
