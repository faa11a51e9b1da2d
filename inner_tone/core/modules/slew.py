"""Slew: follows its input no faster than it is allowed to; between player and oscillator it is glide."""

import math

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Settings, Sums, numbered, time_input
from inner_tone.core.modules.kernel import Tables, compiled

LINEAR = 0
LEVEL, BEGUN = range(2)
NEARLY = math.log(100.0)  # a curved approach has gone 99 % of its way in the stated time

TIMES = "straight, the time for one unit or semitone; curved, the time for 99 % of any distance."


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return that all comes through as it is, where it takes no time."""
    at_once = settings["rise"] == settings["fall"] == 0 and not {"rise", "fall"} & connected
    return {"out": ({"in": 1.0}, 0.0)} if at_once else None


MODULE = ModuleType(
    name="slew",
    family="steer",
    nanoseconds=15,
    title="Slew",
    summary="Follows its input no faster than it is allowed to.",
    words=(
        "glide",
        "portamento",
        "smooth",
        "slide",
        "slower",
        "lag",
        "soften",
        "no jumps",
    ),
    explanation=(
        "A slew rounds off whatever jumps: it goes after its input in its own time, upwards in its rise and downwards "
        "in its fall. Standing between the player's pitch and an oscillator it is glide: each note slides into the "
        "next. A straight slew has the same speed for every distance; a curved one takes the same time for each."
    ),
    inputs=(
        Input("in", "control", "What is followed.", enters="through"),
        time_input("rise", 0.1, f"Upwards: {TIMES}"),
        time_input("fall", 0.1, f"Downwards: {TIMES}"),
    ),
    outputs=(Output("out", "control", "The input, rounded off.", rest="with-input"),),
    settings=(
        Choice(
            "shape",
            ("linear", "curved"),
            "curved",
            "How it goes from one place to the next.",
            words=("straight", "curved"),
        ),
    ),
    usually="pitch",
    sums=sums,
    state_size=lambda rate: 2,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Go towards the input: by at most 1 / (time · rate) a sample, or by a fixed part of the distance.

    It begins where its input is, so nothing slides in at the start.
    """
    linear = p[SET.shape] == LINEAR
    last_time = -1.0
    part = 1.0
    for i in range(a, b):
        goal = sig[ins[IN.in_], i]
        if st[BEGUN] == 0.0:
            st[LEVEL] = goal
            st[BEGUN] = 1.0
        way = goal - st[LEVEL]
        time = sig[ins[IN.rise], i] if way > 0.0 else sig[ins[IN.fall], i]
        if time * rate <= 1.0:
            st[LEVEL] = goal
        elif linear:
            most = 1.0 / (time * rate)
            st[LEVEL] += min(most, max(-most, way))
        else:
            if time != last_time:
                last_time = time
                part = 1.0 - math.exp(-NEARLY / (time * rate))
            st[LEVEL] += part * way
        sig[outs[OUT.out], i] = st[LEVEL]
