"""What every template knows of the look: theme, units, and whether the demo is open."""

from django.conf import settings
from django.http import HttpRequest
from django.urls import reverse

RIGS = ("rigs", "rig", "rig-plate", "rig-import")
SUPPLIES = ("supplies", "supply")
SETUPS = ("setups", "setup-new", "setup-compare", "setup-import", "account-import")
THEMES = ("day", "night")
UNITS = ("us", "si")


def cookie_of(request: HttpRequest, name: str, of: tuple[str, ...], default: str) -> str:
    """A cookie's value if it is one of the known ones."""
    value = request.COOKIES.get(name, default)
    return value if value in of else default


def look(request: HttpRequest) -> dict[str, object]:
    return {
        "theme": cookie_of(request, "theme", THEMES, ""),
        "units": cookie_of(request, "units", UNITS, "us"),
        "demo_open": settings.DEMO,
    } | _at_hand(request)


def _at_hand(request: HttpRequest) -> dict[str, object]:
    """The setup that stays with the user from screen to screen, and the stations of the work it
    leads to.
    """
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated:
        return {}
    from web.setups.models import SavedSetup

    at_hand = (
        SavedSetup.objects.of(user)
        .filter(pk=request.session.get("setup", 0))
        .defer("document")
        .first()
    )
    work = [
        (reverse("rigs"), 1, "Rigs", RIGS),
        (reverse("supplies"), 2, "Supplies", SUPPLIES),
        (reverse("setups"), 3, "Setups", SETUPS),
    ]
    if at_hand is not None:
        work += [
            (reverse("setup", args=[at_hand.pk]), 4, "Verdict", ("setup",)),
            (reverse("order", args=[at_hand.pk]), 5, "Order", ("order",)),
        ]
    return {"at_hand": at_hand, "stations_of_work": work}
