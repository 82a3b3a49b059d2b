# The types of edge.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython

from ironmargin.starting.engine cimport Engine, Factors

cdef int PASSES


@cython.final
cdef class Edge:
    cdef Engine engine
    cdef double[::1] ones, down, up, beyond
    cdef int[::1] back
    cdef double weakest, strongest, factor, tolerance
    cdef Factors by
    cdef bint by_path, at_one, found, rough

    cdef bint ok(self, double source_strength) noexcept nogil

    cdef double past(self, int at) noexcept nogil

    @cython.locals(
        at=cython.int, inside=cython.double, outside=cython.double, middle=cython.double,
        step=cython.double, source_strength=cython.double
    )
    cdef void walk(self) noexcept nogil

    @cython.locals(at=cython.int, step=cython.double, nearer=cython.bint)
    cdef void step(self) noexcept nogil
