"""Sampler: plays a sound that was made beforehand, faster or slower."""

import math

import numpy as np

from inner_tone.core.modules.declaration import OPENS, Choice, Input, ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.functions import exp2
from inner_tone.core.modules.kernel import Floats, Ints, Tables, compiled
from inner_tone.core.modules.sounds import LIBRARY, VERSIONS

TAPS = 16
PHASES = 256
LOOPED = 1
PLACE, PLAYING, LAST_GATE = range(3)

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
        "play back",
        "loop",
        "sample playback",
    ),
    explanation=(
        "A sampler plays a sound from its memory. Higher notes play it faster, so everything in it becomes higher "
        "and shorter at once: a bell turns into a smaller bell. With loop on it repeats a stretch of the sound for as "
        "long as the gate is open, then plays on to the end."
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
        ),
        Input("gate", "gate", "Begins the sound; while open, a loop goes on.", does=OPENS),
        Input("start", "control", "Where in the sound it begins, from 0 to 1.", Ruler(0, 1, 0), bounds=(0.0, 1.0)),
    ),
    outputs=(Output("out", "audio", "The sound."),),
    settings=(
        Choice("sound", tuple(LIBRARY), "bell", "What is played."),
        Number("root", Ruler(-60, 60, 0, "st", 1), "The pitch at which it sounds as it was recorded."),
        Choice("loop", ("off", "on"), "off", "Whether a stretch of it repeats while the gate is open."),
    ),
    traits=frozenset({"source", "own-time", "recorded"}),
    usually="beside",
    state_size=lambda rate: 3,
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
def between(samples: Floats, at: int, part: float) -> float:
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
    return 0 if speed <= 1.0 else min(VERSIONS - 1, math.ceil(math.log2(speed)))


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Begin where the gate opens, go on by 2^((pitch - root)/12) samples, round the loop while the gate is open."""
    stock = tables.sounds
    sound, root, loops = int(p[SET.sound]), p[SET.root], p[SET.loop] == LOOPED
    pitches, gates, begins = sig[ins[IN.pitch], a:b], sig[ins[IN.gate], a:b], sig[ins[IN.start], a:b]
    out = sig[outs[OUT.out], a:b]
    length = float(stock.length[sound])
    loop_start, loop_end = float(stock.loop_start[sound]), float(stock.loop_end[sound])
    pitch = np.nan
    speed = 1.0
    version = 0
    for i in range(len(out)):
        if pitches[i] != pitch:
            pitch = pitches[i]
            speed = min(1000.0, exp2((pitch - root) / 12.0))
            version = version_for(speed)
        if gates[i] > 0.0 and st[LAST_GATE] <= 0.0:
            st[PLACE] = begins[i] * length
            st[PLAYING] = 1.0
        st[LAST_GATE] = gates[i]
        if loops and gates[i] > 0.0 and st[PLACE] >= loop_end:
            st[PLACE] = loop_start + (st[PLACE] - loop_start) % (loop_end - loop_start)
        if st[PLACE] >= length:
            st[PLAYING] = 0.0
        out[i] = 0.0
        if st[PLAYING] > 0.0:
            whole = math.floor(st[PLACE])
            out[i] = between(stock.samples, stock.start[sound, version] + int(whole), st[PLACE] - whole)
            st[PLACE] += speed
