"""Harmonics: a tone built from its partials, each with its own level (additive synthesis)."""

import math

import numpy as np

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import (
    Choice,
    ModuleType,
    Number,
    Output,
    Row,
    Ruler,
    Value,
    numbered,
    reset_input,
    tone_inputs,
)
from inner_tone.core.modules.functions import exp2, sine_of_cycle
from inner_tone.core.modules.kernel import Tables, compiled, inlined, plain
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ, PER_TURN, begun_anew
from inner_tone.core.modules.theory import Settings

MOST = 64
LEVEL, DRAWN, FALLING, STEEP = range(4)
ODD = 1
AUDIBLE_HZ = 20_000.0
SAW = 2.0 / math.pi  # 1/n times this adds up to a saw from -1 to 1
PHASE, LAST_RESET, LAST_MODULATION, TURNED, TOPS, RESULTS = 0, 1, 2, 3, 7, 11
LEVELS = 15


def drawn_first(settings: Settings, choice: str, option: Value) -> dict[str, Value]:
    """Return the levels with which drawing begins: those of the rule that was heard, unless some are drawn already."""
    if (choice, option) != ("fill", "drawn") or settings["fill"] == "drawn" or any(settings["levels"]):
        return {}
    first, odd = int(settings["first"]), settings["partials"] == "odd"
    fill, sounding = RULES.index(settings["fill"]), (first + 1) // 2 if odd else first
    rule = plain(by_rule)
    return {"levels": tuple(0.0 if odd and n % 2 == 0 else rule(fill, float(n), sounding) for n in range(1, first + 1))}


RULES = ("level", "drawn", "1/n", "1/n²")

MODULE = ModuleType(
    name="harmonics",
    family="source",
    nanoseconds=79,
    title="Harmonics",
    summary="Builds a tone from its partials, one by one.",
    words=(
        "partials",
        "additive",
        "organ",
        "overtones",
        "drawbars",
        "sum of sines",
        "spectrum",
        "bell",
        "additive synthesis",
    ),
    explanation=(
        "Every steady tone is a sum of sines whose frequencies are whole multiples of one: its harmonics. Here you "
        "say how strong each of them is, up to the sixty-fourth, by drawing their levels or by a rule: all the same, "
        "1/n as in a saw, 1/n² as in a triangle; all of them, or only the odd ones."
    ),
    inputs=(
        *tone_inputs(),
        reset_input(),
    ),
    outputs=(Output("out", "audio", "The sum of the harmonics."),),
    settings=(
        Choice(
            "fill",
            RULES,
            "1/n",
            "Where the levels come from: a rule, or the row that you draw.",
            words=("all the same", "drawn", "1/n", "1/n²"),
        ),
        Choice("partials", ("all", "odd"), "all", "Which harmonics sound."),
        Number("first", Ruler(1, MOST, 16, "", 1), "How many harmonics there are, from the fundamental up."),
        Row(
            "levels",
            MOST,
            Ruler(-1, 1, 0, "", 0.01),
            "The drawn levels, from the fundamental up; below zero a partial is turned over.",
            "first",
        ),
        Choice(
            "begin",
            ("sine", "cosine"),
            "sine",
            "Whether the partials begin where they rise through zero, as in a saw, or at their tops, as in a pulse.",
            words=("at zero", "at their tops"),
        ),
    ),
    traits=frozenset({"source"}),
    usually="beside",
    seen_over="cycles",
    picture="cycle",
    one="harmonics",
    begins=drawn_first,
    state_size=lambda rate: LEVELS + MOST,
)

IN, OUT, SET = numbered(MODULE)


@inlined
def by_rule(fill: int, n: float, sounding: int) -> float:
    """Return the level of harmonic n as a rule has it, where so many of them sound."""
    return 1.0 / sounding if fill == LEVEL else SAW / n if fill == FALLING else SAW / (n * n)


@compiled
def set_levels(levels: Floats, p: Floats) -> None:
    """Write the level of each harmonic, number n in place n - 1.

    Drawn levels are taken as they are; equal ones share the level 1 between them; 1/n and 1/n² are 2/π of that,
    so that 1/n over all harmonics is a saw from -1 to 1.
    """
    fill, odd, first = int(p[SET.fill]), p[SET.partials] == ODD, int(p[SET.first])
    sounding = (first + 1) // 2 if odd else first
    for place in range(MOST):
        n = place + 1.0
        level = p[SET.levels + place] if fill == DRAWN else by_rule(fill, n, sounding)
        levels[place] = level if place < first and not (odd and place % 2 == 1) else 0.0


