"""Scale: makes any signal larger or smaller, shifts it and turns it over."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Number, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return what it makes of what comes in."""
    return {"out": ({"in": float(settings["gain"])}, float(settings["offset"]))}


MODULE = ModuleType(
    name="scale",
    family="steer",
    nanoseconds=6,
    title="Scale",
    summary="Multiplies any signal and shifts it.",
    words=(
        "more",
        "less",
        "invert",
        "turn over",
        "shift",
        "offset",
        "attenuate",
        "amount",
        "gain",
        "smaller",
        "bigger",
        "attenuator",
        "attenuverter",
    ),
    explanation=(
        "A scale multiplies what comes in by its gain and adds its offset. A gain of -1 turns a movement over, so "
        "what went up goes down; an offset moves it as a whole. A movement from -1 to 1 with a gain of 0.5 and an "
        "offset of 0.5 runs from 0 to 1."
    ),
    inputs=(Input("in", "control", "What is scaled.", enters="through"),),
    outputs=(Output("out", "control", "in · gain + offset", rest="meant"),),
    settings=(
        Number("gain", Ruler(-24, 24, 1, "", 0.01), "What it is multiplied by."),
        Number("offset", Ruler(-60, 60, 0, "", 0.01), "What is added.", rare=True),
    ),
    traits=frozenset({"numbers"}),
    sums=sums,
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """out = in · gain + offset."""
    signal, out = sig[ins[IN.in_], a:b], sig[outs[OUT.out], a:b]
    for i in range(len(out)):
        out[i] = signal[i] * p[SET.gain] + p[SET.offset]
