# The types of engine.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython

from ironmargin.starting.concurrent cimport Branches, Loads
from ironmargin.starting.circuit cimport Network
from ironmargin.starting.motors cimport Motors
from ironmargin.starting.supply cimport Guard, Supply

cdef double NEVER
cdef int UNDECIDED, STARTS, STALLS, TRIPS, VOLTS_STAY_LOW, DROPS_OUT, UNSOLVED, FIRST_PASSES
cdef int NOTHING, BREAKER, FIXED
cdef double HORIZON_S, RECOVERED, PATIENCE_S, STANDSTILL_S, CALM, CALM_STEPS, STILL_STEPS
cdef double SETTLE_S, ABSURD_V


@cython.final
cdef class Factors:
    cdef public double source_strength, path, voc_factor, lockout, short


@cython.final
cdef class Engine:
    cdef readonly double peak_a, lowest_v, up_s, opened_s, nearest_lockout, decided_s
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

