"""Mixer: adds up to six signals, each at its own level."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Choice, Input, ModuleType, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled

CHANNELS = 6
USUAL_CHANNELS = 2


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return what it adds up, if no level is steered."""
    numbers = range(1, CHANNELS + 1)
    if any(f"level{n}" in connected for n in numbers):
        return None
    alone = [n for n in numbers if settings[f"solo{n}"] == "on"]
    heard = [n for n in alone or numbers if settings[f"mute{n}"] == "off"]
    return {"out": ({f"in{n}": float(settings[f"level{n}"]) for n in heard}, 0.0)}


def swaps(settings: Settings) -> tuple[tuple[str, ...], ...]:
    """Return its channels, which are all alike."""
    return tuple((f"in{n}", f"level{n}", f"mute{n}", f"solo{n}") for n in range(1, CHANNELS + 1))


MODULE = ModuleType(
    name="mixer",
    family="shape",
    nanoseconds=10,
    title="Mixer",
    summary="Adds up to six signals, each at its own level.",
    words=(
        "blend",
        "mix",
        "together",
        "add",
        "balance",
        "combine",
        "levels",
        "layers",
        "both",
        "sum",
    ),
    explanation=(
        "A mixer lays several sounds on top of each other and keeps each one's level in reach. It adds movements as "
        "well as sounds: two LFOs and an envelope become one line that steers something. Several lines into one "
        "input add up even without a mixer; take one where the levels are to be played with."
    ),
    inputs=(
        *(Input(f"in{n}", "audio", f"Signal {n}.", enters="through", channel=str(n)) for n in range(1, CHANNELS + 1)),
        *(
            Input(
                f"level{n}",
                "control",
                f"The level of signal {n}.",
                Ruler(0, 2, 1, "", 0.01),
                bounds=(-16.0, 16.0),
                effect="multiplies",
                channel=str(n),
                rare=n > USUAL_CHANNELS,
                role="level",
            )
            for n in range(1, CHANNELS + 1)
        ),
    ),
    outputs=(Output("out", "audio", "The sum."),),
    settings=(
        *(
            Choice(
                f"mute{n}", ("off", "on"), "off", f"Leaves signal {n} out.", behind=True, channel=str(n), role="mute"
            )
            for n in range(1, CHANNELS + 1)
        ),
        *(
            Choice(
                f"solo{n}",
                ("off", "on"),
                "off",
                f"Leaves out all but signal {n} and others with solo.",
                behind=True,
                channel=str(n),
                role="solo",
            )
            for n in range(1, CHANNELS + 1)
        ),
    ),
    usually="path",
    shut_by="channel",
    sums=sums,
    swaps=swaps,
    state_size=lambda rate: 0,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """out = Σ in · level over the channels that are not muted, or over those with solo if there are any."""
    solo = False
    for channel in range(CHANNELS):
        solo = solo or p[SET.solo1 + channel] == 1.0
    total = sig[outs[OUT.out], a:b]
    total[:] = 0.0
    for channel in range(CHANNELS):
        if p[SET.mute1 + channel] == 1.0 or (solo and p[SET.solo1 + channel] == 0.0):
            continue
        sound, level = sig[ins[IN.in1 + channel], a:b], sig[ins[IN.level1 + channel], a:b]
        for i in range(len(total)):
            total[i] += sound[i] * level[i]
