"""The load manager on the bench: sheds when amps are short, and lets loads come back."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ironmargin.bench.settled import Now
from ironmargin.bench.state import State
from ironmargin.setup.hookup import LoadManager
from ironmargin.setup.loads import Load
from ironmargin.setup.managing import shed_order, spare_a

SHED = "shed"
Say = Callable[[str, str, str, Now], None]


def busiest_a(now: Now) -> float:
    """Amps of the busier leg, as a manager's own coils see them [A].

    Args:
        now: the settled network of the moment.

    Returns:
        Amps of that leg [A]; 0 without one.
    """
    return max(now.amps, default=0.0)


def next_s(manager: LoadManager, state: State, now: Now) -> float:
    """How long until the manager does something, as things are [s]; infinite for nothing.

    Args:
        manager: the load manager.
        state: the run so far: what is over, what is shed, and since when.
        now: the settled network of the moment.

    Returns:
        Seconds until it sheds or lets a load come back [s].
    """
    ends = []
    if state.over_s is not None:
        ends.append(state.over_s + manager.delay_s - state.t_s)
    room = spare_a(manager, busiest_a(now))
    for one in state.loads.values():
        if one.held == SHED and one.again_s is not None and one.again_s > state.t_s and room > 0.0:
            ends.append(one.again_s - state.t_s)
    return max(min(ends, default=float("inf")), 0.0)


def manage(
    manager: LoadManager, loads: Mapping[str, Load], state: State, now: Now, say: Say
) -> bool:
    """Shed the next load once there has been too much for the manager's delay, or let one come back
    where it fits after its rest; whether anything changed.

    Args:
        manager: the load manager.
        loads: of the rig, by id.
        state: the run so far; what is shed or comes back is put into it.
        now: the settled network of the moment.
        say: puts an event down.

    Returns:
        Whether anything was shed or came back.
    """
    amps = busiest_a(now)
    spare = spare_a(manager, amps)
    if spare < 0.0:
        if state.over_s is None:
            state.over_s = state.t_s
        if state.t_s + 1e-9 < state.over_s + manager.delay_s:
            return False
        running = [load for ident, load in loads.items() if state.loads[ident].running]
        for load in shed_order(running)[:1]:
            one = state.loads[load.id]
            one.held, one.again_s = SHED, state.t_s + manager.restore_s
            one.shed_a = amps_of(load, now)
            state.over_s = None
            says = f"{amps:.1f} A, limit {manager.limit_a:g} A: the load manager sheds {load.name}."
            say("shed", load.id, says, now)
            return True
        return False
    state.over_s = None
    back = [load for ident, load in loads.items() if state.loads[ident].held == SHED]
    for load in reversed(shed_order(back)):
        one = state.loads[load.id]
        rested = one.again_s is None or state.t_s + 1e-9 >= one.again_s
        if rested and one.shed_a <= spare:
            one.held, one.again_s = "", None
            says = f"{amps:.1f} A leaves room: the load manager lets {load.name} come back."
            say("restored", load.id, says, now)
            return True
    return False


def amps_of(load: Load, now: Now) -> float:
    """What a load draws now [A].

    Args:
        load: of the rig.
        now: the settled network of the moment.

    Returns:
        Its settled amps at rated volts [A]; 0 where it does not run.
    """
    found = (d for d in now.case.demands if d.load.id == load.id)
    return sum(draw.amps for d in found for draw in d.steady)
