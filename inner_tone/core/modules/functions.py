"""Elementary functions that the kernels call once a sample, faster than the general ones of the C library."""

from inner_tone.core.arrays import Floats
from inner_tone.core.modules.kernel import compiled, inlined
from inner_tone.core.modules.theory import HIGHEST_CUTOFF_HZ, LOWEST_CUTOFF_HZ


@inlined
def sine(x: float) -> float:
    """Return sin x for x in radians from -π/2 to π/2, by its Taylor series up to x¹⁷; error below 1e-13."""
    y = x * x
    tail = 1.0 / 355687428096000.0
    tail = -1.0 / 1307674368000.0 + y * tail
    tail = 1.0 / 6227020800.0 + y * tail
    tail = -1.0 / 39916800.0 + y * tail
    tail = 1.0 / 362880.0 + y * tail
    tail = -1.0 / 5040.0 + y * tail
    tail = 1.0 / 120.0 + y * tail
    tail = -1.0 / 6.0 + y * tail
    return x + x * y * tail


@inlined
def sine_of_cycle(phase: float) -> float:
    """Return sin 2πx for x in cycles, from -0.5 to 1, without a branch."""
    x = phase - 1.0 if phase > 0.5 else phase
    y = sine(6.283185307179586 * (0.25 - abs(0.25 - abs(x))))
    return y if x >= 0.0 else -y


@inlined
def exp2(x: float) -> float:
    """Return 2ˣ for x from -64 to 64, without a branch; relative error below 1e-13.

    The series of 2^(x/256), squared eight times: arithmetic alone, so that a loop over it runs on vectors.
    """
    y = x * 0.002707606174062286  # ln 2 / 256
    series = 1.0 / 3628800.0
    series = 1.0 / 362880.0 + y * series
    series = 1.0 / 40320.0 + y * series
    series = 1.0 / 5040.0 + y * series
    series = 1.0 / 720.0 + y * series
    series = 1.0 / 120.0 + y * series
    series = 1.0 / 24.0 + y * series
    series = 1.0 / 6.0 + y * series
    series = 0.5 + y * series
    series = 1.0 + y * (1.0 + y * series)
    for _ in range(7):
        series *= series
    return series * series


@inlined
def is_heard(flags: float, first: int, last: int) -> bool:
    """Return whether something listens to one of the outputs from `first` to `last`, given a bit for each output."""
    return (int(flags) >> first) & ((1 << (last - first + 1)) - 1) != 0


@compiled
def is_still(values: Floats) -> bool:
    """Return whether all of some values are the same."""
    moves = 0
    for i in range(1, len(values)):
        moves += values[i] != values[0]
    return moves == 0


@inlined
def moved_cutoff(cutoff_hz: float, shift_hz: float) -> float:
    """Return a cutoff that is moved in hertz, within what can be."""
    return min(HIGHEST_CUTOFF_HZ, max(LOWEST_CUTOFF_HZ, cutoff_hz + shift_hz)) if shift_hz != 0.0 else cutoff_hz


@compiled
def moved(cutoffs: Floats, shifts: Floats, room: Floats) -> Floats:
    """Return the cutoffs of a block, moved in hertz where something moves them, written into `room` then."""
    if shifts[0] == 0.0 and is_still(shifts):
        return cutoffs
    for i in range(len(cutoffs)):
        room[i] = moved_cutoff(cutoffs[i], shifts[i])
    return room
