# The types of engine.py for the compiler: attributes, arguments and locals. Nothing here changes what it does.
cimport cython
from libc.math cimport exp, sqrt

cdef int UNDECIDED, STARTS, STALLS, TRIPS, VOLTS_STAY_LOW, LETS_GO, UNSOLVED, FIRST_PASSES
cdef int PASSES_AT_A_LIMIT
cdef double HORIZON_S, RECOVERED, PATIENCE_S, STANDS, STANDSTILL_S, RUNS, CALM, RINGS, SETTLE_S
cdef double SMALLEST_SLIP, RELAY_OPENS, FADED, BYPASS, BYPASS_S, SOFT_BEGINS, SOFT_FULL_VOLTS
cdef double SOFT_LEAST_VOLTS, SOFT_GIVES_UP_S, SOFT_WAITS_S, CARRY_S, SHORT_S, ECO_FRACTION
cdef double ECO_TAU_S, FIELD_CEILING, FIELD_TAU_S, UNDERVOLT, GUARD_FILTER_S, TINY


cdef double size(double complex z) noexcept nogil


@cython.final
cdef class Network:
    cdef bint two_legs, tied
    cdef int conductors
    cdef double complex e1, e2, z11, z12, z22, v1, v2
    cdef double complex[::1] supply_z, path_z, y
    cdef double[::1] volts
    cdef double a1, a2, watts

    cdef void begin(self, double strength, double path, double lift) noexcept nogil

    cdef void see(self) noexcept nogil

    @cython.locals(
        v11="double complex", v12="double complex", v21="double complex", v22="double complex",
        i11="double complex", i12="double complex", i21="double complex", i22="double complex",
        m11="double complex", m12="double complex", m21="double complex", m22="double complex",
        across="double complex", from1="double complex", from2="double complex",
        per="double complex", by1="double complex", by2="double complex", i1="double complex",
        i2="double complex", lift1=cython.double, lift2=cython.double, first=cython.double,
        second=cython.double, power=cython.double, again=cython.int
    )
    cdef void solve(self, double lift, double most_a, double most_w) noexcept nogil


@cython.final
cdef class Loads:
    cdef double complex[::1] fixed, rated, now, rush
    cdef int[::1] place, live, blinked, rush_place
    cdef double[::1] nominal_v, lets_go, returns, rush_tau_s
    cdef double rushing_s
    cdef int off

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self) noexcept nogil

    @cython.locals(
        at=cython.int, share=cython.double, target="double complex", rush="double complex"
    )
    cdef void admittance(self, Network network, double t_s) noexcept nogil


@cython.final
cdef class Motors:
    cdef int count
    cdef int[::1] place, on, starting, relay
    cdef double[::1] ratio, rated_v, plate_r1, plate_r2, plate_x, series_r, series_x, torque_fl
    cdef double[::1] slip_fl, gear, gear_current, plate_breakaway, at_speed, inertia_s, soft_a
    cdef double[::1] soft_ramp_s, soft_torque, r1, r2, x, breakaway, speed, before, slope, rotor
    cdef double[::1] square, at_motor, conducts, ramped_s
    cdef double low_s, still_s, fastest
    cdef bint soft_busy, gave_up

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self, double[::1] lra, double[::1] breakaway) noexcept nogil

    @cython.locals(
        at=cython.int, resistance=cython.double, strength=cython.double, drawn="double complex"
    )
    cdef void admittance(self, Network network) noexcept nogil

    @cython.locals(
        at=cython.int, share=cython.double, wish=cython.double, set_a=cython.double
    )
    cdef void soften(self, double h) noexcept nogil

    @cython.locals(
        gain=cython.double, held_back=cython.double
    )
    cdef double torque_gain(self, int at) noexcept nogil

    @cython.locals(
        at=cython.int, v=cython.double, drive=cython.double, slope=cython.double,
        moved=cython.double, beyond=cython.double, stiff=cython.double, asked=cython.double,
        all_still=cython.bint, standing=cython.bint
    )
    cdef void turn(self, Network network, double h, double before_h) noexcept nogil

    @cython.locals(
        at=cython.int
    )
    cdef bint up(self) noexcept nogil

    cdef bint fell(self, int at) noexcept nogil

    @cython.locals(
        at=cython.int, found=cython.int
    )
    cdef int pulled_out(self) noexcept nogil

    @cython.locals(
        at=cython.int
    )
    cdef bint standing(self) noexcept nogil

    @cython.locals(
        at=cython.int, least=cython.double
    )
    cdef double late_share(self) noexcept nogil


@cython.final
cdef class Supply:
    cdef double limit_a, short, crest_a, limit_w, continuous_a, offset_a, latch_k_s
    cdef double undervolt_s, leg_v, also_a, guard_low_v, turns, strength, latch, field
    cdef double carried_j, short_left_s, overload, under_s, guard_s
    cdef bint eco, forced
    cdef int[::1] leg, scaled
    cdef double[::1] rating_a, tau_s, trip_heat, magnetic, warm, heat, settles
    cdef double settles_in_s

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self, double strength, double latch, double short) noexcept nogil

    @cython.locals(
        at=cython.int
    )
    cdef void pace(self, double h) noexcept nogil

    @cython.locals(
        most=cython.double
    )
    cdef double most_a(self, double t_s) noexcept nogil

    cdef double most_w(self) noexcept nogil

    @cython.locals(
        at=cython.int, carried=cython.double, amps=cython.double, opened=cython.bint,
        most=cython.double
    )
    cdef bint feel(self, double h, double a1, double a2, double weakest, double watts) noexcept nogil


@cython.final
cdef class Engine:
    cdef readonly double peak_a, lowest_v, up_s, opened_s, nearest_latch, decided_s
    cdef readonly int off, fallen, kept
    cdef readonly long runs
    cdef readonly object log
    cdef Network network
    cdef Loads loads
    cdef Motors motors
    cdef Supply supply
    cdef double step_s
    cdef double[:, ::1] pages

    cpdef int one_start(
        self, double strength, double path, double lift, double latch, double short, double[::1] lra, double[::1] breakaway, bint keep=*
    )

    @cython.locals(
        t=cython.double, h=cython.double, before_h=cython.double, waited_s=cython.double,
        quiet_s=cython.double, weakest=cython.double, source_a=cython.double,
        outcome=cython.int, opened=cython.bint, well=cython.bint, step=cython.int,
        again=cython.int
    )
    cdef int follow(
        self, double strength, double path, double lift, double latch, double short, double[::1] lra, double[::1] breakaway, bint keep
    ) noexcept nogil

    @cython.locals(recovering=cython.double)
    cdef bint stuck(self, double t) noexcept nogil

    cdef double next_step(self, double t) noexcept nogil

    cdef void begin(
        self, double strength, double path, double lift, double latch, double short, double[::1] lra, double[::1] breakaway, bint keep
    ) noexcept nogil

    @cython.locals(
        at=cython.int
    )
    cdef void note(self, double t, double source_a) noexcept nogil
