"""From what was typed in a cell to a value of the format, by the field's own specification."""

from __future__ import annotations

from dataclasses import replace

from ironmargin.errors import Fault
from ironmargin.setup.spec import INVALID, Flag, Number, Spec
from web.design.fields import LONGEST_TYPED
from web.design.typed import SHARE, SHARES, fault_in_percent, typed_in


def parse(spec: Spec, typed: str, path: str, *, optional: bool) -> tuple[object, Fault | None]:
    """The value a specification makes of what was typed; None where it is left empty and may be."""
    typed = typed[:LONGEST_TYPED].strip()
    if isinstance(spec, Flag):
        return typed == "on", None
    if not typed and (optional or isinstance(spec, Number)):
        return (
            (None, None)
            if optional
            else (None, Fault(path, "missing", "must be given (got nothing)"))
        )
    faults: list[Fault] = []
    share = path.rpartition(".")[2] in SHARES
    unit = SHARE if share else spec.unit if isinstance(spec, Number) else ""
    value = spec.read(typed_in(typed, unit) if isinstance(spec, Number) else typed, path, faults)
    if value is INVALID:
        fault = faults[0]
        return None, replace(fault, message=fault_in_percent(fault.message)) if share else fault
    return spec.write(value), None
