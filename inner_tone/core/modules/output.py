"""Output: where the sound leaves the patch."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Number, Output, Ruler, numbered
from inner_tone.core.modules.kernel import Tables, compiled

MODULE = ModuleType(
    name="output",
    family="out",
    nanoseconds=5,
    title="Output",
    summary="Whatever is connected here is heard.",
    words=("hear", "speaker", "ears", "listen", "out", "volume"),
    explanation=(
        "The output is where the sound leaves the patch for your ears, left and right. Its level makes the whole "
        "louder or softer. Behind it stands a limiter that does nothing at all until the sound would be too loud."
    ),
    inputs=(
        Input("left", "audio", "What the left ear hears.", enters="through", ear="left"),
        Input("right", "audio", "What the right ear hears.", enters="through", ear="right"),
    ),
    outputs=(
        Output("left", "audio", "What leaves on the left, before the limiter.", ear="left"),
        Output("right", "audio", "What leaves on the right, before the limiter.", ear="right"),
    ),
    settings=(Number("level", Ruler(-60, 12, 0, "dB", 0.5), "How loud the whole is."),),
    state_size=lambda rate: 0,
    traits=frozenset({"single"}),
    usually="output",
    shared=True,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Multiply both sides by the level."""
    gain = 10.0 ** (p[SET.level] / 20.0)
    for side in range(2):
        sound, out = sig[ins[IN.left + side], a:b], sig[outs[OUT.left + side], a:b]
        for i in range(len(out)):
            out[i] = gain * sound[i]
