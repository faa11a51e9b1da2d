"""Delay: gives back what came in, later, and again and again.

The filter that dulls each echo delays it too. The line is read so much earlier that the tone of a short delay has the
pitch that its time says: the phase delay of the loop as a whole is what counts (J. O. Smith, "Physical audio signal
processing", 2010, on tuning a string).
"""

import math

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, Law, ModuleType, Output, Ruler, dry_sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled, inlined
from inner_tone.core.modules.tempo import LOCKED, division, lock, samples_of, written_free

LONGEST_SECONDS = 4.0
LEAST_SAMPLES = 3.0  # what the interpolation needs
ALTERNATE = 1
PLACE, LEFT_TONE, RIGHT_TONE, NOW, GOAL, STEP, BUFFER = range(7)
TURN_SECONDS = 0.01  # in which a time that is locked goes to that of another tempo
LOUDEST = 1e6  # keeps the memory finite whatever is fed in

MODULE = ModuleType(
    name="delay",
    family="shape",
    nanoseconds=57,
    title="Delay",
    summary="Gives back what came in a while ago.",
    words=(
        "echo",
        "repeat",
        "space",
        "distance",
        "slapback",
        "chorus",
        "behind",
        "feedback",
    ),
    explanation=(
        "A delay keeps the sound for its time and then lets it out again. What is led back by the feedback comes "
        "again and again, each time softer, and each time duller if the tone is lowered. With a few milliseconds "
        "it is a colour, with some tenths of a second an echo."
    ),
    inputs=(
        Input("in", "audio", "What is kept.", enters="through"),
        Input(
            "time",
            "control",
            "How long it is kept, unless locked to the tempo.",
            Ruler(0.001, LONGEST_SECONDS, 0.3, "s", 0.001, "log"),
            Law.OCTAVES,
            tuned=True,
            bounds=(0.0, LONGEST_SECONDS),
            works_with=("lock", "free"),
        ),
        Input(
            "feedback",
            "control",
            "How much of each echo is kept once more.",
            Ruler(0, 0.99, 0.35, "", 0.01),
            bounds=(-0.99, 0.99),
        ),
        Input(
            "tone",
            "control",
            "Above which frequency each echo loses, 6 dB per octave.",
            Ruler(200, 20_000, 20_000, "Hz", 1, "log"),
            Law.SEMITONES,
            bounds=(20.0, 22_000.0),
        ),
        Input(
            "mix", "control", "From the sound alone, 0, to the echoes alone, 1.", Ruler(0, 1, 0.35), bounds=(0.0, 1.0)
        ),
    ),
    outputs=(
        Output("left", "audio", "What is heard on the left.", ear="left"),
        Output("right", "audio", "And on the right.", ear="right"),
    ),
    settings=(
        Choice(
            "sides",
            ("both", "alternate"),
            "both",
            "Whether each echo is heard on both sides or they change sides.",
            words=("on both", "changing"),
        ),
        lock("Whether its time follows the phrase's tempo."),
        division("3/4", "How long it keeps the sound when it follows the tempo."),
    ),
    traits=frozenset({"own-time"}),
    usually="path",
    shared=True,
    sums=dry_sums(("left", "right")),
    written=written_free,
    state_size=lambda rate: BUFFER + 2 * line_size(rate),
)

IN, OUT, SET = numbered(MODULE)


def line_size(rate: float) -> int:
    """Return the samples for which one side has room."""
    return math.ceil(LONGEST_SECONDS * rate) + 8


@inlined
def read_back(line: Floats, place: int, delay: float) -> float:
    """Return what stood in a circular line a number of samples ago, between samples by a cubic (Hermite's).

    `place` is where the next sample will be written.
    """
    size = len(line)
    whole = math.floor(delay)
    part = delay - whole
    at = place - int(whole)
    y0, y1, y2, y3 = line[(at + 1) % size], line[at % size], line[(at - 1) % size], line[(at - 2) % size]
    c1 = 0.5 * (y2 - y0)
    c2 = y0 - 2.5 * y1 + 2.0 * y2 - 0.5 * y3
    c3 = 0.5 * (y3 - y0) + 1.5 * (y1 - y2)
    value: float = ((c3 * part + c2) * part + c1) * part + y1
    return value


@inlined
def lateness(part: float, delay: float) -> float:
    """Return by how many samples y += part · (x − y) delays a sine whose cycle lasts a number of samples."""
    if part >= 1.0:
        return 0.0
    turn = 2.0 * math.pi / delay
    return math.atan2((1.0 - part) * math.sin(turn), 1.0 - (1.0 - part) * math.cos(turn)) / turn


@inlined
def held(value: float) -> float:
    """Return a value kept finite."""
    return min(LOUDEST, max(-LOUDEST, value))


@inlined
def aim(st: Floats, goal: float, duration: float) -> None:
    """Let the time that is locked to the tempo set out for another one, in samples; the first one is there at once."""
    if goal != st[GOAL]:
        if st[GOAL] == 0.0:
            st[NOW] = goal
        st[GOAL], st[STEP] = goal, (goal - st[NOW]) / duration


@inlined
def nearer(st: Floats) -> float:
    """Return the time that is locked to the tempo in the next sample."""
    left = st[GOAL] - st[NOW]
    now: float = st[GOAL] if abs(left) <= abs(st[STEP]) else st[NOW] + st[STEP]
    st[NOW] = now
    return now


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Read both lines, dull what comes out, and write it back with what comes in.

    When the sides alternate, the sound goes into the left line, the left into the right and the right into the left.
    """
    alternate, locked = p[SET.sides] == ALTERNATE, p[SET.lock] == LOCKED
    sound, times, feedbacks = sig[ins[IN.in_], a:b], sig[ins[IN.time], a:b], sig[ins[IN.feedback], a:b]
    tones, mixes = sig[ins[IN.tone], a:b], sig[ins[IN.mix], a:b]
    left_out, right_out = sig[outs[OUT.left], a:b], sig[outs[OUT.right], a:b]
    size = (len(st) - BUFFER) // 2
    left, right = st[BUFFER : BUFFER + size], st[BUFFER + size : BUFFER + 2 * size]
    place = int(st[PLACE])
    dull_left, dull_right = st[LEFT_TONE], st[RIGHT_TONE]
    most = min(LONGEST_SECONDS * rate, float(size - 5))
    aim(st, samples_of(int(p[SET.division]), p[SET.tempo], rate), TURN_SECONDS * rate)
    tone = wished = -1.0
    part = 1.0
    delay = LEAST_SAMPLES
    for i in range(len(sound)):
        wanted = nearer(st) if locked else times[i] * rate
        if tones[i] != tone or wanted != wished:
            tone, wished = tones[i], wanted
            part = 1.0 if tone >= 20_000.0 else 1.0 - math.exp(-2.0 * math.pi * tone / rate)
            whole = max(LEAST_SAMPLES, wanted)
            delay = min(most, max(LEAST_SAMPLES, whole - lateness(part, whole)))
        dull_left += part * (read_back(left, place, delay) - dull_left)
        x = sound[i]
        if alternate:
            dull_right += part * (read_back(right, place, delay) - dull_right)
            left[place] = held(x + feedbacks[i] * dull_right)
            right[place] = held(dull_left * feedbacks[i])
        else:
            dull_right = dull_left
            left[place] = held(x + feedbacks[i] * dull_left)
        left_out[i] = x + mixes[i] * (dull_left - x)
        right_out[i] = x + mixes[i] * (dull_right - x)
        place = place + 1 if place + 1 < size else 0
    st[PLACE], st[LEFT_TONE], st[RIGHT_TONE] = place, dull_left, dull_right
