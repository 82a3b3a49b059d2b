"""Template filters for figures; built in to every template."""

from django import template

from ironmargin.verdict.report import signed_percent

register = template.Library()
STATE_WORDS = {"holds": "Holds", "thin": "Thin", "fails": "Fails"}


@register.filter
def percent(margin: float) -> str:
    """A margin as +14 % or −34 %."""
    return signed_percent(margin)


@register.filter
def state_word(state: str) -> str:
    """The word of a verdict's state."""
    return STATE_WORDS[state]
