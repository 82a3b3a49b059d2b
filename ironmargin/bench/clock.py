"""The bench's clock: from one thing that happens to the next.

Quiet time passes in spans as long as nothing changes: the settled network is solved once for each
set of loads, and breaker heat, lockout, room, energy, tank and battery go on in closed form. A
start goes through the start engine, half cycle by half cycle (:mod:`ironmargin.bench.starting`).
The same script and seed give the same bytes: cycles depend on nothing but seed, load and turn.
"""

from __future__ import annotations

import math

from ironmargin.bench import stores
from ironmargin.bench.hands import Hands
from ironmargin.bench.managing import manage
from ironmargin.bench.managing import next_s as managed_in_s
from ironmargin.bench.panel import Panel, guard_waits_s
from ironmargin.bench.script import Begin
from ironmargin.bench.settled import (
    Dead,
    Now,
    Watch,
    contacts,
    guard_opens,
    heat_key,
    ledger_now,
    lockout_after,
    lockout_in,
    watches,
)
from ironmargin.bench.starting import Happened, start_together
from ironmargin.bench.state import Event, LoadState, State
from ironmargin.electrics.motor import STARTS_TO_LEARN
from ironmargin.limits.contact import MELTS_K, WARMS_TAU_S
from ironmargin.limits.guard import closes
from ironmargin.limits.ledger import SentenceContext
from ironmargin.loads import rooms
from ironmargin.protection.breaker import curve
from ironmargin.setup.loads import AirConditioner, Load, Rotating
from ironmargin.setup.managing import manager_of
from ironmargin.setup.model import Setup
from ironmargin.setup.ways import heaviest, running_ids
from ironmargin.starting.starts import warm_heat

QUIET_S = 60.0
"""Longest span passed at once: room, tank and battery drift in it."""
MIN_APART_S = 0.5
MAX_AT_ONCE = 200
MAX_ROWS = 50_000
MAX_EVENTS = 20_000
USUAL_BREAKER = curve("UL489", 30.0)
"""How a breaker that carries nothing cools, and how far the hottest is on its way to tripping."""


