"""Quantise: brings a pitch to the nearest note of a scale."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.kernel import Tables, compiled

SCALES = {
    "chromatic": (0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11),
    "major": (0, 2, 4, 5, 7, 9, 11),
    "minor": (0, 2, 3, 5, 7, 8, 10),
    "harmonic-minor": (0, 2, 3, 5, 7, 8, 11),
    "pentatonic": (0, 2, 4, 7, 9),
    "minor-pentatonic": (0, 3, 5, 7, 10),
    "whole-tone": (0, 2, 4, 6, 8, 10),
    "fifths": (0, 7),
    "octaves": (0,),
}


def nearest_steps() -> Floats:
    """Return, by scale and by whole semitone of the octave, the notes beside it: shape (scales, 12, 2).

    The two notes of the scale that a pitch within that semitone can be nearest to, from below and from above.
    """
    table = np.zeros((len(SCALES), 12, 2))
    for number, notes in enumerate(SCALES.values()):
        spread = np.array([note + octave for octave in (-12, 0, 12) for note in notes])
        for semitone in range(12):
            table[number, semitone, 0] = np.max(spread[spread <= semitone])
            table[number, semitone, 1] = np.min(spread[spread > semitone])
    return table


STEPS = nearest_steps()

MODULE = ModuleType(
    name="quantise",
    family="steer",
    nanoseconds=19,
    title="Quantise",
    summary="Brings a pitch to the nearest note of a scale.",
    words=(
        "in tune",
        "scale of notes",
        "nearest note",
        "chromatic",
        "major",
        "minor",
        "semitones",
        "quantiser",
        "quantizer",
        "quantize",
    ),
    explanation=(
        "A quantiser lets a pitch stand only on the notes of a scale: whatever comes in goes to the nearest of them. "
        "A movement by chance becomes a melody, and a slow rise a run. Midway between two notes it takes the lower."
    ),
    inputs=(Input("in", "pitch", "Any pitch, in semitones.", bounds=(-240.0, 240.0), enters="through"),),
    outputs=(Output("out", "pitch", "The nearest note of the scale, in semitones.", rest="meant"),),
    settings=(
        Choice(
            "scale",
            tuple(SCALES),
            "chromatic",
            "The notes that are allowed.",
            words=tuple(name.replace("-", " ") for name in SCALES),
        ),
        Number("root", Ruler(0, 11, 0, "st", 1), "The note that the scale begins on, in semitones above C."),
    ),
    usually="pitch",
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Look up the notes of the scale on both sides and take the nearer one."""
    scale = int(p[SET.scale])
    root = math.floor(p[SET.root] + 0.5)
    for i in range(a, b):
        pitch = sig[ins[IN.in_], i] - root
        octave = math.floor(pitch / 12.0)
        within = pitch - 12.0 * octave
        semitone = min(11, int(within))
        below, above = STEPS[scale, semitone, 0], STEPS[scale, semitone, 1]
        nearest = below if within - below <= above - within else above
        sig[outs[OUT.out], i] = root + 12.0 * octave + nearest
