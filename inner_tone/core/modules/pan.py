"""Pan: places a sound between left and right."""

import math

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return how much each ear hears, if nothing steers the position."""
    if "position" in connected:
        return None
    angle = 0.25 * math.pi * (float(settings["position"]) + 1.0)
    return {"left": ({"in": math.cos(angle)}, 0.0), "right": ({"in": math.sin(angle)}, 0.0)}


MODULE = ModuleType(
    name="pan",
    family="shape",
    nanoseconds=43,
    title="Pan",
    summary="Places a sound between left and right.",
    words=(
        "left",
        "right",
        "stereo",
        "side",
        "place",
        "wider",
        "position",
        "panning",
        "pan pot",
    ),
    explanation=(
        "A pan sends a sound to both ears, to one more than to the other. The power of both together stays the same, "
        "so the sound keeps its loudness wherever it stands."
    ),
    inputs=(
        Input("in", "audio", "The sound to be placed.", enters="through"),
        Input(
            "position",
            "control",
            "-1 is left, 0 the middle, 1 right.",
            Ruler(-1, 1, 0, "", 0.01),
            bounds=(-1.0, 1.0),
            role="position",
        ),
    ),
    outputs=(
        Output("left", "audio", "For the left ear.", ear="left"),
        Output("right", "audio", "For the right ear.", ear="right"),
    ),
    usually="path",
    sums=sums,
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Weights are cos and sin of an eighth of a turn times (position + 1)."""
    for i in range(a, b):
        angle = 0.25 * math.pi * (sig[ins[IN.position], i] + 1.0)
        sig[outs[OUT.left], i] = math.cos(angle) * sig[ins[IN.in_], i]
        sig[outs[OUT.right], i] = math.sin(angle) * sig[ins[IN.in_], i]
