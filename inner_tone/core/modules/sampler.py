"""Sampler: plays a sound that was made beforehand, faster or slower, forward or backward, round a loop."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints, Samples
from inner_tone.core.modules.declaration import (
    OPENS,
    Choice,
    Input,
    ModuleType,
    Number,
    Output,
    Ruler,
    Settings,
    Value,
    numbered,
)
from inner_tone.core.modules.functions import exp2
from inner_tone.core.modules.kernel import Sounds, Tables, compiled
from inner_tone.core.modules.sounds import LIBRARY
from inner_tone.core.modules.stock import MARGIN, VERSIONS, key_of

TAPS = 16
PHASES = 256
ON = 1
FASTEST = 600.0  # the version with the least treble is good for so much
UNFOLDED = 1.2  # times as fast as a version was made for: its treble comes to half of the sampling rate then
ANEW_SECONDS = 0.003  # in which what sounded gives way when the sound begins anew
SHORTEST_LOOP = 16.0  # samples
MOST_HEARD = 4096  # samples from which it is told how alike both sides of a loop are
BEGUN_ANEW = 2.0  # how alike: no correlation is that
PLACE, PLAYING, LAST_GATE, OLD_PLACE, SPAN, GONE, ALIKE = range(7)


def written(settings: Settings) -> dict[str, Value]:
    """Return the settings in one way of writing: an own sound by what it is, and no loop that is not played."""
    found: dict[str, Value] = {**settings, "sound": key_of(settings["sound"]) or settings["sound"]}
    if settings["loop"] == "off":
        found |= {"loop_from": 0.0, "loop_to": 0.0, "crossfade": 0.0}
    if settings["keys"] == "ignored":
        found |= {"root": 0.0, "pitch": 0.0}
    return found


MODULE = ModuleType(
    name="sampler",
    family="source",
    nanoseconds=92,
    title="Sampler",
    summary="Plays a recorded sound at the speed that its pitch asks for.",
    words=(
        "recording",
        "sample",
        "real sound",
        "own sound",
        "play back",
        "loop",
        "reverse",
        "sample playback",
    ),
    explanation=(
        "A sampler plays a sound from its memory. Higher notes play it faster, so everything in it becomes higher "
        "and shorter at once: a bell turns into a smaller bell. With loop on it repeats a stretch of the sound for as "
        "long as the gate is open, then plays on to the end. Where the stretch begins again, what was goes over into "
        "what comes within the crossfade, so that nothing clicks."
    ),
    inputs=(
        Input(
            "pitch",
            "pitch",
            "At the root pitch the sound has its own speed.",
            Ruler(-60, 60, 0, "st", 1),
            bounds=(-240.0, 240.0),
            bends=True,
            rare=True,
            works_with=("keys", "followed"),
        ),
        Input("gate", "gate", "Begins the sound; while open, a loop goes on.", does=OPENS),
        Input(
            "start",
            "control",
            "Where in the sound it begins, from 0 to 1.",
            Ruler(0, 1, 0),
            bounds=(0.0, 1.0),
            rare=True,
        ),
    ),
    outputs=(Output("out", "audio", "The sound."),),
    settings=(
        Choice("sound", tuple(LIBRARY), "bell", "What is played.", own=True),
        Number(
            "root",
            Ruler(-60, 60, 0, "st", 1),
            "The pitch at which it sounds as it was recorded.",
            works_with=("keys", "followed"),
        ),
        Choice("loop", ("off", "on"), "off", "Whether a stretch of it repeats while the gate is open."),
        Number("end", Ruler(0, 1, 1), "Where in the sound it ends, from 0 to 1.", rare=True, grain=16),
        Number(
            "loop_from",
            Ruler(0, 1, 0),
            "Where the stretch begins that repeats. With both ends at 0 it is the loop that the sound came with.",
            works_with=("loop", "on"),
            grain=16,
        ),
        Number(
            "loop_to",
            Ruler(0, 1, 0),
            "Where the stretch ends that repeats.",
            works_with=("loop", "on"),
            grain=16,
        ),
        Number(
            "crossfade",
            Ruler(0, 1, 0.02, "s", 0.001),
            "How much of the sound it takes to go over from the end of the loop to its beginning.",
            works_with=("loop", "on"),
            grain=16,
        ),
        Choice("direction", ("forward", "backward"), "forward", "Which way it is played."),
        Choice(
            "keys",
            ("followed", "ignored"),
            "followed",
            "Whether higher notes play it faster, or every note plays it at its own speed.",
        ),
    ),
    traits=frozenset({"source", "own-time", "recorded"}),
    usually="beside",
    written=written,
    state_size=lambda rate: 7,
)

IN, OUT, SET = numbered(MODULE)


def windowed_sinc() -> Floats:
    """Return the interpolation's weights, shape (PHASES + 1, TAPS): a sinc under a Kaiser window."""
    distance = np.arange(TAPS) - (TAPS // 2 - 1) - np.arange(PHASES + 1)[:, np.newaxis] / PHASES
    window = np.i0(9.0 * np.sqrt(np.maximum(0.0, 1.0 - (distance / (TAPS // 2)) ** 2))) / np.i0(9.0)
    weights = np.sinc(distance) * window
    return np.asarray(weights / np.sum(weights, axis=1, keepdims=True))


WEIGHTS = windowed_sinc()


@compiled
def between(samples: Samples, at: int, part: float) -> float:
    """Return what lies a part of the way from sample `at` to the next one."""
    phase = part * PHASES
    row = int(phase)
    rest = phase - row
    value = 0.0
    for tap in range(TAPS):
        weight = WEIGHTS[row, tap] + rest * (WEIGHTS[row + 1, tap] - WEIGHTS[row, tap])
        value += weight * samples[at + tap - (TAPS // 2 - 1)]
    return value


@compiled
def version_for(speed: float) -> int:
    """Return the version with so little treble that nothing folds back at a speed."""
    return 0 if speed <= UNFOLDED else min(VERSIONS - 1, math.ceil(math.log2(speed / UNFOLDED)))


@compiled
def heard_at(stock: Sounds, row: int, version: int, place: float) -> float:
    """Return a sound at a place, in samples of what is played; before its beginning and after its end it is silent."""
    at = place * stock.scale[row, version]
    whole = math.floor(at)
    if whole < -MARGIN // 2 or whole > stock.size[row, version] + MARGIN // 2 - 1:
        return 0.0
    return between(stock.samples, stock.start[row, version] + int(whole), at - whole)


@compiled
def alike(stock: Sounds, row: int, one: float, other: float, span: float) -> float:
    """Return how alike a sound is from one place on and from another, -1 to 1: the correlation of `span` samples."""
    count = min(MOST_HEARD, int(span))
    first = second = both = 1e-12
    for n in range(count):
        a = heard_at(stock, row, 0, one + n * span / count)
        b = heard_at(stock, row, 0, other + n * span / count)
        first += a * a
        second += b * b
        both += a * b
    return max(-1.0, min(1.0, both / math.sqrt(first * second)))


@compiled
def loop_in(stock: Sounds, row: int, p: Floats, rate: float) -> tuple[float, float, float]:
    """Return where the loop begins and ends, in samples, and how many of them its crossfade takes."""
    length = stock.length[row]
    low, high = length * p[SET.loop_from], length * p[SET.loop_to]
    if p[SET.loop_from] <= 0.0 and p[SET.loop_to] <= 0.0:
        low, high = length * stock.loop[row, 0], length * stock.loop[row, 1]
    high = max(high, low + SHORTEST_LOOP)
    room = low if p[SET.direction] == ON else max(0.0, length - high)
    return low, high, min(p[SET.crossfade] * rate, high - low, room)


@compiled
def leap(st: Floats, span: float, likeness: float) -> None:
    """Let what sounds go on beside what comes, and fade out over a span of the sound."""
    st[OLD_PLACE], st[SPAN], st[GONE], st[ALIKE] = st[PLACE], span, 0.0, likeness


@compiled
def crossfaded(coming: float, going: float, part: float, likeness: float) -> float:
    """Return what comes and what goes, mixed a part of the way."""
    part *= part * (3.0 - 2.0 * part)  # without a bend where it begins and ends
    if likeness == BEGUN_ANEW:  # what comes has its full strength from the first sample on
        return coming + (1.0 - part) * going
    rest = 1.0 - part
    whole = math.sqrt(max(1e-3, part * part + rest * rest + 2.0 * part * rest * likeness))
    return (part * coming + rest * going) / whole


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Begin where the gate opens, go on by 2^((pitch - root)/12) samples, round the loop while the gate is open.

    Wherever the place leaps, what sounded before goes on beside it and fades out. At the end of a loop both are
    mixed so that their power stays what it is, as much alike as they are (Fink, Holters and Zölzer, "Signal-matched
    power-complementary cross-fading and dry-wet mixing", DAFx 2016).
    """
    stock = tables.sounds
    sound = int(p[SET.sound])
    row = stock.row[sound] if sound < len(stock.row) else -1
    out = sig[outs[OUT.out], a:b]
    if row < 0:
        out[:] = 0.0
        return
    pitches, gates, begins = sig[ins[IN.pitch], a:b], sig[ins[IN.gate], a:b], sig[ins[IN.start], a:b]
    length = stock.length[row]
    last = length * p[SET.end]
    looped, backward, followed = p[SET.loop] == ON, p[SET.direction] == ON, p[SET.keys] != ON
    low, high, fade = loop_in(stock, row, p, rate)
    pitch = np.nan
    speed, version = 1.0, 0
    for i in range(len(out)):
        if followed and pitches[i] != pitch:
            pitch = pitches[i]
            speed = min(FASTEST, exp2((pitch - p[SET.root]) / 12.0))
            version = version_for(speed)
        if gates[i] > 0.0 and st[LAST_GATE] <= 0.0:
            if st[PLAYING] > 0.0:
                leap(st, ANEW_SECONDS * rate * speed, BEGUN_ANEW)
            st[PLACE] = last if backward else begins[i] * length
            st[PLAYING] = 1.0
        st[LAST_GATE] = gates[i]
        beyond = st[PLACE] < low if backward else st[PLACE] >= high
        if looped and beyond and gates[i] > 0.0 and st[PLAYING] > 0.0:
            around = low + (st[PLACE] - low) % (high - low)
            if st[GONE] >= st[SPAN]:
                span = -fade if backward else fade
                leap(st, fade, alike(stock, row, st[PLACE], around, span) if fade > 1.0 else 1.0)
            st[PLACE] = around
        ended = st[PLACE] <= begins[i] * length if backward else st[PLACE] >= last
        if ended:
            st[PLAYING] = 0.0
        step = -speed if backward else speed
        out[i] = heard_at(stock, row, version, st[PLACE]) if st[PLAYING] > 0.0 else 0.0
        st[PLACE] += step
        if st[GONE] < st[SPAN]:
            going = heard_at(stock, row, version, st[OLD_PLACE])
            out[i] = crossfaded(out[i], going, st[GONE] / st[SPAN], st[ALIKE])
            st[OLD_PLACE] += step
            st[GONE] += speed
