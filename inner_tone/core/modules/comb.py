"""Comb: adds a sound to itself a moment later, so that every multiple of one frequency is lifted or taken away.

y[n] = x[n] + g · y[n − D] with feedback, or x[n] + g · x[n − D] fed forward: J. O. Smith, "Physical audio signal
processing", 2010, chapter on comb filters. A delay between samples is read by Lagrange's cubic, which is flat in the
lower half of the spectrum.
"""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, Law, ModuleType, Output, Ruler, numbered
from inner_tone.core.modules.kernel import Tables, compiled, inlined, plain
from inner_tone.core.modules.theory import Complexes, ResponseTheory, Settings, analogue_turns

LONGEST_SECONDS = 0.05
LEAST_SAMPLES = 2.0  # what the interpolation needs
LOUDEST = 1e6  # keeps the memory finite whatever is fed in
STRONGEST = 0.9999  # a feedback of 1 would never die away
BACK, FORTH = range(2)
PLACE, BUFFER = range(2)


def theory_response(settings: Settings, frequencies_hz: Floats, rate: float) -> Complexes:
    """Return the response of a comb at frequencies in Hz: 1 / (1 − g z⁻ᴰ), or 1 + g z⁻ᴰ where it feeds forward.

    A delay of D samples that are not whole is the cubic through four of them, as the running comb reads it.
    """
    turns = analogue_turns(frequencies_hz, rate)
    delay = min(max(LEAST_SAMPLES, float(settings["time"]) * rate), LONGEST_SECONDS * rate)
    whole = math.floor(delay)
    weights = plain(lagrange)(delay - whole)
    late: Complexes = np.sum([w * turns ** (whole - 1 + tap) for tap, w in enumerate(weights)], axis=0)
    feedback = max(-STRONGEST, min(STRONGEST, float(settings["feedback"])))
    mix = float(settings["mix"])
    combed = 1.0 / (1.0 - feedback * late) if settings["way"] == "back" else 1.0 + feedback * late
    found: Complexes = 1.0 + mix * (combed - 1.0)
    return found


def spacing_hz(settings: Settings) -> float:
    """Return how far the teeth stand apart in Hz."""
    return 1.0 / max(float(settings["time"]), 1e-5)


def first_tooth_hz(settings: Settings) -> float:
    """Return the frequency of the first tooth in Hz above 0: turned over, teeth stand where gaps would be."""
    return spacing_hz(settings) * (0.5 if float(settings["feedback"]) < 0.0 else 1.0)


def line_size(rate: float) -> int:
    """Return the samples for which there is room."""
    return math.ceil(LONGEST_SECONDS * rate) + 8


@inlined
def lagrange(part: float) -> tuple[float, float, float, float]:
    """Return the weights of the samples at −1, 0, 1 and 2 for a place between those at 0 and 1."""
    a, b, c, d = part + 1.0, part, part - 1.0, part - 2.0
    return -b * c * d / 6.0, a * c * d / 2.0, -a * b * d / 2.0, a * b * c / 6.0


MODULE = ModuleType(
    name="comb",
    family="shape",
    nanoseconds=30,
    title="Comb",
    summary="Lifts or takes away every multiple of one frequency.",
    words=(
        "comb filter",
        "metallic",
        "hollow",
        "tube",
        "string",
        "pluck",
        "resonator",
        "flange",
        "ringing",
        "tuned noise",
        "plucked string",
    ),
    explanation=(
        "A comb adds the sound to itself a few thousandths of a second later. Where the delay is a whole number of "
        "cycles both add up, halfway between they cancel: the spectrum becomes a row of teeth, evenly spaced. With "
        "much feedback it rings at the frequency whose cycle lasts as long as the delay, as a tube or a string does; "
        "with negative feedback it rings an octave lower and leaves out the even partials."
    ),
    inputs=(
        Input("in", "audio", "What is added to itself.", enters="through"),
        Input(
            "time",
            "control",
            "How much later: the teeth stand one over this apart. Other modules move it in octaves.",
            Ruler(0.00005, LONGEST_SECONDS, 0.005, "s", 0.00001, "log"),
            Law.OCTAVES,
            tuned=True,
            bounds=(0.0, LONGEST_SECONDS),
            bends=True,
        ),
        Input(
            "feedback",
            "control",
            "How much is added: 0 is nothing, near 1 it rings for long, below 0 it is turned over.",
            Ruler(-1, 1, 0.7, "", 0.01),
            bounds=(-1.0, 1.0),
        ),
        Input(
            "mix", "control", "From the sound alone, 0, to the combed one alone, 1.", Ruler(0, 1, 1), bounds=(0.0, 1.0)
        ),
    ),
    outputs=(Output("out", "audio", "The sound with its teeth."),),
    settings=(
        Choice(
            "way",
            ("back", "forth"),
            "back",
            "Whether what comes out is led back, again and again, or what goes in is added once.",
            words=("feedback", "once"),
        ),
    ),
    traits=frozenset({"own-time"}),
    usually="path",
    seen_over="cycles",
    picture="response",
    theory=ResponseTheory(
        theory_response,
        landmark="first tooth",
        landmark_hz=first_tooth_hz,
        across=None,
        ring="feedback",
        steady=0.9,
        spacing_hz=spacing_hz,
    ),
    state_size=lambda rate: BUFFER + line_size(rate),
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Read the line a delay ago, add it, and write what comes out, or what went in, back into it."""
    back = int(p[SET.way]) == BACK
    sound, times, feedbacks = sig[ins[IN.in_], a:b], sig[ins[IN.time], a:b], sig[ins[IN.feedback], a:b]
    mixes, out = sig[ins[IN.mix], a:b], sig[outs[OUT.out], a:b]
    line = st[BUFFER:]
    size = len(line)
    most = LONGEST_SECONDS * rate
    place = int(st[PLACE])
    time = -1.0
    whole = 2
    w0 = w1 = w2 = w3 = 0.0
    for i in range(len(out)):
        if times[i] != time:
            time = times[i]
            delay = min(most, max(LEAST_SAMPLES, time * rate))
            whole = int(delay)
            w0, w1, w2, w3 = lagrange(delay - whole)
        at = place - whole + size
        late = (
            w0 * line[(at + 1) % size] + w1 * line[at % size] + w2 * line[(at - 1) % size] + w3 * line[(at - 2) % size]
        )
        feedback = max(-STRONGEST, min(STRONGEST, feedbacks[i]))
        combed = sound[i] + feedback * late
        line[place] = max(-LOUDEST, min(LOUDEST, combed if back else sound[i]))
        out[i] = sound[i] + mixes[i] * (combed - sound[i])
        place = place + 1 if place + 1 < size else 0
    st[PLACE] = place
