"""Noise: white, pink, brown and blue, the same for the same seed."""

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.chance import uniform
from inner_tone.core.modules.declaration import Choice, ModuleType, Number, Output, Ruler, numbered, without
from inner_tone.core.modules.kernel import Tables, compiled

WHITE, PINK, BROWN, BLUE = range(4)
COUNT, LAST_WHITE, BROWN_LEVEL, LAST_PINK, BANK = range(5)
BANDS = 14

MODULE = ModuleType(
    name="noise",
    family="source",
    nanoseconds=7,
    title="Noise",
    summary="All frequencies at once, by chance: wind, surf, breath.",
    words=(
        "hiss",
        "wind",
        "rain",
        "surf",
        "breath",
        "white",
        "pink",
        "brown",
        "drum",
        "percussion",
        "random sound",
        "white noise",
    ),
    explanation=(
        "Noise has no pitch, since nothing in it repeats. White noise has the same strength at every frequency and "
        "hisses; pink noise falls by 3 dB with every octave and sounds even to the ear; brown noise falls by 6 dB and "
        "rumbles; blue noise rises by 3 dB. The same seed gives the same noise every time."
    ),
    outputs=(Output("out", "audio", "The noise."),),
    settings=(
        Choice("colour", ("white", "pink", "brown", "blue"), "white", "How its strength changes with frequency."),
        Number("seed", Ruler(0, 999, 1, "", 1), "Another seed, another noise of the same colour.", role="seed"),
    ),
    traits=frozenset({"source", "own-time", "random"}),
    written=without("seed"),
    usually="beside",
    one="noise",
    state_size=lambda rate: BANK + BANDS,
)

IN, OUT, SET = numbered(MODULE)


# Independent noises through first-order low-passes, an octave apart, whose powers add up to 1/f: their squared gains
# are the solution of a non-negative least-squares problem over 15 Hz to 21 kHz (and the last one is white).
PINK_SQUARES = np.array(
    [
        5.2592,
        9.9503e-10,
        0.57288,
        0.16384,
        0.12053,
        0.043249,
        0.030212,
        0.011097,
        0.0065472,
        0.0043647,
        5.2004e-19,
        0.0023462,
        6.6244e-05,
        4.5897e-30,
    ]
)
PINK_RMS = 0.3
PINK_POLES = np.append(np.exp(-2.0 * np.pi * 4.0 / 48_000.0 * 2.0 ** np.arange(BANDS - 1)), 0.0)
PINK_GAINS = (
    np.sqrt(PINK_SQUARES)
    * (1.0 - PINK_POLES)
    * PINK_RMS
    / np.sqrt(np.sum(PINK_SQUARES * (1.0 - PINK_POLES) / (1.0 + PINK_POLES)) / 3.0)
)
BROWN_CORNER = 6.0 / 48_000.0
BROWN_POLE = float(np.exp(-2.0 * np.pi * BROWN_CORNER))
BROWN_ZERO = 0.101  # bends the top down to -6 dB per octave: b/(1+b)² = 1/12, the sine's second-order term
BROWN_GAIN = 0.3 * float(np.sqrt(3.0 * (1.0 - BROWN_POLE**2))) / (1.0 + BROWN_ZERO)
BLUE_GAIN = 2.0


@compiled
def pink(st: Floats, count: int, seed: int) -> float:
    """Return the next value of pink noise."""
    total = 0.0
    for band in range(BANDS):
        at = BANK + band
        st[at] = PINK_POLES[band] * st[at] + PINK_GAINS[band] * uniform(count * BANDS + band, seed)
        total += st[at]
    return total


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """White: numbers by chance. Pink: a bank of low-passes. Brown: an integrator that leaks. Blue: pink's steps."""
    colour = int(p[SET.colour])
    seed = int(p[SET.seed])
    for i in range(a, b):
        count = int(st[COUNT])
        st[COUNT] += 1.0
        if colour == WHITE:
            sig[outs[OUT.out], i] = uniform(count, seed)
        elif colour == BROWN:
            white = BROWN_GAIN * uniform(count, seed)
            st[BROWN_LEVEL] = BROWN_POLE * st[BROWN_LEVEL] + white + BROWN_ZERO * st[LAST_WHITE]
            st[LAST_WHITE] = white
            sig[outs[OUT.out], i] = st[BROWN_LEVEL]
        else:
            value = pink(st, count, seed)
            sig[outs[OUT.out], i] = value if colour == PINK else BLUE_GAIN * (value - st[LAST_PINK])
            st[LAST_PINK] = value
