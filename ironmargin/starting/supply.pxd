# The types of supply.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython
from libc.math cimport exp

from ironmargin.starting.circuit cimport Network

cdef double NEVER, CARRY_S, SHORT_S, AT_LIMIT, MIN_LEFT, ECO_FRACTION, ECO_TAU_S, FIELD_CEILING
cdef double FIELD_TAU_S, FIELD_BELOW, ARRIVED, UNDERVOLT, GUARD_FILTER_S, GUARD_OVERLOAD_S
cdef int NOTHING, LOCKOUT, UNDERVOLT_LOCKOUT, CUT_OFF, GUARD_LOW, GUARD_OVER, BREAKER


@cython.final
cdef class Supply:
    cdef double limit_a, short, crest_a, limit_w, continuous_a, offset_a, lockout_k_s
    cdef double undervolt_s, leg_v, also_a, cut_off_s, turns, source_strength, lockout, field
    cdef double carried_j, short_left_s, overload, under_s, at_limit_s
    cdef int opened_by
    cdef bint eco, forced
    cdef int[::1] leg, scaled
    cdef double[::1] rating_a, tau_s, trip_heat, magnetic, warm, heat, settles
    cdef double settles_in_s

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self, double source_strength, double lockout, double short) noexcept nogil

    @cython.locals(
        at=cython.int
    )
    cdef void step(self, double h) noexcept nogil

    @cython.locals(
        maximum=cython.double
    )
    cdef double max_a(self, double t_s) noexcept nogil

    cdef double max_w(self) noexcept nogil

    cdef bint rising(self, double t_s) noexcept nogil

    cdef double locked_out(self) noexcept nogil

    @cython.locals(
        at=cython.int, carried=cython.double, amps=cython.double, maximum=cython.double
    )
    cdef bint update(
        self, double h, double a1, double a2, double weakest, double watts
    ) noexcept nogil


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
