# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False
# cython: cdivision=True, annotation_typing=False
"""The cells of a battery, stepped in time between a load, an input and what charges them straight.

A night in steps of ten seconds is thousands of them, and a search asks for many nights. Compiled
like the start engine, with the types of ``cells.pxd``.
"""

from __future__ import annotations

import numpy as np

from ironmargin.electrics.network import Real

REFILL_STEP_H, LONGEST_REFILL_H = 0.05, 24.0 * 30
"""How finely a refill is stepped, and after how long it counts as never [h]."""
ROUNDING = 1e-9
"""By so much more than is left in it a step may ask and the battery is not called empty [1]."""


class Cells:
    """A battery with its inverter and what feeds them.

    After :meth:`share`: ``input_w`` from the input, ``charge_w`` of what charges it straight as
    much as is used, ``battery_w`` out of the battery, negative into it [W].
    """

    def __init__(
        self,
        capacity_wh: float,
        efficiency: float,
        sun_w: float,
        bulk_w: float,
        charger_w: float,
        taper: tuple[float, float],
        sun_first: bool = False,
    ) -> None:
        """Take capacity [Wh], the inverter's efficiency [1], what charges it straight [W], what
        the cells take while they are low, the most the charger gives [W], from which charge the
        power falls to which share of it when full [1], and whether what charges it straight feeds a
        load before the input does.
        """
        self.sun_first = sun_first
        self.capacity_wh, self.efficiency, self.sun_w = capacity_wh, efficiency, sun_w
        self.bulk_w, self.charger_w = bulk_w, charger_w
        self.taper_from, self.taper_end = taper
        self.input_w = self.charge_w = self.battery_w = 0.0
        self.held, self.empty_h = 0.0, -1.0

    def accepted_w(self, soc: float) -> float:
        """What they take at a state of charge.

        Args:
            soc: state of charge [1].

        Returns:
            Watts [W].
        """
        share = 1.0
        if soc > self.taper_from:
            share -= (1.0 - self.taper_end) * (soc - self.taper_from) / (1.0 - self.taper_from)
            share = max(share, self.taper_end)
        return min(self.bulk_w * share, self.charger_w)

    def share(self, requested_w: float, max_w: float, charging: float, room_w: float) -> None:
        """What input, sun and battery give to a load: the input first, up to its limit, then what
        charges the battery straight, then the battery itself; with ``sun_first`` the input after
        the sun. What is left charges it; sun that it does not take is lost, and of the input no
        more is drawn than it takes.

        ``(requested − input)/η_inverter`` is needed of the battery's side; what charges it is
        ``surplus·η_charger + sun``.

        Args:
            requested_w: of the load at the output, the inverter's own draw with it [W].
            max_w: most the input gives [W].
            charging: share of the input that arrives in the battery [1].
            room_w: most the battery takes now [W].
        """
        if self.sun_first:
            by_sun = min(self.sun_w, requested_w / self.efficiency)
            left = max(requested_w - by_sun * self.efficiency, 0.0)
            given = min(left, max_w)
            spare = min(self.sun_w - by_sun, max(room_w, 0.0))
            into = max(min((max_w - given) * charging, room_w - spare), 0.0)
            self.charge_w = by_sun + spare
            self.input_w = given + into / charging
            self.battery_w = (left - given) / self.efficiency - spare - into
            return
        if requested_w > max_w:
            needed = (requested_w - max_w) / self.efficiency
            into = max(min(self.sun_w - needed, room_w), 0.0)
            self.input_w = max_w
            self.charge_w = min(self.sun_w, needed) + into
            self.battery_w = max(needed - self.sun_w, 0.0) - into
            return
        into = max(min((max_w - requested_w) * charging + self.sun_w, room_w), 0.0)
        self.charge_w = min(self.sun_w, into)
        self.input_w = requested_w + (into - self.charge_w) / charging
        self.battery_w = -into

    def run(
        self, load_w: Real, step_h: float, soc: float, floor: float, own_w: float, max_w: float,
        charging: float, rows: Real,
    ) -> float | None:  # fmt: skip
        """Step through a load; at the low-battery stop what is beyond input and sun is not fed.

        Args:
            load_w: draw at the output at each step (n,) [W].
            step_h: length of a step [h].
            soc: charge to begin with [1].
            floor: charge at the low-battery stop [1].
            own_w: the inverter's own draw, as load at its output [W].
            max_w: most the input gives [W].
            charging: share of the input that arrives in the battery [1].
            rows: filled with what is fed, from the input, of the sun, out of the battery [W], and
                the charge after each step [1] (5, n).

        Returns:
            When the low-battery stop first came, or None [h].
        """
        self.load, self.rows = np.ascontiguousarray(load_w, dtype=float), rows
        self.held, self.empty_h = soc, -1.0
        self.walk(step_h, floor, own_w, max_w, charging)
        return float(self.empty_h) if self.empty_h >= 0.0 else None

    def walk(
        self, step_h: float, floor: float, own_w: float, max_w: float, charging: float
    ) -> None:
        """The steps of :meth:`run`.

        Args:
            step_h: length of a step [h].
            floor: charge at the low-battery stop [1].
            own_w: the inverter's own draw, as load at its output [W].
            max_w: most the input gives [W].
            charging: share of the input that arrives in the battery [1].
        """
        for at in range(self.load.shape[0]):
            wish = self.load[at]
            room = min(self.accepted_w(self.held), (1.0 - self.held) * self.capacity_wh / step_h)
            self.share(wish + own_w, max_w, charging, room)
            out, fed = self.battery_w, wish
            maximum = max(self.held - floor, 0.0) * self.capacity_wh / step_h
            if out > maximum:
                if out * (1.0 - ROUNDING) > maximum and self.empty_h < 0.0:
                    self.empty_h = (at + maximum / out) * step_h
                fed = max(wish - (out - maximum) * self.efficiency, 0.0)
                out = maximum
            self.held -= out * step_h / self.capacity_wh
            self.rows[0, at], self.rows[1, at] = fed, self.input_w
            self.rows[2, at], self.rows[3, at] = self.charge_w, out
            self.rows[4, at] = self.held

    def refill(
        self, soc: float, back_to: float, base_w: float, max_w: float, charging: float
    ) -> float:
        """Hours until the charge is back with only a base load on.

        Args:
            soc: state of charge to begin with [1].
            back_to: state of charge it is to have [1].
            base_w: of the load meanwhile [W].
            max_w: most the input gives [W].
            charging: share of the input that arrives in the battery [1].

        Returns:
            Hours, −1 if it never is [h].
        """
        hours = 0.0
        while hours < LONGEST_REFILL_H:
            self.share(base_w, max_w, charging, self.accepted_w(soc))
            if self.battery_w >= 0.0:
                return -1.0
            rate = -self.battery_w / self.capacity_wh
            if soc + rate * REFILL_STEP_H >= back_to:
                return hours + (back_to - soc) / rate
            soc += rate * REFILL_STEP_H
            hours += REFILL_STEP_H
        return -1.0
