"""What is known of how long a setup lasts: hours, charge, cost, sound, and their series."""

from __future__ import annotations

from ironmargin.electrics.network import Real
from ironmargin.enduring.battery import BatterySeries
from ironmargin.enduring.boiloff import BoilOff
from ironmargin.enduring.duty import DutyStatistics
from ironmargin.enduring.fuel import FuelUse
from ironmargin.enduring.noise import Sound
from ironmargin.record import record


@record
class Endurance:
    """How long it lasts; what does not apply is None.

    Attributes:
        fuel_h, fuel_h_nominal: on what is on board as really filled, and when full by the plate, at
            the mean draw [h]; a cylinder that starves first ends it.
        fuel_h_worst: with every load that cycles on at the beginning.
        starves_h: when a cylinder is too cold to feed the set, and whether only a compressor start
            does it then [h].
        refills, refill_at_h: how often and when, for the hours wanted [h].
        litres_per_h: fuel rate [l/h].
        cost_per_h, cost_per_night: in the prices' money, a night of ten hours.
        battery_h, battery_h_worst: until the battery's usable part is gone, at the mean draw and in
            the worst phase [h].
        soc_after, lowest_soc: over the hours wanted [1].
        refill_h: from the lowest charge until it is back, with the loads off but for what is always
            on [h].
        input_a: most taken from the input, of each leg [A].
        min_input_a: how far its limit can go down [A].
        mean_w, p95_w: draw [W].
        starts_per_h: of everything that cycles [1/h]; coincident_starts_per_night.
        neighbour_dba: at the site's nearest ear [dBA].
        limit_at_m: where the site's limit lies [m].
        quiet_h: run inside quiet hours [h].
        margin, margin_worst: of the hours asked, at the mean draw and in the worst phase, never
            below −1 [1].
        assumed: (field, value, provenance) of typical fuel curves used.
    """

    mean_w: float
    p95_w: float
    starts_per_h: float
    coincident_starts_per_night: float
    fuel_h: float | None = None
    fuel_h_nominal: float | None = None
    starves_h: float | None = None
    starves_at_start: bool | None = None
    refills: int | None = None
    refill_at_h: tuple[float, ...] | None = None
    litres_per_h: float | None = None
    battery_h: float | None = None
    soc_after: float | None = None
    lowest_soc: float | None = None
    refill_h: float | None = None
    input_a: float | None = None
    min_input_a: float | None = None
    cost_per_h: float | None = None
    cost_per_night: float | None = None
    neighbour_dba: float | None = None
    limit_at_m: float | None = None
    quiet_h: float | None = None
    margin: float | None = None
    fuel_h_worst: float | None = None
    battery_h_worst: float | None = None
    margin_worst: float | None = None
    assumed: tuple[tuple[str, float, str], ...] = ()

    @property
    def lasts_h(self) -> float | None:
        """Hours until the first of fuel and battery is gone [h]; None where neither is known."""
        return min((h for h in (self.fuel_h, self.battery_h) if h is not None), default=None)

    @property
    def lasts_h_worst(self) -> float | None:
        """The same in the worst phase [h]."""
        known = (self.fuel_h_worst, self.battery_h_worst)
        return min((h for h in known if h is not None), default=None)


@record
class Lasting:
    """An endurance with the series and tables behind it; ``sound`` at the mean load, ``loud``
    idling, loaded and at a start.
    """

    endurance: Endurance
    duty: DutyStatistics
    series: dict[str, Real]
    fuels: tuple[FuelUse, ...] = ()
    battery: BatterySeries | None = None
    sound: Sound | None = None
    cylinder: BoilOff | None = None
    with_one_more: BoilOff | None = None
    loud: tuple[tuple[str, Sound], ...] = ()
