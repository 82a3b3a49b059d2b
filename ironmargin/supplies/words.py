"""What each kind of supply is called in a sentence."""

from __future__ import annotations

SUPPLY_WORDS = {
    "generator": "the generator",
    "parallel": "the generators",
    "shore": "the post",
    "battery-inverter": "the inverter",
    "assist": "the post with its inverter",
}
