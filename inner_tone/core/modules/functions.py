"""Elementary functions that the kernels call once a sample, faster than the general ones of the C library."""

from inner_tone.core.modules.kernel import compiled


@compiled
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


@compiled
def sine_of_cycle(phase: float) -> float:
    """Return sin 2πx for x in cycles, from -0.5 to 1."""
    x = phase - 1.0 if phase > 0.5 else phase
    if x > 0.25:
        x = 0.5 - x
    elif x < -0.25:
        x = -0.5 - x
    return sine(6.283185307179586 * x)
