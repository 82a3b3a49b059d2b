"""The next safe step of a list: the right one, among steps that what was done makes impossible."""

from __future__ import annotations

import random
from collections.abc import Iterable, Iterator

from ironmargin.practice.facts import Facts, facts_of
from ironmargin.practice.lines import Line
from ironmargin.practice.lists import BEGINS, LISTS, TITLES
from ironmargin.practice.steps import Step, applies, steps_of
from ironmargin.record import record
from ironmargin.setup.model import Setup

ASKED_OF = ("hook-up", "shut-down")
WRONG = 2
"""Wrong steps that are offered."""


@record
class NextStep:
    """A question for the next safe step.

    Attributes:
        list: the title of the list.
        done: the step before.
        right: the id of the one that comes next.
        choices: (id, text) of all that are offered.
        why: the reason of the right one.
    """

    list: str
    done: str
    right: str
    choices: tuple[tuple[str, str], ...]
    why: str


def begins(purpose: str, facts: Facts) -> set[str]:
    """What is so before a list is begun.

    Args:
        purpose: key of a list.
        facts: of the setup.

    Returns:
        Keys of what is so.
    """
    state = set(BEGINS[purpose])
    if purpose == "hook-up":
        # Nobody knows yet that a post is off.
        return state | {"outlet-live"} if "shore" in facts.is_ else state
    return state | {"inlet-live", "main-off"} if "house" in facts.is_ else state


def after(state: set[str], line: Line) -> set[str]:
    """What is so once a line was done.

    Args:
        state: keys of what is so.
        line: of a list.

    Returns:
        Keys of what is so then.
    """
    gone = {fact[1:] for fact in line.makes if fact.startswith("-")}
    return (state - gone) | {fact for fact in line.makes if not fact.startswith("-")}


def unmet(state: set[str], line: Line) -> list[str]:
    """What a line asks for that is not so.

    Args:
        state: keys of what is so.
        line: of a list.

    Returns:
        Keys, those that must not be so with a minus sign.
    """
    return [f for f in line.given if (f.removeprefix("-") in state) == f.startswith("-")]


def _questions(
    lines: Iterable[Line], steps: dict[str, Step], state: set[str], title: str
) -> Iterator[NextStep]:
    """A question for each step that has enough wrong ones beside it."""
    todo = [line for line in lines if line.id in steps]
    for at, line in enumerate(todo):
        if at:
            wrong = [x for x in todo[at + 1 :] if unmet(state, x)][:WRONG]
            if len(wrong) == WRONG:
                choices = tuple((x.id, steps[x.id].text) for x in (line, *wrong))
                done = steps[todo[at - 1].id].text
                yield NextStep(title, done, line.id, choices, steps[line.id].why)
        state = after(state, line)


def next_step(setup: Setup, draw: random.Random) -> NextStep | None:
    """A question about hooking a setup up or shutting it down; None where no step of it has two
    wrong ones.

    Args:
        setup: supply, path, rig and rules of the question.
        draw: that the question is drawn with.

    Returns:
        The question with its right step and two wrong ones.
    """
    facts = facts_of(setup)
    found: list[NextStep] = []
    for purpose in ASKED_OF:
        lines = [line for line in LISTS[purpose] if applies(line, facts)]
        steps = {step.id: step for step in steps_of(setup, purpose, facts)}
        found += _questions(lines, steps, begins(purpose, facts), TITLES[purpose])
    if not found:
        return None
    one = draw.choice(found)
    choices = list(one.choices)
    draw.shuffle(choices)
    return NextStep(one.list, one.done, one.right, tuple(choices), one.why)
