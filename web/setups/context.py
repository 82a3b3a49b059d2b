"""The setup at hand, on every page: it stays with the user from screen to screen."""

from functools import cache

from django.http import HttpRequest
from django.urls import reverse

from web.accounts.access import access_of, account_of
from web.setups.models import SavedSetup

Names = tuple[tuple[str, str, tuple[str, ...]], ...]
INVENTORY: Names = (
    ("board", "Board", ("board",)),
    ("rigs", "Rigs", ("rigs", "rig", "rig-plate", "rig-import")),
    ("supplies", "Supplies", ("supplies", "supply")),
    ("setups", "Setups", ("setups", "setup-compare", "setup-import")),
    ("drills", "Drills", ("drills", "drills-exam", "drills-answer")),
    ("account", "Account", ("account", "members")),
)
"""Pages that are about no one setup: address, word, and the addresses where it is current."""
NOW = ("now", "Now")


def take_to_hand(request: HttpRequest, pk: int) -> None:
    """Let a setup stay with the user from screen to screen. A session is stored whole: a page that
    asks every two seconds leaves it alone, or it would put back what another request has changed.
    """
    if request.session.get("setup") != pk:
        request.session["setup"] = pk


def at_hand(request: HttpRequest) -> dict[str, object]:
    """The setup that stays with the user from screen to screen, and where it leads."""
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated:
        return {}

    @cache
    def held() -> SavedSetup | None:
        pk = request.session.get("setup")
        mine = SavedSetup.objects.of(account_of(request)).defer("document")
        return mine.filter(pk=pk).first() if pk else None

    def inventory() -> list[tuple[object, ...]]:
        each = [(reverse(name), word, names) for name, word, names in INVENTORY]
        return [(n, *one) for n, one in enumerate(each, 1)]

    def of_the_setup() -> list[tuple[str, str]]:
        from web.setups.stations import route

        one = held()
        if one is None:
            return []
        tabs = [(reverse(s.address, args=[one.pk]), s.title) for s in route()]
        return [*tabs, (reverse(NOW[0], args=[one.pk]), NOW[1])]

    def thumbs() -> list[tuple[str, str, tuple[str, ...]]]:
        one = held()
        first = [(reverse(name), word, names) for name, word, names in INVENTORY[:4]]
        if one is None:
            return first
        of = {name: reverse(name, args=[one.pk]) for name in ("setup", "now", "log")}
        here = (("setup", "Verdict"), ("now", "Now"), ("log", "Log"))
        return [first[0], *((of[name], word, (name,)) for name, word in here)]

    # Called by the templates that draw the header; a part of a page draws none of it.
    return {
        "at_hand": held,
        "access": access_of(request),
        "inventory": inventory,
        "of_the_setup": of_the_setup,
        "thumbs": thumbs,
    }
