"""What every template knows of the look: theme, units, and whether the demo is open."""

from typing import Any, TypeAlias

from django.conf import settings
from django.http import HttpRequest

from web.design.glossary import GLOSSARY
from web.design.queued import who_of

Context: TypeAlias = dict[str, Any]
"""What a template shows, by the names it knows it by."""
THEMES = ("day", "night")
UNITS = ("us", "si")
DRAWS = ("amps", "watts")
PAPERS = {"letter": "letter, 8.5 x 11 in", "a4": "A4, 210 x 297 mm"}


def cookie_of(request: HttpRequest, name: str, of: tuple[str, ...], default: str) -> str:
    """A cookie's value if it is one of the known ones."""
    value = request.COOKIES.get(name, default)
    return value if value in of else default


def paper_of(request: HttpRequest) -> str:
    """The size of paper that was chosen; unless one was, the one usual with the units."""
    usual = "a4" if cookie_of(request, "units", UNITS, "us") == "si" else "letter"
    return cookie_of(request, "paper", tuple(PAPERS), usual)


def look(request: HttpRequest) -> dict[str, object]:
    return {
        "theme": cookie_of(request, "theme", THEMES, ""),
        "units": cookie_of(request, "units", UNITS, "us"),
        "draws_in": cookie_of(request, "draws", DRAWS, "amps"),
        "paper": paper_of(request),
        "papers": PAPERS.items(),
        "who": who_of(request),
        "demo_open": settings.DEMO,
        "glossary": GLOSSARY,
    }
