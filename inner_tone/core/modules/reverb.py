"""Reverb: the sound of a room, as sixteen delays that feed each other.

A feedback delay network (J.-M. Jot and A. Chaigne, "Digital delay networks for designing artificial reverberators",
AES 90th Convention, 1991): the lines feed each other through an orthogonal matrix, here Hadamard's, which neither
adds nor takes energy, and each line loses as much as its length asks for, so that the whole falls by 60 dB in the
stated time. A pole in each line lets the highs fall faster.
"""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Number, Output, Ruler, dry_sums, numbered, time_input
from inner_tone.core.modules.kernel import Tables, compiled, inlined, plain

LINES = 16
MILLISECONDS = np.array(
    [11.3, 13.1, 15.7, 17.9, 19.9, 22.3, 25.1, 27.7, 31.1, 33.7, 36.7, 40.3, 43.9, 47.9, 52.3, 57.1]
)
LONGEST_MILLISECONDS = float(MILLISECONDS[-1])
LARGEST = 2.0
LONGEST_BEFORE = 0.25  # seconds
QUICKEST = 0.2  # the highest damping lets the highs fall in this part of the time
INTO = np.array([1.0, -1.0, 1.0, 1.0, -1.0, 1.0, -1.0, -1.0, 1.0, -1.0, -1.0, 1.0, 1.0, 1.0, -1.0, -1.0])
LOUDNESS = 0.22
PLACE, DECAY, DAMPING, SIZE, BEFORE_PLACE = range(5)
GAINS = 5  # by line: gain, pole, memory of the pole, and one value under way
POLES, DULLED, UNDER_WAY = GAINS + LINES, GAINS + 2 * LINES, GAINS + 3 * LINES
BEFORE = GAINS + 4 * LINES

MODULE = ModuleType(
    name="reverb",
    family="shape",
    nanoseconds=148,
    title="Reverb",
    summary="Puts the sound into a room that answers for a stated time.",
    words=(
        "room",
        "hall",
        "space",
        "church",
        "distance",
        "tail",
        "far away",
        "wetter",
        "echo",
    ),
    explanation=(
        "In a room every sound comes back from all sides, again and again, thicker and softer. The decay is the time "
        "in which the room falls by 60 dB. Air and walls swallow the highs first: the damping says how much sooner. "
        "What comes before the first answer tells how near the walls are."
    ),
    inputs=(
        Input("in", "audio", "What sounds in the room.", enters="through"),
        time_input("decay", 1.5, "The time in which the room falls by 60 dB."),
        Input(
            "damping",
            "control",
            "How much sooner the highs fall: 0 with the rest, 1 in a fifth of the time.",
            Ruler(0, 1, 0.3),
            bounds=(0.0, 1.0),
        ),
        Input("mix", "control", "From the sound alone, 0, to the room alone, 1.", Ruler(0, 1, 0.3), bounds=(0.0, 1.0)),
    ),
    outputs=(
        Output("left", "audio", "What is heard on the left.", ear="left"),
        Output("right", "audio", "And on the right.", ear="right"),
    ),
    settings=(
        Number("size", Ruler(0.25, LARGEST, 1, "", 0.05), "How far the walls are apart."),
        Number("before", Ruler(0, LONGEST_BEFORE, 0.01, "s", 0.001), "The time before the room answers."),
    ),
    traits=frozenset({"own-time"}),
    usually="path",
    shared=True,
    sums=dry_sums(("left", "right")),
    state_size=lambda rate: BEFORE + plain(before_size)(rate) + LINES * plain(line_size)(rate),
)

IN, OUT, SET = numbered(MODULE)


@compiled
def before_size(rate: float) -> int:
    """Return the samples for which the line before the room has space."""
    return math.ceil(LONGEST_BEFORE * rate) + 2


@compiled
def line_size(rate: float) -> int:
    """Return the samples for which each line of the room has space."""
    return math.ceil(0.001 * LONGEST_MILLISECONDS * LARGEST * rate) + 2


@compiled
def length_of(line: int, size: float, rate: float) -> int:
    """Return the length of a line in samples, always odd, so that fewer echoes fall together."""
    return 2 * int(0.0005 * MILLISECONDS[line] * size * rate) + 1


@compiled
def set_losses(st: Floats, decay: float, damping: float, size: float, rate: float) -> None:
    """Write each line's gain and pole: -60 dB in `decay` seconds at the bottom, in a part of it at the top."""
    quicker = 1.0 - (1.0 - QUICKEST) * damping
    for line in range(LINES):
        samples = length_of(line, size, rate)
        bottom = 10.0 ** (-3.0 * samples / (max(decay, 0.01) * rate))
        top = 10.0 ** (-3.0 * samples / (max(decay, 0.01) * quicker * rate))
        # one pole q with gain g: g / (1 - q) at the bottom, g / (1 + q) at the top
        st[POLES + line] = (bottom - top) / (bottom + top)
        st[GAINS + line] = bottom * (1.0 - st[POLES + line])
    st[DECAY], st[DAMPING], st[SIZE] = decay, damping, size


@inlined
def mix_lines(values: Floats) -> None:
    """Multiply sixteen values by Hadamard's matrix over 4, in place, by sums and differences."""
    for span in (1, 2, 4, 8):
        for base in range(0, LINES, 2 * span):
            for k in range(base, base + span):
                x, y = values[k], values[k + span]
                values[k], values[k + span] = x + y, x - y
    for k in range(LINES):
        values[k] *= 0.25


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Read all lines, dull and weaken them, mix them, and write them back with what comes in."""
    size = p[SET.size]
    sound, decays, dampings = sig[ins[IN.in_], a:b], sig[ins[IN.decay], a:b], sig[ins[IN.damping], a:b]
    mixes = sig[ins[IN.mix], a:b]
    left_out, right_out = sig[outs[OUT.left], a:b], sig[outs[OUT.right], a:b]
    room = before_size(rate)
    before = st[BEFORE : BEFORE + room]
    wait = int(p[SET.before] * rate)
    space = line_size(rate)
    lines = st[BEFORE + room :]
    values = st[UNDER_WAY : UNDER_WAY + LINES]
    place, before_place = int(st[PLACE]), int(st[BEFORE_PLACE])
    for i in range(len(sound)):
        if decays[i] != st[DECAY] or dampings[i] != st[DAMPING] or size != st[SIZE]:
            set_losses(st, decays[i], dampings[i], size, rate)
        before[before_place] = sound[i]
        came = before_place - wait
        x = before[came if came >= 0 else came + room]
        left = right = 0.0
        for line in range(LINES):
            back = place - length_of(line, size, rate)
            value = lines[line * space + (back if back >= 0 else back + space)]
            st[DULLED + line] = st[GAINS + line] * value + st[POLES + line] * st[DULLED + line]
            values[line] = st[DULLED + line]
            if line % 2 == 0:
                left += INTO[line // 2] * value
            else:
                right += INTO[line // 2] * value
        mix_lines(values)
        for line in range(LINES):
            lines[line * space + place] = values[line] + INTO[line] * x
        left_out[i] = sound[i] + mixes[i] * (LOUDNESS * left - sound[i])
        right_out[i] = sound[i] + mixes[i] * (LOUDNESS * right - sound[i])
        place = place + 1 if place + 1 < space else 0
        before_place = before_place + 1 if before_place + 1 < room else 0
    st[PLACE], st[BEFORE_PLACE] = place, before_place
