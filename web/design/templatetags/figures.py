"""Template filters for figures; built in to every template."""

from datetime import datetime
from typing import Any

from django import template
from django.utils.crypto import get_random_string
from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.utils.timesince import timesince

from ironmargin.document import Document
from ironmargin.errors import Fault
from ironmargin.per_cent import signed_percent
from web.design.fields import in_units
from web.design.places import place_words

register = template.Library()
STATE_WORDS = {"holds": "Holds", "thin": "Thin", "fails": "Fails"}


@register.filter
def percent(margin: float) -> str:
    """A margin as +14 % or −34 %."""
    return signed_percent(margin)


@register.filter
def hundred(share: float) -> str:
    """A share as times in a hundred."""
    return f"{share * 100:.0f}"


@register.filter
def unsigned(margin: float) -> str:
    """The size of a margin, as 14 %."""
    return signed_percent(abs(margin))[1:]


@register.filter
def state_word(state: str) -> str:
    """The word of a verdict's state."""
    return STATE_WORDS[state]


@register.filter
def words(name: str) -> str:
    """A word of the format as a person reads it: low-cool as low cool."""
    return str(name).replace("-", " ").replace("_", " ")


@register.filter
def clock(seconds: float) -> str:
    """Seconds of a run as h:mm:ss."""
    whole = int(seconds)
    return f"{whole // 3600}:{whole % 3600 // 60:02d}:{whole % 60:02d}"


@register.filter
def ago(moment: datetime) -> str:
    """How long ago, in the largest unit alone."""
    return f"{timesince(moment, depth=1)} ago"


@register.filter
def get(table: dict[str, object], key: str) -> object:
    """A value of a table by its key; nothing where there is none."""
    return table.get(key, "") if isinstance(table, dict) else ""


@register.filter
def cut_words(text: str) -> list[str]:
    """The words of a text, one by one."""
    return text.split()


@register.simple_tag(takes_context=True)
def quantity(context: template.Context, value: float | None, unit: str, places: int = 0) -> str:
    """A figure in the person's units, with its unit; nothing where there is none."""
    if value is None:
        return ""
    shown, name = in_units(float(value), unit, str(context.get("units", "us")))
    return f"{shown:,.{places}f} {name}"


@register.simple_tag(takes_context=True)
def step_words(context: template.Context, step: Document) -> str:
    """A link of a derating chain, its figure in the person's units."""
    of = step.get if isinstance(step, dict) else lambda key: getattr(step, key)
    value, unit = of("value"), str(of("unit"))
    if value is None:
        return str(of("label"))
    shown, name = in_units(float(value), unit, str(context.get("units", "us")))
    return f"at {shown:,.0f} {name}"


@register.filter
def brief(value: float) -> str:
    """A figure rounded to three that can be read."""
    rounded = float(f"{float(value):.3g}")
    return f"{rounded:.0f}" if abs(rounded) >= 100 else f"{rounded:g}"


@register.simple_tag(takes_context=True)
def unit_of(context: template.Context, unit: str) -> str:
    """The name of a unit as the person sees it."""
    return in_units(0.0, unit, str(context.get("units", "us")))[1]


@register.filter("tenth")
@register.filter
def place(value: float | None) -> str:
    """A place in a drawing, or a figure of one, to a tenth; nothing where there is none. Drawings
    have hundreds of them, and Django's own filter counts in decimal numbers.
    """
    return SafeString("" if value is None else f"{value:.1f}")


EMPTY = ' (got "")'


@register.simple_tag(takes_context=True)
def fault_words(context: template.Context, fault: Fault) -> str:
    """A fault as a sentence: where by its name, the rule, what was received."""
    read: Any = fault.get if isinstance(fault, dict) else lambda name: getattr(fault, name)
    path, message = str(read("path")), str(read("message"))
    where = place_words(path, getattr(context.get("question"), "document", None))
    rule = message.replace(EMPTY, " (it is empty)")
    return f"{where}: {rule}" if where else rule


ACTION_WORDS = {
    "made": "created", "took in": "imported", "brought back": "took out of the archive",
    "went back": "reverted",
}  # fmt: skip


@register.filter
def action_word(action: str) -> str:
    """What was done to a stored thing, as its history says it."""
    return ACTION_WORDS.get(action, action)


@register.filter
def add_to(value: float, more: float) -> float:
    """A sum of two figures; Django's own ``add`` cuts them to whole numbers."""
    return float(value) + float(more)


@register.filter(is_safe=True)
def one_line(text: str) -> str:
    """Words on one line, for names that are read aloud; in templates they stand on several."""
    return " ".join(text.split())


@register.simple_tag
def once() -> str:
    """A key of its own for a form that makes something: pressed twice, it makes one."""
    return format_html('<input type="hidden" name="idempotency" value="{}">', get_random_string(20))
