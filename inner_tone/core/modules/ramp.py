"""Ramp: the bare phase that waves are computed from."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Output, Ruler, numbered, reset_input
from inner_tone.core.modules.kernel import Tables, compiled
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ, PHASE, restarted

MODULE = ModuleType(
    name="ramp",
    family="steer",
    nanoseconds=34,
    title="Ramp",
    summary="Runs from 0 to 1 over and over, once in every cycle of its pitch.",
    words=("phase", "cycle", "sawtooth", "bare", "phasor", "build a wave"),
    explanation=(
        "A ramp is the clock hand inside every oscillator: it says how far the present cycle has gone, from 0 to 1, "
        "and then begins again. Bent by a shaper it becomes any wave; slow, it is a movement that steers others. It "
        "drops at once, so as a sound it is harsher than a saw."
    ),
    inputs=(
        Input(
            "pitch",
            "pitch",
            "Semitones from middle C.",
            Ruler(-180, 60, 0, "st", 1),
            bounds=(-240.0, 240.0),
            bends=True,
            rare=True,
        ),
        reset_input("Where this rises from zero, the ramp begins anew."),
    ),
    outputs=(Output("out", "control", "How far the cycle has gone, 0 to 1."),),
    traits=frozenset({"own-time"}),
    seen_over="cycles",
    state_size=lambda rate: 2,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Advance the phase at middle C · 2^(pitch/12) cycles a second."""
    pitch = np.nan
    step = 0.0
    for i in range(a, b):
        if sig[ins[IN.pitch], i] != pitch:
            pitch = sig[ins[IN.pitch], i]
            step = MIDDLE_C_HZ * 2.0 ** (pitch / 12.0) / rate
        st[PHASE] = restarted(st, sig[ins[IN.reset], i], step)
        sig[outs[OUT.out], i] = st[PHASE]
        st[PHASE] += step
        st[PHASE] -= math.floor(st[PHASE])
