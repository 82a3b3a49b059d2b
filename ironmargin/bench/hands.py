"""What a person does at the bench, and what the world does to it: switches, breakers, modes, a hot
day, a lost neutral.
"""

from __future__ import annotations

from dataclasses import replace

from ironmargin.bench import stores
from ironmargin.bench.panel import Panel
from ironmargin.bench.script import RAMPED, Act
from ironmargin.bench.settled import Dead, Now
from ironmargin.bench.state import Event, LoadState, State
from ironmargin.setup.loads import AirConditioner, Load
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import never_with
from ironmargin.sustaining.steady import lost_neutral

UPSTREAM = ("post", "supply", "main", "set-outlet")
TOO_HIGH = 1.15
"""Share of nominal volts above which electronics burn on a lost neutral (memory)."""


class Hands:
    """A bench that things are done to: its rig, its state and what has happened."""

    setup: Setup
    panel: Panel
    loads: dict[str, Load]
    events: list[Event]
    state: State

    def do(self, act: Act) -> None:
        """Do one thing now.

        Args:
            act: what is done, to which load.
        """
        state, what = self.state, act.what or ""
        if act.do == "load":
            self._press(state.loads[what], self.loads[what], act)
            if act.on is not False:
                for other in never_with(self.setup, what):
                    self._press(
                        state.loads[other], self.loads[other], replace(act, mode=None, on=False)
                    )
        elif act.do == "breaker":
            state.open[what] = not act.on
        elif act.do == "set":
            self._switch(bool(act.on))
        elif act.do == "eco":
            state.eco = bool(act.on)
        elif act.do == "reset":
            self._reset(what)
        elif act.do == "neutral":
            if not act.on:
                self._lose_neutral()
        elif act.do in RAMPED:
            self._ramp(act.do, float(act.figure or 0.0), act.over_s)
        elif act.do == "contact":
            state.hot = sorted({*state.hot, int(act.what or 0)})
        elif act.do == "fuel" and state.fuel_wh is not None:
            full = State(outdoor_c=state.outdoor_c)
            stores.fill(self.setup, full, float(act.figure or 0.0), None)
            state.fuel_wh, state.cylinder_kg = full.fuel_wh, full.cylinder_kg
            state.spent = "" if state.spent == "fuel" and act.figure else state.spent
        elif act.do == "soc" and state.soc is not None:
            state.soc = float(act.figure or 0.0)
            state.spent = "" if state.spent == "battery" else state.spent
        elif act.do == "altitude":
            state.world[act.do] = float(act.figure or 0.0)
        for load in state.loads.values():
            if load.held == "let-go" and act.do != "load":
                load.held = ""

    def _ramp(self, what: str, to: float, over_s: float) -> None:
        """Let the world change one figure, at once or slowly."""
        state = self.state
        if over_s <= 0.0:
            state.ramps.pop(what, None)
            self._set(what, to)
            return
        supply = self.panel.case(state).source
        now = {"outdoor": state.outdoor_c, "volts": supply.leg_v, "neighbour": supply.also_a}[what]
        begin = state.world.get(what, now)
        state.ramps[what] = [begin, to, state.t_s, state.t_s + over_s]

    def _set(self, what: str, value: float) -> None:
        if what == "outdoor":
            self.state.outdoor_c = value
        else:
            self.state.world[what] = round(value, 2)

    def _drift(self) -> None:
        """Let what changes slowly be where it is by now."""
        state = self.state
        for what, (begin, to, first, last) in list(state.ramps.items()):
            share = min(max((state.t_s - first) / (last - first), 0.0), 1.0)
            self._set(what, begin + share * (to - begin))
            if share >= 1.0:
                del state.ramps[what]

    def _press(self, one: LoadState, load: Load, act: Act) -> None:
        if act.mode is not None and isinstance(load, AirConditioner):
            was = one.mode or ""
            one.mode = act.mode
            if act.mode.startswith("fan") and one.compressor:
                one.compressor, one.stopped_s = False, self.state.t_s
            if not was.startswith(act.mode.split("-")[1]) and not act.mode.startswith("fan"):
                one.due_s = None
        on = act.on if act.on is not None else True
        if on and not one.on:
            one.cooling, one.turned_s = True, None
        one.on, one.held, one.again_s = on, "" if on else one.held, None

    def _switch(self, on: bool) -> None:
        state = self.state
        if on and not state.set_on:
            if state.locked_out:
                self._say("latched", "set", "Its overload is still open: reset it first.")
                return
            if state.spent:
                self._say("empty", "set", f"No {state.spent} left.")
                return
            self._say("started", "set", "The supply is on.")
            guard = self.panel.case(state).feed.guard
            if guard is not None:
                state.guard_s = state.t_s + guard.delay_s
        state.set_on = on

    def _reset(self, what: str) -> None:
        state = self.state
        if what == "set":
            state.locked_out, state.overload_s, state.starved = False, 0.0, False
            state.set_on = state.set_on or not state.spent
        elif what == "contact":
            state.hot = [n for n in state.hot if n != state.melted]
            state.rise_k.pop(str(state.melted), None)
            state.melted = -1
        elif what == "guard":
            state.guard_s = state.t_s if state.guard_s is not None else None
        else:
            state.open[what] = False

    def _lose_neutral(self) -> None:
        case = self.panel.case(self.state)
        if not self._fed() or case.feed.upstream.legs < 2 or case.feed.upstream.tied:
            self._say(
                "dropped-out", "neutral", "No split service here: everything loses its return."
            )
            self.state.open["main"] = True
            return
        volts = lost_neutral(case)
        nominal = case.source.nominal_v
        said = f"L1 sees {volts[0]:.0f} V and L2 {volts[1]:.0f} V"
        burnt = []
        for demand in case.demands:
            if demand.leg < 2 and volts[demand.leg] > TOO_HIGH * nominal:
                self.state.loads[demand.load.id].held = "burnt"
                burnt.append(demand.load.name)
        says = f"{said}: {', '.join(burnt)} may burn." if burnt else f"{said}."
        self._say("dropped-out", "neutral", f"The neutral is lost. {says} The main is opened.")
        self.state.open["main"] = True

    def _fed(self, load: Load | None = None) -> bool:
        """Whether the panel is fed, or a load's branch of it."""
        state = self.state
        fed = (
            state.set_on
            and not state.locked_out
            and not state.spent
            and state.guard_s is None
            and state.melted < 0
            and not any(state.open.get(where) for where in UPSTREAM)
        )
        if load is None or not fed:
            return fed
        charger = load.kind == "charger" and state.open.get("charger", False)
        return not state.open.get(load.circuit or "", False) and not charger

    def _say(self, kind: str, where: str, why: str, now: Now | Dead | None = None) -> None:
        now = now if now is not None else Dead()
        self.events.append(Event(self.state.t_s, kind, where, why, now.busiest_a, now.lowest_v))
