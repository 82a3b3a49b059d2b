"""An account's prices: typed, kept, carried with it, and put into a setup that has none."""

from __future__ import annotations

from dataclasses import replace

from django.contrib.auth.models import User
from django.http import QueryDict

from ironmargin.errors import Fault, SetupError
from ironmargin.setup.model import Prices, Setup
from web.design.fields import in_units
from web.design.typed import typed_figure
from web.hours.models import AccountPrices

PRICES = (
    ("gasoline_per_l", "Gasoline", "l"),
    ("diesel_per_l", "Diesel", "l"),
    ("propane_per_kg", "Propane", "kg"),
    ("propane_per_exchange", "Cylinder, exchanged", ""),
    ("propane_per_fill", "Cylinder, filled", ""),
    ("natural_gas_per_kwh", "Natural gas", "kWh"),
    ("shore_per_kwh", "The post", "kWh"),
)


def with_prices(setup: Setup, prices: dict[str, float]) -> Setup:
    """A setup with an account's prices where it has none of its own."""
    own = {
        name: value for name, _, _ in PRICES if (value := getattr(setup.prices, name)) is not None
    }
    known = {name for name, _, _ in PRICES}
    return replace(setup, prices=Prices(**{k: v for k, v in prices.items() if k in known} | own))


def typed_prices(post: QueryDict, units: str) -> dict[str, float]:
    """Prices that were typed, for the core's units; what cannot be read is left out."""
    found = {}
    for name, _, unit in PRICES:
        value = typed_figure(post.get(name))
        if value is not None and 0.0 <= value <= 1000.0:
            found[name] = round(value * in_units(1.0, unit, units)[0], 6)
    return found


def prices_out(owner: User) -> dict[str, float] | None:
    """An account's prices, as they go with it."""
    held = AccountPrices.objects.filter(owner=owner).first()
    return dict(held.prices) if held is not None and held.prices else None


def prices_take(owner: User, data: object) -> None:
    """Save the prices an account came with.

    Raises:
        SetupError: they are no prices.
    """
    known = {name for name, _, _ in PRICES}
    sound = isinstance(data, dict) and all(
        k in known and isinstance(v, int | float) and 0.0 <= v <= 1000.0 for k, v in data.items()
    )
    if not sound:
        rule = "must be prices from 0 to 1000 by the core's names"
        raise SetupError([Fault("prices", "prices", rule)])
    AccountPrices.objects.update_or_create(owner=owner, defaults={"prices": data})


def shown_prices(prices: dict[str, float], units: str) -> list[tuple[str, str, str, str]]:
    """Name, label, unit and figure of every price, in a person's units."""
    out = []
    for name, label, unit in PRICES:
        each, shown = in_units(1.0, unit, units)
        value = f"{prices[name] / each:.2f}" if name in prices else ""
        out.append((name, label, shown, value))
    return out
