# The types of engine.py for the compiler: attributes, arguments and locals. Nothing here changes what it does.
cimport cython
from libc.math cimport exp

from ironmargin.starting.circuit cimport Network
from ironmargin.starting.motors cimport Motors

cdef double NEVER
cdef int UNDECIDED, STARTS, STALLS, TRIPS, VOLTS_STAY_LOW, LETS_GO, UNSOLVED, FIRST_PASSES
cdef double HORIZON_S, RECOVERED, PATIENCE_S, STANDSTILL_S, CALM, SETTLE_S, CARRY_S, SHORT_S
cdef double ECO_FRACTION, ECO_TAU_S, FIELD_CEILING, FIELD_TAU_S, UNDERVOLT, GUARD_FILTER_S, BACK_S
cdef double GUARD_OVERLOAD_S
cdef int NOTHING, LOCKOUT, UNDERVOLT_LOCKOUT, CUT_OFF, GUARD_LOW, GUARD_OVER, BREAKER, BRANCH


@cython.final
cdef class Factors:
    cdef public double strength, path, lift, latch, short


@cython.final
cdef class Loads:
    cdef double complex[::1] fixed, rated, now, rush
    cdef int[::1] place, live, away, blinked, rush_place, rush_branch
    cdef double[::1] nominal_v, dropout, pickup, rush_tau_s, gone_s, rush_a
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
cdef class Supply:
    cdef double limit_a, short, crest_a, limit_w, continuous_a, offset_a, latch_k_s
    cdef double undervolt_s, leg_v, also_a, cut_off_s, turns, strength, latch, field
    cdef double carried_j, short_left_s, overload, under_s, at_limit_s
    cdef int opened_by
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
    cdef void step(self, double h) noexcept nogil

    @cython.locals(
        most=cython.double
    )
    cdef double most_a(self, double t_s) noexcept nogil

    cdef double most_w(self) noexcept nogil

    @cython.locals(
        at=cython.int, carried=cython.double, amps=cython.double, most=cython.double
    )
    cdef bint update(self, double h, double a1, double a2, double weakest, double watts) noexcept nogil


@cython.final
cdef class Guard:
    cdef double low_v, over_a, turns, path, low_s, over_s
    cdef double complex[::1] after
    cdef bint present
    cdef int opened_by

    cdef void begin(self, double path) noexcept nogil

    @cython.locals(
        i1="double complex", i2="double complex", volts=cython.double, amps=cython.double,
        second=cython.double
    )
    cdef bint update(self, double h, Network network) noexcept nogil


@cython.final
cdef class Branches:
    cdef int count, opened_by
    cdef double[::1] rating_a, tau_s, trip_heat, magnetic, warm, beside_a, heat, amps

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self) noexcept nogil

    @cython.locals(
        at=cython.int, carried=cython.double
    )
    cdef bint update(self, double h, Motors motors, Loads loads) noexcept nogil


@cython.final
cdef class Engine:
    cdef readonly double peak_a, lowest_v, up_s, opened_s, nearest_latch, decided_s
    cdef readonly int opened_by
    cdef readonly int off, fallen, kept
    cdef readonly long runs
    cdef readonly object log
    cdef Network network
    cdef Loads loads
    cdef Motors motors
    cdef Supply supply
    cdef Guard guard
    cdef Branches branches
    cdef double step_s
    cdef double[:, ::1] pages

    cpdef int one_start(
        self, Factors by, double[::1] lra, double[::1] breakaway, bint keep=*
    )

    @cython.locals(
        t=cython.double, h=cython.double, before_h=cython.double, waited_s=cython.double,
        quiet_s=cython.double, weakest=cython.double, source_a=cython.double,
        outcome=cython.int, opened=cython.bint, well=cython.bint, step=cython.int,
        again=cython.int, what=cython.int, at_once=cython.bint
    )
    cdef int follow(
        self, Factors by, double[::1] lra, double[::1] breakaway, bint keep
    ) noexcept nogil

    @cython.locals(recovering=cython.double)
    cdef bint stuck(self, double t) noexcept nogil

    cdef double next_step(self, double t) noexcept nogil

    cdef void begin(
        self, Factors by, double[::1] lra, double[::1] breakaway
    ) noexcept nogil

    @cython.locals(
        at=cython.int
    )
    cdef void note(self, double t, double source_a) noexcept nogil
