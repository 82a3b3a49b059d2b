# The types of concurrent.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython
from libc.math cimport exp

from ironmargin.starting.circuit cimport Network
from ironmargin.starting.motors cimport Motors

cdef double BACK_S, FOLLOWS, RUSHES
cdef int NOTHING, BRANCH


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
cdef class Branches:
    cdef int count, opened_by
    cdef double[::1] rating_a, tau_s, trip_heat, magnetic, warm, concurrent_a, heat, amps

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self) noexcept nogil

    @cython.locals(
        at=cython.int, carried=cython.double
    )
    cdef bint update(self, double h, Motors motors, Loads loads) noexcept nogil
