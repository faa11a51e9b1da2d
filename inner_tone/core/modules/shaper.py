"""Shaper: bends the wave by a curve, which brings forth new partials.

It works at four times the sampling rate. There the curves with corners are also averaged over the way from one sample
to the next by means of their antiderivative, which weakens what would fold back (J. Parker, V. Zavalishin and E. Le
Bivic, "Reducing the aliasing of nonlinear waveshaping using continuous-time convolution", DAFx 2016).
"""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules import theory
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.functions import exp2
from inner_tone.core.modules.halfband import FAR, FAR_SIZE, NEAR, NEAR_SIZE, branch
from inner_tone.core.modules.kernel import Tables, compiled, inlined
from inner_tone.core.modules.theory import CurveTheory, Settings

SOFT, HARD, FOLD, HARMONIC = range(4)
OCTAVES_PER_DB = math.log2(10.0) / 20.0
FARTHEST = 1000.0
NEARLY_SAME = 1e-5
REST_HZ = 5.0  # what stands still below this is taken from a harmonic
UP_NEAR = 4
UP_FAR = UP_NEAR + NEAR_SIZE
DOWN_FAR = UP_FAR + FAR_SIZE
DOWN_NEAR = DOWN_FAR + FAR_SIZE
LAST, REST, BEGUN = range(3)


def theory_curve(settings: Settings, values: Floats) -> Floats:
    """Return what a shaper's curve makes of each value, its bias and mix counted in."""
    gain, bias, mix = 10.0 ** (float(settings["drive"]) / 20.0), float(settings["bias"]), float(settings["mix"])
    moved = gain * values + bias
    curve = str(settings["curve"])
    if curve == "harmonic":
        # what stands still is not let through: the mean over a sine of full scale
        turns = 2.0 * np.pi * np.arange(1024) / 1024
        order = float(settings["harmonic"])
        made = theory.chebyshev(moved, order) - float(np.mean(theory.chebyshev(gain * np.sin(turns) + bias, order)))
    else:
        made = theory_bent(moved, curve) - theory_bent(np.array([bias]), curve)[0]
    return np.asarray((1.0 - mix) * values + mix * made)


def theory_bent(values: Floats, curve: str) -> Floats:
    """Return the values of the soft curve, of the one with corners, or of the folded one."""
    if curve == "soft":
        return np.asarray(values / np.sqrt(1.0 + values**2))
    if curve == "hard":
        return np.clip(values, -1.0, 1.0)
    return np.asarray(2.0 / np.pi * np.arcsin(np.sin(0.5 * np.pi * values)))


def rest_hz(settings: Settings) -> float:
    """Return below which frequency a shaper takes away what stands still: only from a harmonic."""
    return REST_HZ if settings["curve"] == "harmonic" else 0.0


MODULE = ModuleType(
    name="shaper",
    family="shape",
    nanoseconds=101,
    title="Shaper",
    summary="Bends the wave by a curve, and so makes new partials.",
    words=(
        "distort",
        "distortion",
        "harder",
        "dirtier",
        "rougher",
        "fold",
        "clip",
        "overdrive",
        "saturate",
        "brighter",
        "more partials",
        "wavefolder",
        "aggressive",
        "waveshaper",
        "clipping",
        "limiter",
    ),
    explanation=(
        "A shaper reads each value of the sound off a curve. A straight line would change nothing; a curve that "
        "flattens adds odd partials, gently if it bends softly, harshly if it has a corner; a curve that folds back "
        "turns one hill of the wave into several. The louder the sound enters, the farther up the curve it gets: "
        "drive is brightness."
    ),
    inputs=(
        Input("in", "audio", "What is bent.", enters="through"),
        Input(
            "drive",
            "control",
            "How loud the sound enters the curve.",
            Ruler(-24, 48, 0, "dB", 0.5),
            bounds=(-60.0, 60.0),
            bends=True,
            role="drive",
        ),
        Input(
            "bias",
            "control",
            "Moves the sound along the curve, which brings even partials.",
            Ruler(-1, 1, 0),
            bounds=(-10.0, 10.0),
        ),
        Input(
            "mix",
            "control",
            "From the sound alone, 0, to the bent one alone, 1.",
            Ruler(0, 1, 1),
            bounds=(0.0, 1.0),
            role="mix",
        ),
    ),
    outputs=(Output("out", "audio", "The sound with its new partials."),),
    settings=(
        Choice(
            "curve",
            ("soft", "hard", "fold", "harmonic"),
            "soft",
            "Flattens softly, cuts off, folds back, or turns a full-scale sine into one of its harmonics.",
            words=("soft clip", "hard clip", "fold", "one harmonic"),
        ),
        Number(
            "harmonic",
            Ruler(1, 12, 3, "", 1),
            "Which harmonic a full-scale sine becomes (Chebyshev's polynomial).",
            works_with=("curve", "harmonic"),
        ),
    ),
    usually="path",
    seen_over="cycles",
    picture="curve",
    theory=CurveTheory(theory_curve, rest_hz, {"mix": 0}),
    state_size=lambda rate: DOWN_NEAR + NEAR_SIZE,
)

