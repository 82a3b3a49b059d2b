# The types of circuit.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython
from libc.math cimport sqrt

cdef int PASSES_AT_A_LIMIT
cdef double SETTLED


cdef double size(double complex z) noexcept nogil


@cython.final
cdef class Network:
    cdef bint two_legs, tied
    cdef int conductors
    cdef double complex e1, e2, z11, z12, z22, v1, v2, i1, i2
    cdef double complex[::1] supply_z, path_z, y
    cdef double[::1] volts
    cdef double a1, a2, watts

    cdef void begin(self, double source_strength, double path, double voc_factor) noexcept nogil

    cdef void see(self) noexcept nogil

    cdef double magnitude(self, double complex z) noexcept nogil

    @cython.locals(
        v11="double complex", v12="double complex", v21="double complex", v22="double complex",
        i11="double complex", i12="double complex", i21="double complex", i22="double complex",
        m11="double complex", m12="double complex", m21="double complex", m22="double complex",
        across="double complex", from1="double complex", from2="double complex",
        per="double complex", by1="double complex", by2="double complex", i1="double complex",
        i2="double complex", lift1=cython.double, lift2=cython.double, first=cython.double,
        second=cython.double, power=cython.double, again=cython.int
    )
    cdef void solve(self, double voc_factor, double max_a, double max_w) noexcept nogil
