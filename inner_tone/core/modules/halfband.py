"""Half-band filters for sampling four times as often, and back again.

Elliptic half-band filters as two branches of all-pass sections, designed in closed form: the sections' coefficients
follow from Jacobi's theta functions (M. Lutovac, D. Tošić and B. Evans, "Filter design for signal processing", 2001,
chapter 12; R. Ansari and B. Liu, "Efficient sampling rate alteration using recursive (IIR) digital filters", IEEE
Trans. ASSP 31, 1983). They let pass up to 20 kHz with an error far below a hundredth of a decibel and need only a few
multiplications.
"""

import math

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.modules.kernel import compiled


def coefficients(count: int, transition: float) -> Floats:
    """Return the coefficients of a half-band filter's all-pass sections, shape (count,), in rising order.

    `transition` is the width of the transition band over the sampling rate; even places are one branch, odd places
    the other.
    """
    k = math.tan(0.25 * math.pi * (1.0 - 2.0 * transition)) ** 2
    root = (1.0 - k * k) ** 0.25
    e = 0.5 * (1.0 - root) / (1.0 + root)
    nome = e + 2.0 * e**5 + 15.0 * e**9 + 150.0 * e**13
    order = 2 * count + 1
    return np.array([coefficient(place, order, k, nome) for place in range(1, count + 1)])


def coefficient(place: int, order: int, k: float, nome: float) -> float:
    """Return one section's coefficient from the theta functions' series."""
    turn = place * math.pi / order
    above = sum((-1.0) ** i * nome ** (i * (i + 1)) * math.sin((2 * i + 1) * turn) for i in range(8))
    below = 0.5 + sum((-1.0) ** i * nome ** (i * i) * math.cos(2 * i * turn) for i in range(1, 8))
    w = nome**0.25 * above / below
    x = math.sqrt((1.0 - w * w * k) * (1.0 - w * w / k)) / (1.0 + w * w)
    return float((1.0 - x) / (1.0 + x))


NEAR = coefficients(7, 0.083)  # between the rate and twice the rate: up to 20 kHz of 48
FAR = coefficients(3, 0.29)  # between twice and four times the rate
NEAR_SIZE = 2 * len(NEAR)
FAR_SIZE = 2 * len(FAR)


@compiled
def branch(x: float, memory: Floats, sections: Floats, first: int) -> float:
    """Return a sample that has passed every second all-pass section from `first` on."""
    for place in range(first, len(sections), 2):
        at = 2 * place
        y = sections[place] * (x - memory[at + 1]) + memory[at]
        memory[at], memory[at + 1] = x, y
        x = y
    return float(x)
