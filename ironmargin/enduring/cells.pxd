# The types of cells.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython

cdef double REFILL_STEP_H, LONGEST_REFILL_H, ROUNDING


@cython.final
cdef class Cells:
    cdef double capacity_wh, efficiency, sun_w, bulk_w, charger_w, taper_from, taper_end
    cdef readonly double input_w, charge_w, battery_w
    cdef double held, empty_h
    cdef bint sun_first
    cdef const double[::1] load
    cdef double[:, ::1] rows

    @cython.locals(share=cython.double)
    cpdef double accepted_w(self, double soc) noexcept nogil

    @cython.locals(
        needed=cython.double, into=cython.double, by_sun=cython.double, left=cython.double,
        given=cython.double, spare=cython.double
    )
    cpdef void share(
        self, double requested_w, double max_w, double charging, double room_w
    ) noexcept nogil

    @cython.locals(
        at=cython.int, wish=cython.double, room=cython.double, out=cython.double,
        fed=cython.double, maximum=cython.double
    )
    cdef void walk(
        self, double step_h, double floor, double own_w, double max_w, double charging
    ) noexcept nogil

    @cython.locals(hours=cython.double, rate=cython.double)
    cpdef double refill(
        self, double soc, double back_to, double base_w, double max_w, double charging
    ) noexcept nogil
