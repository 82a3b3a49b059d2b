# The types of lines.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython

from ironmargin.starting.engine cimport Engine, Factors

cdef int PASSES


@cython.final
cdef class Lines:
    cdef Engine engine
    cdef Factors by
    cdef readonly double[::1] plane, needed
    cdef double[:, ::1] doubt
    cdef double[::1] gain
    cdef readonly int[::1] fails, passing
    cdef const double[::1] voc_factor, lockout, short, edges, above, enough
    cdef double[:, ::1] lra, breakaway, points

    @cython.locals(at=cython.int)
    cdef void each(self) noexcept nogil

    @cython.locals(found=cython.double, draw=cython.int)
    cdef double expected(self, int at) noexcept nogil

    @cython.locals(count=cython.int, row=cython.int, draw=cython.int, scale=cython.double)
    cdef void learn(self, int at, double off_by) noexcept nogil

    @cython.locals(outcome=cython.int)
    cdef bint ok(self, int at, int edge) noexcept nogil

    @cython.locals(
        last=cython.int, edge=cython.int, stride=cython.int, fails=cython.int,
        passing=cython.int, guess=cython.double, foreseen=cython.bint
    )
    cdef void observe(self, int at) noexcept nogil
