"""The setup at hand, on every page: it stays with the user from screen to screen."""

from functools import cache

from django.http import HttpRequest
from django.urls import reverse

from web.accounts.access import access_of, account_of
from web.setups.models import SavedSetup

Stations = tuple[tuple[str, str, tuple[str, ...]], ...]
RIGS = ("rigs", "rig", "rig-plate", "rig-import")
SUPPLIES = ("supplies", "supply")
SETUPS = ("setups", "setup-new", "setup-compare", "setup-import", "account")
INVENTORY = (
    ("rigs", "Rigs", RIGS),
    ("supplies", "Supplies", SUPPLIES),
    ("setups", "Setups", SETUPS),
)
WORK = (
    ("setup", "Verdict", ("setup",)),
    ("reach", "Reach", ("reach", "reach-places", "reach-clients", "reach-sweep")),
    ("order", "Order", ("order",)),
    ("bench", "Bench", ("bench", "bench-run")),
    ("hours", "Hours", ("hours",)),
    ("log", "Log", ("log", "log-survey", "log-learning")),
)
"""The stations of a setup's route card, in the order of the work."""
BESIDE = (("now", "Now"), ("steps", "Steps"))


def take_to_hand(request: HttpRequest, pk: int) -> None:
    """Let a setup stay with the user from screen to screen. A session is stored whole: a page that
    asks every two seconds leaves it alone, or it would put back what another request has changed.
    """
    if request.session.get("setup") != pk:
        request.session["setup"] = pk


def at_hand(request: HttpRequest) -> dict[str, object]:
    """The setup that stays with the user from screen to screen, and the stations of the work it
    leads to.
    """
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated:
        return {}

    @cache
    def held() -> SavedSetup | None:
        pk = request.session.get("setup")
        mine = SavedSetup.objects.of(account_of(request)).defer("document")
        return mine.filter(pk=pk).first() if pk else None

    def numbered(stations: Stations, first: int, *of: int) -> list[tuple[object, ...]]:
        each = [(reverse(name, args=of), word, names) for name, word, names in stations]
        return [(n, *one) for n, one in enumerate(each, first)]

    def of_the_setup() -> list[tuple[object, ...]]:
        one = held()
        return (
            []
            if one is None
            else [(reverse(name, args=[one.pk]), word, (name,)) for name, word in BESIDE]
        )

    def stations_of_work() -> list[tuple[object, ...]]:
        one = held()
        return [] if one is None else numbered(WORK, len(INVENTORY) + 1, one.pk)

    # Called by the templates that draw the header; a part of a page draws none of it.
    return {
        "at_hand": held,
        "access": access_of(request),
        "inventory": lambda: numbered(INVENTORY, 1),
        "stations_of_work": stations_of_work,
        "of_the_setup": of_the_setup,
    }