IN, OUT, SET = numbered(MODULE)


@inlined
def bent(x: float, curve: int) -> float:
    """Return the value of a curve with corners, or of the soft one."""
    if curve == SOFT:
        return x / math.sqrt(1.0 + x * x)
    if curve == HARD:
        return min(1.0, max(-1.0, x))
    turn = 0.25 * (x + 1.0)
    place = 4.0 * (turn - math.floor(turn))
    return place - 1.0 if place < 2.0 else 3.0 - place


@inlined
def area(x: float, curve: int) -> float:
    """Return the antiderivative of a curve."""
    if curve == SOFT:
        return math.sqrt(1.0 + x * x)
    if curve == HARD:
        return 0.5 * x * x if abs(x) <= 1.0 else abs(x) - 0.5
    turn = 0.25 * (x + 1.0)
    place = 4.0 * (turn - math.floor(turn))
    return place * (0.5 * place - 1.0) if place < 2.0 else place * (3.0 - 0.5 * place) - 4.0


@compiled
def averaged(x: float, last: float, curve: int) -> float:
    """Return the mean of a curve between two neighbouring values."""
    if abs(x - last) < NEARLY_SAME:
        return bent(0.5 * (x + last), curve)
    return (area(x, curve) - area(last, curve)) / (x - last)


@compiled
def chebyshev(x: float, order: int) -> float:
    """Return Chebyshev's polynomial of the first kind, which makes cos nφ of cos φ."""
    x = min(1.0, max(-1.0, x))
    before, value = 1.0, x
    for _ in range(order - 1):
        before, value = value, 2.0 * x * value - before
    return value


@compiled
def shaped(x: float, st: Floats, gain: float, bias: float, curve: int, order: int) -> float:
    """Return a sample of the fourfold rate, shaped; what the bias alone would give is taken away."""
    moved = min(FARTHEST, max(-FARTHEST, gain * x + bias))
    if curve == HARMONIC:
        return chebyshev(moved, order)
    value = averaged(moved, st[LAST], curve) - bent(bias, curve)
    st[LAST] = moved
    return value


@compiled
def rested(value: float, st: Floats, order: int, bias: float, pole: float) -> float:
    """Return a harmonic without what stands still, so that silence stays silent."""
    if st[BEGUN] == 0.0:
        st[BEGUN] = 1.0
        st[REST] = chebyshev(bias, order)
    st[REST] += pole * (value - st[REST])
    moving: float = value - st[REST]
    return moving


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Go up to four times the rate, shape and mix there, and come back."""
    curve, order = int(p[SET.curve]), int(p[SET.harmonic])
    sound, drives, biases = sig[ins[IN.in_], a:b], sig[ins[IN.drive], a:b], sig[ins[IN.bias], a:b]
    mixes = sig[ins[IN.mix], a:b]
    out = sig[outs[OUT.out], a:b]
    up_near, up_far = st[UP_NEAR:UP_FAR], st[UP_FAR:DOWN_FAR]
    down_far, down_near = st[DOWN_FAR:DOWN_NEAR], st[DOWN_NEAR : DOWN_NEAR + NEAR_SIZE]
    pole = 1.0 - math.exp(-2.0 * math.pi * REST_HZ / rate)
    drive = -1e9
    gain = 1.0
    for i in range(len(out)):
        if drives[i] != drive:
            drive = drives[i]
            gain = exp2(OCTAVES_PER_DB * drive)
        halves = branch(sound[i], up_near, NEAR, 0), branch(sound[i], up_near, NEAR, 1)
        found = 0.0
        for half in range(2):
            x = halves[half]
            early, late = branch(x, up_far, FAR, 0), branch(x, up_far, FAR, 1)
            bent_early = shaped(early, st, gain, biases[i], curve, order)
            bent_late = shaped(late, st, gain, biases[i], curve, order)
            early += mixes[i] * (bent_early - early)
            late += mixes[i] * (bent_late - late)
            joined = 0.5 * (branch(late, down_far, FAR, 0) + branch(early, down_far, FAR, 1))
            found += 0.5 * branch(joined, down_near, NEAR, 1 - half)
        out[i] = rested(found, st, order, biases[i], pole) if curve == HARMONIC else found
