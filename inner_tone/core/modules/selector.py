"""Selector: lets one of four signals pass, and goes over from one to the next without a click."""

from inner_tone.core.arrays import Floats, Ints
from inner_tone.core.modules.declaration import Input, ModuleType, Output, Ruler, Settings, Sums, numbered
from inner_tone.core.modules.kernel import Tables, compiled

CHANNELS = 4
FADE_SECONDS = 0.005
BEGUN = CHANNELS


def sums(settings: Settings, connected: frozenset[str]) -> Sums | None:
    """Return which signal passes, if nothing steers the position."""
    return None if "position" in connected else {"out": ({f"in{int(settings['position'] + 0.5)}": 1.0}, 0.0)}


MODULE = ModuleType(
    name="selector",
    family="shape",
    nanoseconds=22,
    title="Selector",
    summary="Lets one of four signals pass.",
    words=(
        "switch",
        "choose",
        "one of",
        "change between",
        "alternate",
    ),
    explanation=(
        "A selector has four ways in and one way out, and its position says which of them is open. Steered by a step "
        "row or a lever it changes the sound from note to note. It goes over in five thousandths of a second, so "
        "that nothing clicks."
    ),
    inputs=(
        *(
            Input(f"in{n}", "audio", f"Signal {n}.", enters="through", channel=str(n), heard_at=float(n))
            for n in range(1, CHANNELS + 1)
        ),
        Input(
            "position",
            "control",
            "Which one passes, 1 to 4; the nearest counts.",
            Ruler(1, 4, 1, "", 1),
            bounds=(1, 4),
            role="position",
        ),
    ),
    outputs=(Output("out", "audio", "The signal that passes."),),
    usually="path",
    shut_by="position",
    sums=sums,
    state_size=lambda rate: CHANNELS + 1,
)

IN, OUT, SET = numbered(MODULE)


@compiled
def kernel(
    sig: Floats, ins: Ints, outs: Ints, p: Floats, st: Floats, tables: Tables, rate: float, a: int, b: int
) -> None:
    """Move each signal's weight towards 1 or 0 by even steps; the weights always add up to 1."""
    step = 1.0 / (FADE_SECONDS * rate)
    for i in range(a, b):
        chosen = int(sig[ins[IN.position], i] + 0.5) - 1
        if st[BEGUN] == 0.0:
            st[chosen] = 1.0
            st[BEGUN] = 1.0
        others = 0.0
        total = 0.0
        for channel in range(CHANNELS):
            if channel != chosen:
                st[channel] = max(0.0, st[channel] - step)
                others += st[channel]
                total += st[channel] * sig[ins[IN.in1 + channel], i]
        st[chosen] = max(0.0, 1.0 - others)
        sig[outs[OUT.out], i] = total + st[chosen] * sig[ins[IN.in1 + chosen], i]
