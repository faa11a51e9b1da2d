"""Crossfade: goes from one signal over to another."""

import math

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled

EQUAL_POWER = 0


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return how much of each is heard, if nothing steers the position."""
    if "position" in connected:
        return None
    position = float(settings["position"])
    if settings["law"] == "gain":
        return {"out": ({"a": 1.0 - position, "b": position}, 0.0)}
    turn = 0.5 * math.pi * position
    return {"out": ({"a": math.cos(turn), "b": math.sin(turn)}, 0.0)}


MODULE = ModuleType(
    name="crossfade",
    family="shape",
    nanoseconds=38,
    title="Crossfade",
    summary="Goes from one signal over to another.",
    words=(
        "blend",
        "morph",
        "from one to the other",
        "between two",
        "dry and wet",
        "fader",
    ),
    explanation=(
        "A crossfade holds two sounds and a position between them: at 0 only the first is heard, at 1 only the second. "
        "With equal power two different sounds keep their loudness in the middle; with equal gain two like ones do."
    ),
    inputs=(
        Input("a", "audio", "What is heard at position 0.", enters="through", channel="a", heard_at=0.0),
        Input("b", "audio", "What is heard at position 1.", enters="through", channel="b", heard_at=1.0),
        Input(
            "position", "control", "From a, 0, to b, 1.", Ruler(0, 1, 0.5, "", 0.01), bounds=(0.0, 1.0), role="position"
        ),
    ),
    outputs=(Output("out", "audio", "The two sounds, weighed."),),
    settings=(
        Choice(
            "law", ("power", "gain"), "power", "What stays even on the way over.", words=("equal power", "equal gain")
        ),
    ),
    usually="path",
    shut_by="position",
    sums=sums,
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Weights are cos and sin of a quarter turn times the position, or 1 - position and position."""
    for i in range(a, b):
        position = sig[ins[IN.position], i]
        if p[SET.law] == EQUAL_POWER:
            first, second = math.cos(0.5 * math.pi * position), math.sin(0.5 * math.pi * position)
        else:
            first, second = 1.0 - position, position
        sig[outs[OUT.out], i] = first * sig[ins[IN.a], i] + second * sig[ins[IN.b], i]
