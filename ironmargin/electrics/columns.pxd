# The types of columns.py for the compiler. Nothing here changes what it does.
cimport cython
from libc.math cimport sqrt

@cython.locals(
    e1="double complex", e2="double complex", z11="double complex", z12="double complex",
    z22="double complex", v1="double complex", v2="double complex", i1="double complex",
    i2="double complex", y1="double complex", y2="double complex", y12="double complex",
    ya="double complex", yb="double complex", va="double complex", seen="double complex",
    by1="double complex", by2="double complex",
    m11="double complex", m12="double complex", m21="double complex", m22="double complex",
    per="double complex", drawn="double complex", new1="double complex", new2="double complex",
    maximum=cython.int, damped=cython.int, slowest=cython.int, n=cython.int, k=cython.int,
    passes=cython.int, place=cython.int, tolerance=cython.double, off=cython.double,
    change=cython.double, share=cython.double, held=cython.double
)
cpdef int settle_columns(
    double complex[::1] feed, double complex[:, ::1] fixed, double complex[:, ::1] pooled,
    double[:, ::1] kinds, double[::1] bounds, double complex[:, ::1] volts,
    double complex[:, ::1] amps, double[::1] moved, double[::1] gone
)
