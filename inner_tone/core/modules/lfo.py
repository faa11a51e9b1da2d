"""LFO: a slow, even movement that steers other modules."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.chance import uniform
from inner_tone.core.modules.declaration import (
    Choice,
    Input,
    Law,
    ModuleType,
    Number,
    Output,
    Ruler,
    Settings,
    Value,
    numbered,
    reset_input,
)
from inner_tone.core.modules.functions import sine_of_cycle
from inner_tone.core.modules.kernel import Tables, compiled
from inner_tone.core.modules.oscillator import PHASE, restarted
from inner_tone.core.modules.tempo import LOCKED, division, lock, samples_of, written_free

SINE, TRIANGLE, RISE, FALL, SQUARE, STEPPED, SMOOTH = range(7)
CYCLES = 2  # where the state counts whole cycles, for the waves by chance


def written(settings: Settings) -> dict[str, Value]:
    """Write settings one way: one movement by chance is like another."""
    return written_free(settings) | {"seed": 1}


MODULE = ModuleType(
    name="lfo",
    family="steer",
    nanoseconds=36,
    title="LFO",
    summary="Goes up and down slowly and evenly, and moves whatever it steers.",
    words=(
        "wobble",
        "vibrato",
        "tremolo",
        "movement",
        "slow",
        "alive",
        "sweep",
        "pulse",
        "moving",
        "wavering",
        "repeat",
        "cyclic",
        "random",
        "low frequency oscillator",
        "modulation",
    ),
    explanation=(
        "An LFO is an oscillator too slow to be heard as a tone. Steering a pitch it makes vibrato, steering a level "
        "tremolo, steering a cutoff a slow opening and closing. How far it moves something is not its own affair: "
        "that is the depth of the connection."
    ),
    inputs=(
        Input(
            "rate",
            "control",
            "How many times it goes up and down in a second. Other modules move it in octaves.",
            Ruler(0.01, 100, 2, "Hz", 0.01, "log"),
            Law.OCTAVES,
            bounds=(0.0, 20_000.0),
            works_with=("lock", "free"),
            role="rate",
        ),
        reset_input("Where this rises from zero, the movement begins anew."),
    ),
    outputs=(Output("out", "control", "The movement."),),
    settings=(
        Choice(
            "wave",
            ("sine", "triangle", "rise", "fall", "square", "stepped", "smooth"),
            "sine",
            "The shape of the movement; stepped and smooth go to a new place by chance in every cycle.",
            words=("sine", "triangle", "rise", "fall", "square", "stepped random", "smooth random"),
            by_chance=("stepped", "smooth"),
            role="wave",
        ),
        Choice(
            "range",
            ("both", "positive"),
            "both",
            "From -1 to 1, or from 0 to 1.",
            words=("−1 to 1", "0 to 1"),
            role="range",
        ),
        Number("phase", Ruler(0, 1, 0, "", 0.01), "Where in its cycle it begins.", rare=True),
        Number("seed", Ruler(0, 999, 1, "", 1), "Which places by chance it goes to.", rare=True, role="seed"),
        lock("Whether it has its own rate or follows the phrase's tempo."),
        division("1", "How long one movement lasts when it follows the tempo."),
    ),
    traits=frozenset({"own-time", "random"}),
    often=("pitch", "cutoff", "width", "position", "level"),
    picture="movement",
    written=written,
    one="an LFO",
    state_size=lambda rate: 3,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def place(wave: int, phase: float, cycle: int, seed: int) -> float:
    """Return where the movement stands, -1 to 1, at a phase in cycles from 0 to 1 of a cycle."""
    if wave == SINE:
        return sine_of_cycle(phase)
    if wave == TRIANGLE:
        return 1.0 - 4.0 * abs((phase + 0.25) % 1.0 - 0.5)
    if wave == RISE:
        return 2.0 * phase - 1.0
    if wave == FALL:
        return 1.0 - 2.0 * phase
    if wave == SQUARE:
        return 1.0 if phase < 0.5 else -1.0
    if wave == STEPPED:
        return uniform(cycle, seed)
    begin, end = uniform(cycle, seed), uniform(cycle + 1, seed)
    return begin + (end - begin) * 0.5 * (1.0 - math.cos(math.pi * phase))


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Advance the phase by rate and lay out the wave."""
    wave, positive, offset, seed = int(p[SET.wave]), p[SET.range] == 1.0, p[SET.phase], int(p[SET.seed])
    locked = p[SET.lock] == LOCKED
    locked_step = p[SET.runs] / samples_of(int(p[SET.division]), p[SET.tempo], rate)
    for i in range(a, b):
        step = locked_step if locked else sig[ins[IN.rate], i] / rate
        st[PHASE] = restarted(st, sig[ins[IN.reset], i], step)
        turned = st[PHASE] + offset
        cycle = int(st[CYCLES]) + math.floor(turned)
        value = place(wave, turned - math.floor(turned), cycle, seed)
        sig[outs[OUT.out], i] = 0.5 + 0.5 * value if positive else value
        st[PHASE] += step
        whole = np.floor(st[PHASE])
        st[PHASE] -= whole
        st[CYCLES] += whole
