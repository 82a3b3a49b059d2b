"""A running order in words and as JSON."""

from __future__ import annotations

from ironmargin.document import Document
from ironmargin.per_cent import PLACES
from ironmargin.planning.order import Order
from ironmargin.setup.loads import AirConditioner

ORDER_FORMAT = "iron-margin/order"
NEVER_WORDS = {
    "no-240": "there is no 240 V here",
    "no-leg": "its leg is dead here",
    "low-volts": "it gets far too few volts",
    "too-much": "it is too much for this supply even alone",
}
MAX_SAID = 20
"""Combinations that are printed; a screen's worth."""


def interlock_words(order: Order, pair: tuple[str, str]) -> str:
    """A pair that may never run together, as a rule for the panel.

    Args:
        order: the setup's.
        pair: ids of two loads.

    Returns:
        A sentence.
    """
    loads = {x.id: x for x in order.together.setup.rig.loads}
    first, second = sorted((loads[i] for i in pair), key=lambda x: isinstance(x, AirConditioner))
    while_ = (
        f"while the compressor of {second.name} runs"
        if isinstance(second, AirConditioner)
        else f"while {second.name} runs"
    )
    return f"Never run {first.name} {while_}."


def order_json(order: Order) -> Document:
    """The JSON object of a running order.

    Args:
        order: the order.

    Returns:
        The JSON object.
    """
    s = order.sequence
    return {
        "format": ORDER_FORMAT,
        "version": 1,
        "sets": [
            {"loads": list(x.loads), "iron_margin": round(x.margin, PLACES)} for x in order.sets
        ],
        "trades": order.trades,
        "sequence": {
            "feasible": s.feasible,
            "reason": s.reason,
            "iron_margin": round(s.margin, PLACES),
            "steps": [
                {
                    "load": x.load,
                    "mode": x.mode,
                    "wait_s": x.wait_s,
                    "why": x.why,
                    "expect_a": round(x.expect_a, 2),
                    "expect_v": round(x.expect_v, 2),
                    "margin": round(x.margin, PLACES),
                }
                for x in s.steps
            ],
        },
        "interlocks": [
            {"loads": list(pair), "sentence": interlock_words(order, pair)}
            for pair in order.interlocks
        ],
        "never": [{"load": ident, "problem": problem} for ident, problem in order.never],
        "proven": order.proven and s.proven,
    }


def order_words(order: Order) -> str:
    """The running order in lines for the terminal.

    Args:
        order: the order.

    Returns:
        The lines.
    """
    lines = [order.together.setup.name, "", "May run together:"]
    lines += [
        "  " + ", ".join(order.name(i) for i in x.loads) + f"  ({x.margin * 100:+.0f} %)"
        for x in order.sets[:MAX_SAID]
    ]
    if len(order.sets) > MAX_SAID:
        lines.append(f"  and {len(order.sets) - MAX_SAID} more combinations")
    if order.trades:
        lines += ["", "To turn this on, turn off one of these:"]
        for ident, offs in order.trades.items():
            words = (
                " or ".join(" and ".join(order.off_words(i) for i in off) for off in offs)
                or "it cannot run here"
            )
            lines.append(f"  {order.name(ident)}: {words}")
    lines += (
        ["", "Start in this order:"]
        if order.sequence.feasible
        else ["", f"No start order: {order.sequence.reason}"]
    )
    for n, step in enumerate(order.sequence.steps, 1):
        wait = f"wait {step.wait_s} s, " if step.wait_s else ""
        mode = f" on {step.mode.replace('-', ' ')}" if step.mode else ""
        lines.append(
            f"  {n}. {wait}{step.name}{mode}: expect {step.expect_a:.1f} A, {step.expect_v:.0f} V"
        )
    lines += ["", *(interlock_words(order, pair) for pair in order.interlocks)]
    if not (order.proven and order.sequence.proven):
        lines.append("Not every combination was tried: the rig is too large for that.")
    lines.append("An estimate, not an approval.")
    return "\n".join(lines)
