"""The setup at hand, on every page: it stays with the user from screen to screen."""

from django.http import HttpRequest
from django.urls import reverse

from web.accounts.access import access_of, account_of
from web.setups.models import SavedSetup

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


def at_hand(request: HttpRequest) -> dict[str, object]:
    """The setup that stays with the user from screen to screen, and the stations of the work it
    leads to.
    """
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated:
        return {}
    held = (
        SavedSetup.objects.of(account_of(request))
        .filter(pk=request.session.get("setup", 0))
        .defer("document")
        .first()
    )
    inventory = [(reverse(name), word, names) for name, word, names in INVENTORY]
    numbered = [(n, *each) for n, each in enumerate(inventory, 1)]
    found: dict[str, object] = {
        "at_hand": held,
        "access": access_of(request),
        "inventory": numbered,
    }
    if held is not None:
        work = [(reverse(name, args=[held.pk]), word, names) for name, word, names in WORK]
        found["stations_of_work"] = [(n, *each) for n, each in enumerate(work, len(numbered) + 1)]
        found["of_the_setup"] = [
            (reverse(name, args=[held.pk]), word, (name,)) for name, word in BESIDE
        ]
    return found
