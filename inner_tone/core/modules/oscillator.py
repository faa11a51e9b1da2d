"""Oscillator: sine, triangle, saw and square, band-limited, with every way of moving its frequency."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import (
    Choice,
    Input,
    ModuleType,
    Number,
    Output,
    Ruler,
    Settings,
    Value,
    numbered,
    reset_input,
    tone_inputs,
)
from inner_tone.core.modules.functions import exp2, sine_of_cycle
from inner_tone.core.modules.kernel import Tables, compiled, inlined
from inner_tone.core.modules.wavetables import BANDS_PER_OCTAVE

MIDDLE_C_HZ = 440.0 * 2.0 ** (-9.0 / 12.0)
PER_TURN = 1.0 / (2.0 * math.pi)
SINE, TRIANGLE, SAW, SQUARE = range(4)
PHASE, LAST_RESET, LAST_MODULATION = range(3)
GRAIN = 8


def written(settings: Settings) -> dict[str, Value]:
    """Write settings one way: an octave is twelve semitones, a semitone a hundred cents, and the ratio 2 an octave."""
    whole = 12.0 * settings["octave"] + settings["semitone"] + 0.01 * settings["fine"]
    pitch = settings["pitch"] + whole + 12.0 * math.log2(settings["ratio"])
    return {**settings, "octave": 0, "semitone": 0, "fine": 0, "ratio": 1, "pitch": pitch}


MODULE = ModuleType(
    name="oscillator",
    family="source",
    nanoseconds=45,
    title="Oscillator",
    summary="Repeats one cycle of a wave at the frequency of its pitch.",
    words=(
        "tone",
        "sound",
        "wave",
        "saw",
        "square",
        "sine",
        "triangle",
        "pulse",
        "hum",
        "note",
        "start",
        "voice",
        "sub",
        "detune",
        "fatter",
        "thicker",
        "vco",
        "dco",
        "fm",
        "frequency modulation",
        "phase modulation",
        "pulse width",
        "pwm",
        "sync",
        "hard sync",
    ),
    explanation=(
        "An oscillator repeats the same movement over and over, and never stops by itself. How often it repeats in "
        "a second is its frequency, which we hear as pitch; the shape of the movement decides which partials sound, "
        "which we hear as tone colour: a sine is a single partial, a triangle and a square have only odd ones, a saw "
        "has them all."
    ),
    inputs=(
        *tone_inputs(),
        Input(
            "width",
            "control",
            "The part of the cycle for which a square is up; 0.5 is even.",
            Ruler(0.02, 0.98, 0.5, "", 0.01),
            bounds=(0.02, 0.98),
            usual=0.3,
            bends=True,
            rare=True,
            works_with=("wave", "square"),
            role="width",
        ),
        reset_input(),
    ),
    outputs=(Output("out", "audio", "The wave, from -1 to 1."),),
    settings=(
        Choice("wave", ("sine", "triangle", "saw", "square"), "saw", "The shape of the cycle.", role="wave"),
        Number(
            "octave",
            Ruler(-5, 5, 0, "oct", 1),
            "Moves the pitch by whole octaves.",
            grain=GRAIN,
            tunes=12.0,
            role="octave",
        ),
        Number("semitone", Ruler(-24, 24, 0, "st", 1), "Moves the pitch by semitones.", grain=GRAIN, tunes=1.0),
        Number(
            "fine",
            Ruler(-100, 100, 0, "cent", 1),
            "Moves the pitch by hundredths of a semitone.",
            grain=GRAIN,
            tunes=0.01,
            role="fine",
        ),
        Number(
            "ratio",
            Ruler(0.0625, 32, 1, "", 0.01, "log"),
            "Multiplies the frequency, as in 3:2.",
            rare=True,
            steering=True,
            grain=GRAIN,
            role="ratio",
        ),
        Number(
            "offset",
            Ruler(-1000, 1000, 0, "Hz", 0.1),
            "Adds hertz to the frequency, whatever the note.",
            rare=True,
            steering=True,
            grain=GRAIN,
            role="offset",
        ),
    ),
    traits=frozenset({"source"}),
    usually="beside",
    seen_over="cycles",
    picture="cycle",
    written=written,
    state_size=lambda rate: 3,
)

IN, OUT, SET = numbered(MODULE)


def sine(pitch: float = 0.0, ratio: float = 1.0) -> dict[str, str | float]:
    """Return the settings of a sine at a pitch in semitones from middle C, or at a multiple of its frequency."""
    return {"wave": "sine", "pitch": pitch, "ratio": ratio}


@compiled
def band_of(frequency: float, lowest: float, bands: int) -> int:
    """Return which table serves a frequency in Hz."""
    if frequency <= lowest:
        return 0
    return min(bands - 1, int(BANDS_PER_OCTAVE * math.log2(frequency / lowest)))


@inlined
def read(table: Floats, start: int, size: int, phase: float) -> float:
    """Return the value of a table at a phase in cycles from 0 to 1, between its points by a straight line."""
    at = phase * size
    whole = int(at)
    low: float = table[start + whole]
    high: float = table[start + whole + 1]
    return low + (at - whole) * (high - low)


@inlined
def begun_anew(reset: float, last: float, step: float) -> float:
    """Return the phase in cycles with which a cycle begins where a reset has risen from `last`.

    A signal that swings through zero crosses it between two samples: the new cycle has then already gone on for
    a part of a step. A gate that was exactly zero begins the cycle with the sample itself.
    """
    return reset / (reset - last) * step if last < 0.0 else 0.0


@compiled
def restarted(st: Floats, reset: float, step: float) -> float:
    """Return the phase in cycles, begun anew where `reset` rises from zero; note what reset was."""
    last = st[LAST_RESET]
    st[LAST_RESET] = reset
    phase: float = st[PHASE]
    return begun_anew(reset, last, step) if reset > 0.0 and last <= 0.0 else phase


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Advance the phase and read the wave.

    frequency = middle C · 2^((pitch + octave·12 + semitone + fine/100)/12) · ratio + offset + linear, in Hz.
    The table is chosen by the frequency at which the phase really moves, phase modulation included.
    """
    wave = int(p[SET.wave])
    pitches, shifts, turns = sig[ins[IN.pitch], a:b], sig[ins[IN.linear], a:b], sig[ins[IN.phase], a:b]
    widths, resets, out = sig[ins[IN.width], a:b], sig[ins[IN.reset], a:b], sig[outs[OUT.out], a:b]
    transpose = 12.0 * p[SET.octave] + p[SET.semitone] + 0.01 * p[SET.fine]
    ratio, offset = p[SET.ratio], p[SET.offset]
    cycles = tables.cycles
    per_rate = 1.0 / rate
    pitch = np.nan
    steady = 0.0
    start = 0
    size = 0
    lowest_step = 1.0
    highest_step = -1.0
    phase, last_reset, last_modulation = st[PHASE], st[LAST_RESET], st[LAST_MODULATION]
    for i in range(len(out)):
        if pitches[i] != pitch:
            pitch = pitches[i]
            steady = MIDDLE_C_HZ * exp2((pitch + transpose) / 12.0) * ratio + offset
        step = (steady + shifts[i]) * per_rate
        reset = resets[i]
        if reset > 0.0 and last_reset <= 0.0:
            phase = begun_anew(reset, last_reset, step)
            last_modulation = turns[i] * PER_TURN
        last_reset = reset
        modulation = turns[i] * PER_TURN
        turned = phase + modulation
        turned -= np.floor(turned)
        if wave == SINE:
            out[i] = sine_of_cycle(turned)
        else:
            moved = abs(step + modulation - last_modulation)
            if not lowest_step <= moved < highest_step:
                band = band_of(moved * rate, cycles.lowest, len(cycles.size))
                lowest_step = 0.0 if band == 0 else cycles.lowest * 2.0 ** (band / BANDS_PER_OCTAVE) / rate
                highest_step = cycles.lowest * 2.0 ** ((band + 1) / BANDS_PER_OCTAVE) / rate
                start = cycles.start[band]
                size = cycles.size[band]
            if wave == TRIANGLE:
                out[i] = read(cycles.triangle, start, size, turned)
            elif wave == SAW:
                out[i] = read(cycles.saw, start, size, turned)
            else:
                width = widths[i]
                before = turned - width
                up = read(cycles.saw, start, size, before + 1.0 if before < 0.0 else before)
                out[i] = up - read(cycles.saw, start, size, turned) + 2.0 * width - 1.0
        last_modulation = modulation
        phase += step
        phase -= np.floor(phase)
    st[PHASE], st[LAST_RESET], st[LAST_MODULATION] = phase, last_reset, last_modulation
