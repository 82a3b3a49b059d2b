"""The checks between the fields of the path: cords, adapters, guards, transformers."""

from __future__ import annotations

from ironmargin.setup.hookup import Adapter, Cord, Guard, Transformer
from ironmargin.setup.model import Setup
from ironmargin.setup.ruling import Found, rule

AWG_SIZES = (4, 6, 8, 10, 12, 14, 16)
MAX_INPUT_OFF = 0.15
"""How far a transformer's input may be from the volts it gets, over its own [1]: a 115 V one on a
127 V post is one (common practice, no source)."""
STEPS_UP = 1.5, 2.5
"""What a step-up of 120 V to 208, 230 or 240 V multiplies by [1]."""


@rule("cord")
def _cord(setup: Setup) -> Found:
    for at, item in enumerate(setup.hookup):
        if not isinstance(item, Cord):
            continue
        if (item.awg is None) == (item.mm2 is None):
            yield f"hookup[{at}].awg", "must be given, or mm2, one of them (got both or neither)"
        elif item.awg is not None and item.awg not in AWG_SIZES:
            yield (
                f"hookup[{at}].awg",
                f"must be one of {', '.join(map(str, AWG_SIZES))} (got {item.awg})",
            )


@rule("adapter-feeds")
def _adapter(setup: Setup) -> Found:
    for at, item in enumerate(setup.hookup):
        if (
            isinstance(item, Adapter)
            and item.feeds == "both-legs"
            and setup.rig.service != "120/240"
        ):
            yield (
                f"hookup[{at}].feeds",
                f'must be L1, a {setup.rig.service} rig has one leg (got "both-legs")',
            )


@rule("guard")
def _guard(setup: Setup) -> Found:
    for at, item in enumerate(setup.hookup):
        if isinstance(item, Guard) and item.low_v >= item.high_v:
            yield (
                f"hookup[{at}].low_v",
                f"must be below high_v {item.high_v:g} (got {item.low_v:g})",
            )


@rule("transformer")
def _transformer(setup: Setup) -> Found:
    found = [(at, item) for at, item in enumerate(setup.hookup) if isinstance(item, Transformer)]
    for at, item in found:
        if item.no_load_va and item.no_load_w > item.no_load_va:
            yield (
                f"hookup[{at}].no_load_w",
                f"must be at most no_load_va {item.no_load_va:g} (got {item.no_load_w:g})",
            )
        if abs(item.from_v - setup.supply.service_v) > MAX_INPUT_OFF * item.from_v:
            yield (
                f"hookup[{at}].from_v",
                f"must match the supply's {setup.supply.service_v:g} V (got {item.from_v:g})",
            )
        if not STEPS_UP[0] <= item.to_v / item.from_v <= STEPS_UP[1]:
            yield f"hookup[{at}].to_v", f"must step 120 V up to 230 or 240 V (got {item.to_v:g})"
    for at, _ in found[1:]:
        yield f"hookup[{at}]", "must be the only transformer of the path (got another)"
