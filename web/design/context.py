"""What every template knows of the look: theme, units, and whether the demo is open."""

from django.conf import settings
from django.http import HttpRequest

from web.design.glossary import GLOSSARY

THEMES = ("day", "night")
UNITS = ("us", "si")
DRAWS = ("amps", "watts")


def cookie_of(request: HttpRequest, name: str, of: tuple[str, ...], default: str) -> str:
    """A cookie's value if it is one of the known ones."""
    value = request.COOKIES.get(name, default)
    return value if value in of else default


def look(request: HttpRequest) -> dict[str, object]:
    return {
        "theme": cookie_of(request, "theme", THEMES, ""),
        "units": cookie_of(request, "units", UNITS, "us"),
        "draws_in": cookie_of(request, "draws", DRAWS, "amps"),
        "demo_open": settings.DEMO,
        "glossary": GLOSSARY,
    }
