"""The setup at hand, on every page: it stays with the user from screen to screen."""

from django.http import HttpRequest
from django.urls import reverse

from web.setups.models import SavedSetup

RIGS = ("rigs", "rig", "rig-plate", "rig-import")
SUPPLIES = ("supplies", "supply")
SETUPS = ("setups", "setup-new", "setup-compare", "setup-import", "account-import")


def at_hand(request: HttpRequest) -> dict[str, object]:
    """The setup that stays with the user from screen to screen, and the stations of the work it
    leads to.
    """
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated:
        return {}
    held = (
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
    if held is not None:
        work += [
            (reverse("setup", args=[held.pk]), 4, "Verdict", ("setup",)),
            (reverse("reach", args=[held.pk]), 5, "Reach", ("reach",)),
            (reverse("order", args=[held.pk]), 6, "Order", ("order",)),
        ]
    return {"at_hand": held, "stations_of_work": work}
