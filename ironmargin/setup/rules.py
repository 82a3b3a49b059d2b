"""The checks between fields, in the order in which their faults are told.

A rule only sees a setup whose fields are each in range. Every fault says where, the rule, the value
received and what to do; its code is the rule's name. They stand in :mod:`supply_rules`,
:mod:`load_rules` and :mod:`path_rules`.
"""

from __future__ import annotations

from ironmargin.errors import Fault
from ironmargin.setup import load_rules, path_rules, supply_rules
from ironmargin.setup.model import Setup
from ironmargin.setup.ruling import RULES

PLACES = (supply_rules, load_rules, path_rules)
"""Each registers its rules, in this order."""


def check_rules(setup: Setup) -> list[Fault]:
    """Every fault that lies between fields, in the order of the rules.

    Args:
        setup: supply, path, rig and rules of the question.

    Returns:
        The faults; empty for a setup that can be.
    """
    return [
        Fault(path, code, message)
        for code, check in RULES.items()
        for path, message in check(setup)
    ]
