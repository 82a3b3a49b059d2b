# The types of motors.py for the compiler: attributes, arguments and locals.
# Nothing here changes what it does.
cimport cython
from libc.math cimport sqrt

from ironmargin.starting.circuit cimport Network

cdef double STANDS, RUNS, SMALLEST_SLIP, RELAY_OPENS, FADED, BYPASS, BYPASS_S
cdef double SOFT_BEGINS, SOFT_FULL_VOLTS, SOFT_MIN_VOLTS, SOFT_GIVES_UP_S, SOFT_WAITS_S, RINGS
cdef double STILL, MAX_LOADED


@cython.final
cdef class Motors:
    cdef int count
    cdef int[::1] place, on, starting, relay, branch
    cdef double[::1] ratio, rated_v, plate_r1, plate_r2, plate_x, series_r, series_x, torque_fl
    cdef double[::1] slip_fl, gear, gear_current, plate_breakaway, at_speed, inertia_s, soft_a
    cdef double[::1] soft_ramp_s, soft_torque, r1, r2, x, breakaway, speed, before, slope, rotor
    cdef double[::1] square, at_motor, conducts, ramped_s, drawn
    cdef double low_s, still_s, fastest
    cdef bint soft_busy, gave_up

    @cython.locals(
        at=cython.int
    )
    cdef void begin(self, double[::1] lra, double[::1] breakaway) noexcept nogil

    @cython.locals(
        at=cython.int, resistance=cython.double, source_strength=cython.double,
        drawn="double complex",
        real=cython.double, whole=cython.double
    )
    cdef void admittance(self, Network network) noexcept nogil

    @cython.locals(
        at=cython.int, share=cython.double, wish=cython.double, set_a=cython.double
    )
    cdef void ramp(self, double h) noexcept nogil

    @cython.locals(
        gain=cython.double, held_back=cython.double
    )
    cdef double torque_gain(self, int at) noexcept nogil

    @cython.locals(
        at=cython.int, v=cython.double, drive=cython.double, slope=cython.double,
        moved=cython.double, beyond=cython.double, stiff=cython.double, requested=cython.double,
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
        at=cython.int, minimum=cython.double
    )
    cdef double late_share(self) noexcept nogil