class Bench(Hands):
    """One rig in time. ``events`` and ``rows`` grow as it goes; ``state`` is all it remembers."""

    def __init__(self, setup: Setup, begin: Begin | None = None, seed: int = 1) -> None:
        begin = begin or Begin()
        self.setup, self.seed = setup, seed
        self.panel = Panel(setup, begin.breakers)
        self.manager = manager_of(setup)
        self.room = setup.rig.room or rooms.USUAL
        self.loads: dict[str, Load] = {x.id: x for x in self.panel.setup.rig.loads}
        self.events: list[Event] = []
        self.rows: list[tuple[float, ...]] = []
        self.state = self._fresh(begin)

    def _fresh(self, begin: Begin) -> State:
        state = State(outdoor_c=self.setup.conditions.outdoor_c)
        state.room_c = state.outdoor_c if begin.room_c is None else begin.room_c
        state.eco = any(u.eco for u in self.setup.supply.engines)
        wanted = {w.load: w.mode for w in self.setup.wanted}
        as_wanted = begin.all == "as-wanted"
        begins_on = running_ids(heaviest(self.setup)) if as_wanted else set()
        for load in self.setup.rig.loads:
            on = load.id in begins_on
            cools = isinstance(load, AirConditioner)
            mode = (wanted.get(load.id) or "high-cool") if cools else None
            turns = on and isinstance(load, Rotating) and not (mode or "").startswith("fan")
            state.loads[load.id] = LoadState(on=on, mode=mode, running=on, compressor=turns)
            if getattr(load, "start", "") == "soft-start":
                soft = getattr(load, "soft_start", None)
                state.loads[load.id].learned = (
                    soft.learned_starts if soft is not None else STARTS_TO_LEARN
                )
        stores.fill(self.setup, state, begin.fuel, begin.soc)
        state.set_on = as_wanted
        if as_wanted:
            now = self.panel.now(state)
            heats = warm_heat(now.case, now.amps).tolist()
            keys = [heat_key(b, leg) for b, leg in now.case.breakers]
            state.heat = dict(zip(keys, heats, strict=True))
            for load in self.panel.setup.rig.loads:
                self._cycle(state, load)
        return state

    def advance(self, to_s: float, *, to_event: bool = False) -> None:
        """Let time pass until a moment [s], or only to the next thing that happens.

        Args:
            to_s: until when, since the beginning [s].
            to_event: stop at the next thing that happens.
        """
        state = self.state
        at_once, happened = 0, len(self.events)
        while True:
            if len(self.events) > MAX_EVENTS:
                return
            before = state.t_s
            while at_once < MAX_AT_ONCE and self._settle():
                at_once += 1
            if state.t_s > before:
                at_once = 0
            now = self.now()
            self._row(now)
            self._warn(now)
            if self._managed(now):
                continue
            if state.t_s >= to_s - 1e-9 or (to_event and len(self.events) > happened):
                return
            self._pass(now, self._span(now, to_s))
            at_once = 0 if state.t_s > before + 1e-9 else at_once + 1
            if at_once >= MAX_AT_ONCE:
                self._pass(now, min(1.0, to_s - state.t_s))
                at_once = 0

    def _managed(self, now: Now | Dead) -> bool:
        """Let the load manager do its work; whether it changed anything."""
        if self.manager is None or not isinstance(now, Now):
            return False
        return manage(self.manager, self.loads, self.state, now, self._say)

    def _warn(self, now: Now | Dead) -> None:
        """Say once of every limit that nothing opens for that it is exceeded; again once it was
        kept meanwhile.
        """
        state = self.state
        exceeded = self.panel.beyond(state) if isinstance(now, Now) else ()
        for one in exceeded:
            if one.key not in state.warned:
                self._say("over-limit", one.where, one.says, now)
        state.warned = [one.key for one in exceeded]

    def now(self) -> Now | Dead:
        """The settled network of this moment, or nothing fed.

        Returns:
            The case with its settled volts, amps and watts; dead where nothing is fed.
        """
        return self.panel.now(self.state) if self._fed() else Dead()

    def _cycle(self, state: State, load: Load) -> None:
        one = state.loads[load.id]
        length = rooms.turn_s(load, one.cooling, self.seed, one.cycles)
        one.turned_s = None if length is None else state.t_s + length

    def _settle(self) -> bool:
        """Bring every load to what switch, thermostat and feed ask; True if anything changed."""
        state = self.state
        changed = self._guard_closes()
        starting: list[str] = []
        for ident, load in self.loads.items():
            one = state.loads[ident]
            if one.again_s is not None and state.t_s >= one.again_s and one.held == "stalled":
                one.held, one.again_s = "", None
            if not (one.on and not one.held and self._fed(load)):
                changed |= self._stop(one)
                continue
            changed |= self._turn(ident, load, one)
            if isinstance(load, AirConditioner):
                if not one.running:
                    one.running, one.since_s, changed = True, state.t_s, True
                    one.due_s = state.t_s + load.compressor_delay_s
                cools = not (one.mode or "").startswith("fan")
                if not (cools and one.cooling):
                    one.due_s = None
                    if one.compressor:
                        one.compressor, one.stopped_s, changed = False, state.t_s, True
                elif not one.compressor:
                    one.due_s = state.t_s if one.due_s is None else one.due_s
                    if one.due_s <= state.t_s + 1e-9:
                        starting.append(ident)
            elif one.cooling and not one.running:
                starting.append(ident)
            elif not one.cooling and one.running:
                changed |= self._stop(one)
        if starting:
            self._start(tuple(starting))
        return changed or bool(starting)

    def _stop(self, one: LoadState) -> bool:
        if not one.running:
            return False
        if one.compressor:
            one.stopped_s = self.state.t_s
        one.running, one.compressor, one.due_s, one.turned_s = False, False, None, None
        return True

    def _turn(self, ident: str, load: Load, one: LoadState) -> bool:
        """Let thermostat or duty cycle turn, if it is time."""
        state = self.state
        if rooms.by_room(load):
            calls, done = rooms.calls_at(self.room, self._order(ident))
            if one.cooling and one.compressor and state.room_c <= done + 1e-6:
                one.cooling = False
                self._say("cycled-off", ident, f"{load.name}: the room is cool enough.")
                return True
            if not one.cooling and state.room_c >= calls - 1e-6:
                one.cooling = True
                self._say("cycled-on", ident, f"{load.name}: the thermostat calls.")
                return True
            return False
        if one.turned_s is None:
            self._cycle(state, load)
            return False
        if state.t_s + 1e-9 < one.turned_s:
            return False
        one.cooling, one.cycles = not one.cooling, one.cycles + 1
        self._cycle(state, load)
        word = "on" if one.cooling else "off"
        self._say(f"cycled-{word}", ident, f"{load.name} cycles {word}.")
        return True

    def _order(self, ident: str) -> int:
        units = [x for x, load in self.loads.items() if rooms.by_room(load)]
        return units.index(ident)

    def _guard_closes(self) -> bool:
        state = self.state
        if state.guard_s is None or state.t_s + 1e-9 < state.guard_s or not state.set_on:
            return False
        case = self.panel.case(state)
        points = case.feed.guards
        if all(closes(point, case.source.leg_v) for point in points):
            state.guard_s = None
            return True
        state.guard_s = state.t_s + points[-1].guard.delay_s
        return False

    def _start(self, starting: tuple[str, ...]) -> None:
        happened: Happened = start_together(self.panel, self.state, starting)
        for event in happened.events:
            self.events.append(event)
        for row in happened.rows:
            self._append(row)
        self._span_energy(happened.seconds)

    def _span_energy(self, seconds: float) -> None:
        """A start's own seconds: the energy of what is settled after it."""
        if seconds > 0.0:
            now = self.now()
            self._pass(now, seconds, trips=False)

    def _span(self, now: Now | Dead, to_s: float) -> float:
        """How long nothing happens [s]."""
        state = self.state
        ends = [to_s - state.t_s, QUIET_S]
        for ident, one in state.loads.items():
            load = self.loads[ident]
            ends += [
                at - state.t_s
                for at in (one.turned_s if one.on else None, one.due_s, one.again_s)
                if at is not None and at > state.t_s
            ]
            if rooms.by_room(load) and one.on and self._fed(load):
                calls, done = rooms.calls_at(self.room, self._order(ident))
                level = done if one.cooling else calls
                ends.append(rooms.crosses_s(state.room_c, self._goal(), level) + 1e-6)
        if state.guard_s is not None:
            ends.append(state.guard_s - state.t_s)
        if self.manager is not None and isinstance(now, Now):
            ends.append(managed_in_s(self.manager, state, now))
        if isinstance(now, Now):
            for watch in watches(now.case, now.amps, now.circuits):
                ends.append(watch.trips_s(state.heat.get(watch.key, 0.0)))
            ends.append(lockout_in(now.case, now.busiest_a, state.overload_s))
            opens = guard_opens(now)
            if opens is not None:
                ends.append(guard_waits_s(opens))
            for item, contact in contacts(now).items():
                ends.append(contact.melts_s(state.rise_k.get(str(item), 0.0)))
        return max(min(ends), 0.0)

    def _goal(self) -> float:
        running = sum(
            one.compressor and isinstance(self.loads[ident], AirConditioner)
            for ident, one in self.state.loads.items()
        )
        return rooms.room_goal(self.room, self.state.outdoor_c, running)

    def _pass(self, now: Now | Dead, seconds: float, *, trips: bool = True) -> None:
        """Let a quiet span pass, and open what has had enough at its end."""
        state = self.state
        hours = seconds / 3600.0
        state.given_wh += now.given_w * hours
        state.loads_wh += now.loads_w * hours
        state.lost_wh += now.lost_w * hours
        state.room_c = rooms.room_after(state.room_c, self._goal(), seconds)
        state.t_s += seconds
        self._drift()
        tripped: list[Watch] = []
        seen: set[str] = set()
        if isinstance(now, Now):
            for watch in watches(now.case, now.amps, now.circuits):
                was = state.heat.get(watch.key, 0.0)
                heat = watch.heat_after(was, seconds)
                state.heat[watch.key] = heat
                seen.add(watch.key)
                x = watch.amps / watch.rating_a
                if heat >= watch.full * (1.0 - 1e-9) or x >= watch.curve.magnetic:
                    tripped.append(watch)
            self._warm(now, seconds)
            stores.use(self.setup, now.case, state, now.given_w, seconds)
        else:
            self._cool(seconds)
        for key, heat in state.heat.items():
            if key not in seen:
                state.heat[key] = heat * math.exp(-seconds / USUAL_BREAKER.tau_s)
        if isinstance(now, Now) and trips:
            self._trips(now, seconds, tripped)
        elif not isinstance(now, Now):
            state.overload_s = max(state.overload_s - seconds, 0.0)

    def _warm(self, now: Now, seconds: float) -> None:
        """Warm the bad contacts of the path by their watts; what is too hot melts."""
        state = self.state
        for item, contact in contacts(now).items():
            rise = contact.rise_after(state.rise_k.get(str(item), 0.0), seconds)
            state.rise_k[str(item)] = rise
            if rise >= MELTS_K * (1.0 - 1e-9) and state.melted < 0:
                state.melted = item
                name = next(p.name for p in now.case.feed.parts if p.item == item)
                says = (
                    f"{name}: its bad contact makes {contact.watts:.0f} W and melts. No breaker "
                    "opens for that. Switch off at the supply; never pull it hot."
                )
                self._say("melted", f"hookup[{item}]", says, now)

    def _cool(self, seconds: float) -> None:
        """Let warm contacts cool while nothing flows."""
        for item, rise in self.state.rise_k.items():
            self.state.rise_k[item] = rise * math.exp(-seconds / WARMS_TAU_S)

    def _trips(self, now: Now, seconds: float, tripped: list[Watch]) -> None:
        state = self.state
        locking_out = lockout_in(now.case, now.busiest_a, state.overload_s)
        state.overload_s = lockout_after(now.case, now.busiest_a, state.overload_s, seconds)
        for watch in tripped:
            if not state.open.get(watch.where):
                state.open[watch.where] = True
                says = f"{watch.amps:.1f} A through a {watch.rating_a:.0f} A breaker."
                self._say("tripped", watch.where, f"The {watch.where} breaker opens: {says}", now)
        if not now.state.converged:
            state.locked_out = True
            self._say("latched", "set", f"No settled state: {now.state.reason}.", now)
        elif locking_out <= seconds + 1e-9:
            state.locked_out = True
            limit = now.case.source.continuous_a
            says = f"{now.busiest_a:.1f} A is more than the {limit:.1f} A it gives for long."
            self._say(
                "latched", "set", f"Its overload opens: {says} The red overload light is on.", now
            )
        else:
            self._guard_trips(now, seconds)
        for at in now.state.dropped_out:
            self._let_go(now.case.demands[at].load.id, now)
        if state.spent and state.set_on:
            state.set_on = False
            self._say("empty", "set", f"No {state.spent} left.", now)
        turning = any(one.compressor for one in state.loads.values())
        starving = stores.starves(
            self.setup, state, now.case.setup.conditions.altitude_m, start=False
        )
        if starving and not state.starved and state.set_on:
            state.starved, state.set_on = True, False
            says = f"The cylinder has cooled to {state.cylinder_c:.0f} °C and feeds it no longer"
            self._say("starved", "set", says + (", a compressor running." if turning else "."), now)

    def _guard_trips(self, now: Now, seconds: float) -> None:
        """Open the guard once it has looked at too much, or too few volts, for its time."""
        opens, guard = guard_opens(now), now.case.feed.guard
        if opens is None or guard is None or seconds < guard_waits_s(opens) - 1e-9:
            return
        self.state.guard_s = self.state.t_s + guard.delay_s
        says = opens.limit.sentence(opens, SentenceContext(now.case, ledger_now(now)))
        self._say("guard-opened", "guard", says, now)

    def _let_go(self, ident: str, now: Now) -> None:
        one = self.state.loads.get(ident)
        if one is not None and not one.held:
            one.held = "let-go"
            name = self.loads[ident].name
            self._say("dropped-out", ident, f"{name} drops out at {now.lowest_v:.0f} V.", now)

    # what is written down

    def _row(self, now: Now | Dead) -> None:
        state = self.state
        hottest = max((h / USUAL_BREAKER.multiple**2 for h in state.heat.values()), default=0.0)
        amps = (*now.amps, 0.0)[:2]
        self._append(
            (
                state.t_s,
                amps[0],
                amps[1],
                now.lowest_v,
                now.given_w,
                state.room_c,
                state.soc if state.soc is not None else -1.0,
                state.fuel_wh if state.fuel_wh is not None else -1.0,
                hottest,
            )
        )

    def _append(self, row: tuple[float, ...]) -> None:
        if self.rows and row[0] < self.rows[-1][0]:
            return
        if len(self.rows) >= MAX_ROWS:
            self.rows[:] = self.rows[::2]
        self.rows.append(row)
