"""Compressor: makes what is loud softer, by a law of levels.

Feed-forward, with a soft knee and a smooth, decoupled detector in decibels: D. Giannoulis, M. Massberg and
J. D. Reiss, "Digital dynamic range compressor design: a tutorial and analysis", J. Audio Eng. Soc. 60 (2012).
"""

import math

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Number, Output, Ruler, numbered, time_input
from inner_tone.core.modules.functions import exp2
from inner_tone.core.modules.kernel import Tables, compiled, inlined

KEY = 1
HELD, REDUCTION = range(2)
SOFTEST = 1e-6  # -120 dB, below which nothing is told apart
DB_PER_NEPER = 20.0 / math.log(10.0)
OCTAVES_PER_DB = math.log2(10.0) / 20.0

MODULE = ModuleType(
    name="compressor",
    family="shape",
    nanoseconds=65,
    title="Compressor",
    summary="Makes what is louder than its threshold softer, in a stated ratio.",
    words=(
        "even",
        "level out",
        "louder",
        "punch",
        "dynamics",
        "squash",
        "ducking",
        "limiter",
    ),
    explanation=(
        "A compressor listens to how loud a sound is and turns it down where it exceeds the threshold: at a ratio of "
        "4, four decibels more at the input are one decibel more at the output. Attack and release say how fast it "
        "turns down and up again. What it has taken away can be given back to the whole as make-up."
    ),
    inputs=(
        Input("in", "audio", "What is made softer.", enters="through"),
        Input("key", "audio", "What it listens to instead, if you choose so."),
        Input(
            "threshold",
            "control",
            "The level from which on it works.",
            Ruler(-60, 0, -18, "dB", 0.5),
            bounds=(-120.0, 24.0),
        ),
        Input(
            "ratio",
            "control",
            "How many decibels more at the input make one more at the output.",
            Ruler(1, 40, 4, "", 0.1, "log"),
            bounds=(1.0, 1000.0),
        ),
        time_input("attack", 0.01, "The time in which it has turned down most of the way (63 %)."),
        time_input("release", 0.15, "The time in which it has turned up again most of the way (63 %)."),
    ),
    outputs=(
        Output("out", "audio", "The sound, with its loud places softened."),
        Output("reduction", "control", "By how many decibels it turns down at the moment.", on_demand=True),
    ),
    settings=(
        Number(
            "knee", Ruler(0, 24, 6, "dB", 0.5), "The span of levels over which it sets in; 0 is a corner.", rare=True
        ),
        Number("makeup", Ruler(0, 36, 0, "dB", 0.5), "How much louder the whole is made afterwards."),
        Choice("listens", ("in", "key"), "in", "Whether it goes by the sound itself or by another one."),
    ),
    usually="path",
    shared=True,
    state_size=lambda rate: 2,
)

IN, OUT, SET = numbered(MODULE)


@inlined
def excess(level_db: float, threshold: float, ratio: float, knee: float) -> float:
    """Return by how many decibels a level is to be turned down (equation 4 of the paper)."""
    over = level_db - threshold
    slope = 1.0 - 1.0 / ratio
    if 2.0 * over <= -knee:
        return 0.0
    if 2.0 * over >= knee:
        return slope * over
    return slope * (over + 0.5 * knee) ** 2 / (2.0 * knee)


@inlined
def keeping(time: float, rate: float) -> float:
    """Return the part of a level that is left after a sample, for a time constant in seconds."""
    return math.exp(-1.0 / max(time * rate, 1e-3))


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Smooth the wanted reduction, up by the attack and down by the release, and apply it."""
    knee, makeup = p[SET.knee], p[SET.makeup]
    sound, thresholds, ratios = sig[ins[IN.in_], a:b], sig[ins[IN.threshold], a:b], sig[ins[IN.ratio], a:b]
    heard = sig[ins[IN.key], a:b] if p[SET.listens] == KEY else sound
    attacks, releases = sig[ins[IN.attack], a:b], sig[ins[IN.release], a:b]
    out, reduction = sig[outs[OUT.out], a:b], sig[outs[OUT.reduction], a:b]
    held, reduced = st[HELD], st[REDUCTION]
    attack = release = -1.0
    up = down = 0.0
    for i in range(len(out)):
        if attacks[i] != attack:
            attack = attacks[i]
            up = keeping(attack, rate)
        if releases[i] != release:
            release = releases[i]
            down = keeping(release, rate)
        level_db = DB_PER_NEPER * math.log(max(SOFTEST, abs(heard[i])))
        wanted = excess(level_db, thresholds[i], ratios[i], knee)
        held = max(wanted, down * held + (1.0 - down) * wanted)
        reduced = up * reduced + (1.0 - up) * held
        out[i] = sound[i] * exp2(OCTAVES_PER_DB * (makeup - reduced))
        reduction[i] = reduced
    st[HELD], st[REDUCTION] = held, reduced
