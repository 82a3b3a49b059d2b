"""The one exception hierarchy of the core.

::

    IronMarginError
    ├── SetupError        the question is badly put; carries every fault at once
    └── TableError        a shipped data table is damaged

A start that cannot be solved is not an exception: it is the outcome ``unsolved`` with a reason.
"""

from __future__ import annotations

from ironmargin.record import record


class IronMarginError(Exception):
    """Base of everything the core raises on purpose."""


class TableError(IronMarginError):
    """A shipped table has a row that cannot be used."""


@record
class Fault:
    """One thing wrong with an input: where, which rule, and the value received.

    Attributes:
        path: where it is, as ``supply.continuous_w`` or ``rig.loads[0].lra_a``.
        code: a stable name of the rule broken, as ``above``, ``unknown-field``.
        message: the rule in words, with the value received.
    """

    path: str
    code: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}" if self.path else self.message


class SetupError(IronMarginError):
    """A setup that cannot be read; ``faults`` holds all of its faults."""

    def __init__(self, faults: list[Fault]) -> None:
        self.faults = faults
        super().__init__("\n".join(str(fault) for fault in faults))
