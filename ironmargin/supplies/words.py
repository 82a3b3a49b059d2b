"""What each kind of supply is called in a sentence."""

from __future__ import annotations

SUPPLY_WORDS = {
    "generator": "the set",
    "parallel": "the sets",
    "shore": "the post",
    "battery-inverter": "the inverter",
    "assist": "post and inverter",
}
