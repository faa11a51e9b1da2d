"""Amplifier (VCA): multiplies what comes in by a level, which other signals can steer."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled

DECIBEL = 1
RANGE_RATIO = 1000.0  # 60 dB between level 1 and the foot of the decibel response


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return what it lets through, if nothing steers its level."""
    if "level" in connected:
        return None
    level = float(settings["level"])
    decibel = settings["response"] == "decibel"
    return {"out": ({"in": (RANGE_RATIO**level - 1.0) / (RANGE_RATIO - 1.0) if decibel else level}, 0.0)}


MODULE = ModuleType(
    name="amplifier",
    family="shape",
    nanoseconds=8,
    title="Amplifier",
    summary="Lets sound through in proportion to its level. At level 0 nothing passes.",
    words=(
        "louder",
        "softer",
        "quieter",
        "volume",
        "silence",
        "loudness",
        "vca",
        "tremolo",
        "ring modulation",
        "amplitude",
        "stop the tone",
        "gain",
    ),
    explanation=(
        "An amplifier multiplies the sound by its level. Its own level is 0, so nothing is heard until something "
        "drives it: a gate switches the sound on and off, an envelope gives it a beginning and an end. That is how "
        "a tone that never stops becomes a note."
    ),
    inputs=(
        Input("in", "audio", enters="through", help="What is made louder or softer."),
        Input(
            "level",
            "control",
            "0 is silence, 1 leaves the sound as it is.",
            Ruler(0, 2, 0, "", 0.01),
            bounds=(0.0, 16.0),
            effect="multiplies",
            bends=True,
        ),
    ),
    outputs=(Output("out", "audio", "The sound at its new level."),),
    settings=(
        Choice(
            "response",
            ("linear", "decibel"),
            "linear",
            "Linear multiplies by the level; decibel spreads 60 dB evenly over it, as the ear hears loudness.",
        ),
    ),
    usually="path",
    opens="level",
    shut_by="level",
    sums=sums,
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """out = in · level, or in · (1000^level - 1) / 999 for the decibel response, which is 0 at level 0."""
    sound, level, out = sig[ins[IN.in_], a:b], sig[ins[IN.level], a:b], sig[outs[OUT.out], a:b]
    if p[SET.response] == DECIBEL:
        for i in range(len(out)):
            out[i] = sound[i] * (RANGE_RATIO ** min(level[i], 2.0) - 1.0) / (RANGE_RATIO - 1.0)
    else:
        for i in range(len(out)):
            out[i] = sound[i] * level[i]
