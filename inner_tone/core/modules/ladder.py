"""Ladder: four poles in a row with the output led back to the input, as in the circuit of transistors.

Each pole is a trapezoidal integrator; the loop is solved without delay, saturation included (V. Zavalishin, "The
art of VA filter design", 2012, chapter 6). The saturating stage is v / √(1 + v²). A memoryless stage does not turn
the phase of a fundamental, so the ladder oscillates where its four poles turn it by half a cycle: at the cutoff,
at the level where saturation brings the gain of the loop down to one.
"""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Number, Output, Ruler, cutoff_inputs, numbered
from inner_tone.core.modules.functions import exp2, moved_cutoff, sine
from inner_tone.core.modules.kernel import Tables, compiled, inlined
from inner_tone.core.modules.theory import Complexes, ResponseTheory, Settings, cutoff_hz

HEADROOM = 3.0  # the level at which the stage saturates
EDGE_OF_SONG = 4.0  # the feedback with which four poles just oscillate
SURPLUS = 0.8  # what is added to it at resonance 1
SINGING = 0.999
SPARK = 1e-6
OCTAVES_PER_DB = math.log2(10.0) / 20.0
HIGHEST_ANGLE = 0.92 * math.pi
MOST_ROUNDS = 12
CLOSE = 1e-10


def theory_response(settings: Settings, frequencies_hz: Floats, rate: float) -> Complexes:
    """Return the response of a ladder to a small sound, at frequencies in Hz: poles in a row, the last led back.

    V. Zavalishin, "The art of VA filter design", 2012, chapter 5. The rungs are trapezoidal integrators, so s goes
    by the tangent of half the angle.
    """
    s = 1j * np.tan(np.pi * frequencies_hz / rate) / math.tan(math.pi * cutoff_hz(settings) / rate)
    rung = 1.0 / (1.0 + s)
    feedback = EDGE_OF_SONG * float(settings["resonance"])
    gain = 10.0 ** (float(settings["drive"]) / 20.0)
    found: Complexes = gain * rung ** int(settings["poles"]) / (1.0 + feedback * rung**4)
    return found


MODULE = ModuleType(
    name="ladder",
    family="shape",
    nanoseconds=87,
    title="Ladder",
    summary="A low-pass of up to four poles that sings, growls, and thins out the lows as it does.",
    words=(
        "darker",
        "brighter",
        "warmer",
        "fat",
        "low-pass",
        "squelch",
        "circuit",
        "transistor",
        "cutoff",
        "resonance",
        "drive",
        "vcf",
        "lpf",
        "low pass",
    ),
    explanation=(
        "A ladder is a low-pass filter of four equal rungs, each taking away 6 dB per octave above the cutoff. Its "
        "output is led back, turned over, to its input: at the cutoff that adds, which is the resonance, and below it "
        "takes away, so the lows grow thin. Its input stage saturates, so it answers loud sounds with overtones "
        "of its own."
    ),
    inputs=(
        Input("in", "audio", "The sound to be filtered.", enters="through"),
        *cutoff_inputs("Where the rungs begin to take away."),
        Input(
            "resonance",
            "control",
            "How much is led back: at 1 the ladder sings by itself.",
            Ruler(0, 1, 0, "", 0.01),
            bounds=(0.0, 1.0),
            role="ring",
        ),
        Input(
            "drive",
            "control",
            "How loud the sound enters the stage that saturates.",
            Ruler(-24, 36, 0, "dB", 0.5),
            bounds=(-60.0, 60.0),
            bends=True,
        ),
    ),
    outputs=(Output("out", "audio", "What is left after the last rung in use."),),
    settings=(
        Number("poles", Ruler(1, 4, 4, "", 1), "After which rung the sound is taken: 6 dB per octave for each."),
    ),
    traits=frozenset({"sings"}),
    usually="path",
    shut_by="cutoff",
    seen_over="cycles",
    picture="response",
    theory=ResponseTheory(theory_response),
    state_size=lambda rate: 4,
)

IN, OUT, SET = numbered(MODULE)


@inlined
def half_tangent(angle: float) -> float:
    """Return tan(angle/2) for an angle from 0 to less than π."""
    half = 0.5 * angle
    return sine(half) / sine(0.5 * math.pi - half)


@inlined
def feedback_of(resonance: float) -> float:
    """Return how much is led back at a resonance from 0 to 1."""
    return EDGE_OF_SONG * resonance + SURPLUS * max(0.0, (resonance - SINGING) / (1.0 - SINGING))


@compiled
def stage_input(target: float, gain: float) -> float:
    """Return v where v + gain · v / √(1 + v²) = target.

    Newton's method from the side of zero: the left side is concave there, so every round comes nearer and none
    goes too far.
    """
    v = target / (1.0 + gain)
    for _ in range(MOST_ROUNDS):
        square = 1.0 + v * v
        root = math.sqrt(square)
        miss = v + gain * v / root - target
        v -= miss / (1.0 + gain / (square * root))
        if abs(miss) < CLOSE * (1.0 + abs(target)):
            break
    return v


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Solve the loop at each sample, then move the four memories on."""
    poles = int(p[SET.poles])
    sound, cutoffs, resonances = sig[ins[IN.in_], a:b], sig[ins[IN.cutoff], a:b], sig[ins[IN.resonance], a:b]
    drives = sig[ins[IN.drive], a:b]
    out = sig[outs[OUT.out], a:b]
    s1, s2, s3, s4 = st[0], st[1], st[2], st[3]
    shifts = sig[ins[IN.linear], a:b]
    cutoff = drive = -1e9
    gain = part = rest = 1.0
    for i in range(len(out)):
        here = moved_cutoff(cutoffs[i], shifts[i])
        if here != cutoff:
            cutoff = here
            g = half_tangent(min(2.0 * math.pi * cutoff / rate, HIGHEST_ANGLE))
            rest = 1.0 / (1.0 + g)
            part = g * rest
        if drives[i] != drive:
            drive = drives[i]
            gain = exp2(OCTAVES_PER_DB * drive)
        k = feedback_of(resonances[i])
        x = gain * sound[i] + (SPARK if resonances[i] > SINGING else 0.0)
        memory = rest * (s4 + part * (s3 + part * (s2 + part * s1)))
        v = stage_input((x - k * memory) / HEADROOM, k * part * part * part * part)
        u = HEADROOM * v / math.sqrt(1.0 + v * v)
        rise = part * (u - s1)
        y1 = rise + s1
        s1 = y1 + rise
        rise = part * (y1 - s2)
        y2 = rise + s2
        s2 = y2 + rise
        rise = part * (y2 - s3)
        y3 = rise + s3
        s3 = y3 + rise
        rise = part * (y3 - s4)
        y4 = rise + s4
        s4 = y4 + rise
        out[i] = y4 if poles == 4 else y3 if poles == 3 else y2 if poles == 2 else y1
    st[0], st[1], st[2], st[3] = s1, s2, s3, s4