@inlined
def cosine_twice(phase: float) -> float:
    """Return 2 cos 2πx for x in cycles, from 0 to 1."""
    turned = phase + 0.25
    return 2.0 * sine_of_cycle(turned - 1.0 if turned > 1.0 else turned)


@inlined
def weight(level: float, n: int, top: float) -> float:
    """Return the level of harmonic n, or none if it lies above the top of hearing."""
    return level if n <= top else 0.0


@compiled
def add_up(levels: Floats, highest: int, st: Floats, cosine: bool) -> None:
    """Add up the harmonics of four samples side by side, by Clenshaw's recurrence.

    C. W. Clenshaw, "A note on the summation of Chebyshev series", Math. Comp. 9 (1955), for sin nφ or cos nφ.
    """
    c0, c1 = cosine_twice(st[TURNED]), cosine_twice(st[TURNED + 1])
    c2, c3 = cosine_twice(st[TURNED + 2]), cosine_twice(st[TURNED + 3])
    t0, t1, t2, t3 = st[TOPS], st[TOPS + 1], st[TOPS + 2], st[TOPS + 3]
    x0 = x1 = x2 = x3 = 0.0
    y0 = y1 = y2 = y3 = 0.0
    for n in range(highest, 0, -1):
        level = levels[n - 1]
        x0, y0 = weight(level, n, t0) + c0 * x0 - y0, x0
        x1, y1 = weight(level, n, t1) + c1 * x1 - y1, x1
        x2, y2 = weight(level, n, t2) + c2 * x2 - y2, x2
        x3, y3 = weight(level, n, t3) + c3 * x3 - y3, x3
    if cosine:
        st[RESULTS], st[RESULTS + 1] = 0.5 * c0 * x0 - y0, 0.5 * c1 * x1 - y1
        st[RESULTS + 2], st[RESULTS + 3] = 0.5 * c2 * x2 - y2, 0.5 * c3 * x3 - y3
        return
    st[RESULTS] = x0 * sine_of_cycle(st[TURNED])
    st[RESULTS + 1] = x1 * sine_of_cycle(st[TURNED + 1])
    st[RESULTS + 2] = x2 * sine_of_cycle(st[TURNED + 2])
    st[RESULTS + 3] = x3 * sine_of_cycle(st[TURNED + 3])


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Advance the phase as an oscillator does, and add up all harmonics below the top of hearing."""
    pitches, shifts, turns = sig[ins[IN.pitch], a:b], sig[ins[IN.linear], a:b], sig[ins[IN.phase], a:b]
    resets = sig[ins[IN.reset], a:b]
    out = sig[outs[OUT.out], a:b]
    levels = st[LEVELS : LEVELS + MOST]
    set_levels(levels, p)
    highest, cosine = int(p[SET.first]), p[SET.begin] == 1.0
    per_rate = 1.0 / rate
    pitch = np.nan
    steady = 0.0
    phase, last_reset, last_modulation = st[PHASE], st[LAST_RESET], st[LAST_MODULATION]
    for begin in range(0, len(out), 4):
        together = min(4, len(out) - begin)
        for lane in range(together):
            i = begin + lane
            if pitches[i] != pitch:
                pitch = pitches[i]
                steady = MIDDLE_C_HZ * exp2(pitch / 12.0)
            step = (steady + shifts[i]) * per_rate
            if resets[i] > 0.0 and last_reset <= 0.0:
                phase = begun_anew(resets[i], last_reset, step)
                last_modulation = turns[i] * PER_TURN
            last_reset = resets[i]
            modulation = turns[i] * PER_TURN
            turned = phase + modulation
            st[TURNED + lane] = turned - np.floor(turned)
            moved_hz = abs(step + modulation - last_modulation) * rate
            st[TOPS + lane] = AUDIBLE_HZ / max(moved_hz, 1e-3)
            last_modulation = modulation
            phase += step
            phase -= np.floor(phase)
        add_up(levels, highest, st, cosine)
        for lane in range(together):
            out[begin + lane] = st[RESULTS + lane]
    st[PHASE], st[LAST_RESET], st[LAST_MODULATION] = phase, last_reset, last_modulation
