"""Drills: which comes next, how an answer is scored, and when its theme comes back."""

from __future__ import annotations

import json
from datetime import datetime, timedelta
from functools import lru_cache

from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.http import QueryDict
from django.utils import timezone

from ironmargin.practice.drills import BANDS, CALLS, THEMES, TITLES, Drill, drill
from ironmargin.practice.scoring import Bin, brier, calibration, estimate_score, score_of_chance
from web.design.context import Context
from web.design.typed import typed_figure
from web.drills.models import DrillAnswer, DrillCard

EXAM = 20
MAX_ANSWERS = 2000
SEEDS = 100_000
ENOUGH = 0.15
"""A Brier score up to this is knowing what one knows; half-sure guessing scores 0.25."""


@lru_cache(maxsize=128)
def the_drill(seed: int, theme: str, difficulty: str) -> Drill:
    """A drill, made once."""
    return drill(seed, theme, difficulty)


def next_of(owner: User, theme: str, difficulty: str) -> Drill:
    """The next drill: the theme asked for or the one longest due, a seed not answered yet."""
    if theme not in THEMES:
        theme = due_theme(owner)
    difficulty = difficulty if difficulty in BANDS else "easy"
    done = DrillAnswer.objects.filter(owner=owner, theme=theme, difficulty=difficulty).count()
    return the_drill((owner.pk * 7919 + done) % SEEDS, theme, difficulty)


def due_theme(owner: User) -> str:
    """The theme that is longest due; one never asked comes first."""
    cards = {c.theme: c.due_at for c in DrillCard.objects.filter(owner=owner)}
    never = [t for t in THEMES if t not in cards]
    return never[0] if never else min(cards, key=lambda t: cards[t])


def exam_drill(owner: User, exam: str, number: int) -> Drill:
    """A question of an examination: themes in turn, difficulties mixed, the same for its key. Its
    seeds are none that is drilled otherwise.
    """
    themes, bands = list(THEMES), list(BANDS)
    seed = SEEDS + int(exam[:8], 16) % 1_000_000_000 + number
    return the_drill(seed, themes[number % len(themes)], bands[number % len(bands)])


def answer(owner: User, found: Drill, posted: QueryDict, exam: str = "") -> DrillAnswer:
    """Score an answer and put its theme back in the line; the first answer to a drill counts."""
    sure = _share(posted.get("sure"))
    call = posted.get("call", "")
    call = call if call in CALLS else ""
    if found.asks == "chance":
        score, right = score_of_chance(sure, found.chance), abs(sure - found.chance) <= 0.2
        call = "chance"
    else:
        right = call == found.call
        score = brier(sure, right)
    first = posted.get("first") or None
    off = posted.get("off") or None
    step = posted.get("step") or None
    said = typed_figure(posted.get("estimate"))
    try:
        with transaction.atomic():
            made = DrillAnswer.objects.create(
                owner=owner,
                theme=found.theme,
                difficulty=found.difficulty,
                seed=found.seed,
                exam=exam[:16],
                call=call,
                sure=sure,
                right=right,
                brier=score,
                first_right=None if found.first is None or first is None else first == found.first,
                off_right=None if not found.off or off is None else off in found.off,
                step_right=None if found.step is None or step is None else step == found.step.right,
                estimate=None
                if said is None or abs(said) >= 1e6
                else estimate_score(said, found.estimate[2]),
            )
    except IntegrityError:
        stored: DrillAnswer = DrillAnswer.objects.get(
            owner=owner, theme=found.theme, difficulty=found.difficulty, seed=found.seed
        )
        return stored
    _schedule(owner, found.theme, score, right)
    old = DrillAnswer.objects.filter(owner=owner).values_list("pk", flat=True)
    DrillAnswer.objects.filter(pk__in=list(old[MAX_ANSWERS : MAX_ANSWERS + 50])).delete()
    return made


def _share(typed: str | None) -> float:
    value = typed_figure(typed)
    return min(max((50.0 if value is None else value) / 100.0, 0.0), 1.0)


def _schedule(owner: User, theme: str, score: float, right: bool) -> None:
    """Let the scheduler say when the theme comes back."""
    from fsrs import Card, Rating, Scheduler

    held = DrillCard.objects.filter(owner=owner, theme=theme).first()
    card = Card.from_json(json.dumps(held.card)) if held is not None else Card()
    rating = (
        Rating.Again
        if not right
        else Rating.Hard
        if score > ENOUGH
        else Rating.Good
        if score > 0.02
        else Rating.Easy
    )
    card, _ = Scheduler(enable_fuzzing=False).review_card(card, rating, timezone.now())
    DrillCard.objects.update_or_create(
        owner=owner, theme=theme, defaults={"card": json.loads(card.to_json()), "due_at": card.due}
    )


def standing(owner: User) -> Context:
    """How somebody stands: score, calibration, themes."""
    rows = list(DrillAnswer.objects.filter(owner=owner)[:500])
    requested = [r for r in rows if r.call != "chance"]
    bins: tuple[Bin, ...] = calibration([(r.sure, r.right) for r in requested])
    themes = []
    for theme, title in TITLES.items():
        of = [r for r in rows if r.theme == theme]
        if of:
            themes.append((title, len(of), sum(r.right for r in of)))
    return {
        "count": len(rows),
        "right": sum(r.right for r in rows),
        "brier": sum(r.brier for r in rows) / len(rows) if rows else None,
        "bins": bins,
        "dots": [(round(100 * b.said, 1), round(100 - 100 * b.right, 1), b.count) for b in bins],
        "streak": streak([r.at for r in rows]),
        "themes": themes,
    }


def streak(moments: list[datetime]) -> int:
    """Days in a row up to today or yesterday on which something was answered."""
    days = {timezone.localdate(at) for at in moments}
    day = timezone.localdate()
    if day not in days:
        day -= timedelta(days=1)
    count = 0
    while day in days:
        count, day = count + 1, day - timedelta(days=1)
    return count


def exam_result(owner: User, exam: str) -> Context:
    """How an examination stands, or went."""
    rows = list(DrillAnswer.objects.filter(owner=owner, exam=exam).order_by("id"))
    right = sum(r.right for r in rows)
    score = sum(r.brier for r in rows) / len(rows) if rows else 0.0
    return {
        "exam": exam,
        "count": len(rows),
        "of": EXAM,
        "right": right,
        "brier": score,
        "over": len(rows) >= EXAM,
        "at": rows[-1].at if rows else None,
    }
