"""Lever: a control that the educator puts in reach of the player."""

import math

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, ModuleType, Number, Output, Ruler, Scaled, numbered, without
from inner_tone.core.modules.kernel import Tables, compiled
from inner_tone.core.modules.theory import Settings

HELD, POSITION, SLOPE = range(3)
LOG = 1
FARTHEST = 20_000.0
SPAN = Scaled(low="low", high="high", step="step", travel="travel")

MODULE = ModuleType(
    name="lever",
    family="play",
    nanoseconds=4,
    title="Lever",
    summary="A control in reach of the player, with a range of your choice.",
    words=(
        "control",
        "hand",
        "by hand",
        "macro",
        "knob",
        "slider",
        "turn",
        "in reach",
        "perform",
    ),
    explanation=(
        "A lever puts out the value at which it stands. It is how the one who builds a sound hands the two or three "
        "things that matter to the one who plays it: give it a name, a range and a step, and connect it to as many "
        "inputs as it should move."
    ),
    outputs=(Output("out", "control", "Where the lever stands, in its own range.", rest="meant"),),
    settings=(
        Number("low", Ruler(-FARTHEST, FARTHEST, 0, "", 0.01), "The value at one end."),
        Number("high", Ruler(-FARTHEST, FARTHEST, 1, "", 0.01), "The value at the other end."),
        Number("step", Ruler(0, FARTHEST, 0, "", 0.01), "The distance between two notches; 0 has none."),
        Number("default", Ruler(-FARTHEST, FARTHEST, 0, "", 0.01), "Where it returns to.", SPAN, rare=True),
        Number("value", Ruler(-FARTHEST, FARTHEST, 0, "", 0.01), "Where it stands unless a gesture moves it.", SPAN),
        Choice(
            "travel",
            ("linear", "log"),
            "linear",
            "Whether the same way means the same difference or the same ratio; ratios need both ends above 0.",
            words=("linear", "logarithmic"),
        ),
    ),
    traits=frozenset({"own-time", "numbers"}),
    written=without("default"),
    state_size=lambda rate: 3,
)

IN, OUT, SET = numbered(MODULE)


def spanning(low: float, high: float) -> dict[str, float]:
    """Return the settings of a lever that goes from one value to another."""
    return {"low": low, "high": high}


def resting(settings: Settings) -> float:
    """Return the position, 0 to 1, at which a lever stands that nobody has moved."""
    value, low, high = (float(settings[name]) for name in ("value", "low", "high"))
    return float(position_of(value, low, high, travel_of(settings)))


def reached(settings: Settings, position: float) -> float:
    """Return the value that a lever puts out at a position from 0 to 1."""
    return float(value_at(position, float(settings["low"]), float(settings["high"]), travel_of(settings)))


def travel_of(settings: Settings) -> int:
    """Return how a lever goes from one end to the other, as the kernel has it."""
    return MODULE.choices["travel"].options.index(settings["travel"])


@compiled
def value_at(position: float, low: float, high: float, travel: int) -> float:
    if travel == LOG and low > 0.0 and high > 0.0:
        ratio: float = (high / low) ** position
        return low * ratio
    return low + (high - low) * position


@compiled
def position_of(value: float, low: float, high: float, travel: int) -> float:
    """Return the position at which a lever puts out a value, held within its range."""
    if low == high:
        return 0.0
    if travel == LOG and low > 0.0 and high > 0.0 and value > 0.0:
        return max(0.0, min(1.0, math.log(value / low) / math.log(high / low)))
    return max(0.0, min(1.0, (value - low) / (high - low)))


@compiled
def notched(value: float, low: float, high: float, step: float) -> float:
    """Return a value in the range, at the nearest notch from its low end."""
    if step > 0.0:
        value = low + step * round((value - low) / step)
    return max(min(low, high), min(max(low, high), value))


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Lay out the value, or the straight movement of a gesture, which goes from 0 to 1 along the travel."""
    low, high, step, travel = p[SET.low], p[SET.high], p[SET.step], int(p[SET.travel])
    out = sig[outs[OUT.out], a:b]
    if st[HELD] == 0.0:
        # by way of its position, so that it is the same to the bit as if a gesture held it there
        out[:] = notched(value_at(position_of(p[SET.value], low, high, travel), low, high, travel), low, high, step)
        return
    for i in range(len(out)):
        position = min(1.0, max(0.0, st[POSITION]))
        out[i] = notched(value_at(position, low, high, travel), low, high, step)
        st[POSITION] += st[SLOPE]
