"""The lesson “Ship’s bell”: eight steps from a bare tone to bronze in the fog; it opens with its target."""

from typing import Any

from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.recipe import Recipe
from inner_tone.core.lens.strip import Strip
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.lesson.step import Detour, StepContent
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Note, Phrase

TITLE = "Ship’s bell"
SUMMARY = "Two double strokes from the harbour master’s window: a handful of sines, and the way in which they die."
TARGET_NOTE = (
    "Listen to it twice. The first time, follow how long it rings; the second time, how its *colour* changes while it "
    "does. Nothing in it is sampled: it is four sines, a filter, and a room."
)

STROKES = Phrase(
    title="Two double strokes",
    tempo=96,
    beats=8,
    notes=tuple(Note(start=start, length=0.5, pitch=69, velocity=0.8) for start in (0, 1, 4, 5)),
)


def module(name: str, kind: str, label: str = "", **settings: float | str) -> dict[str, Any]:
    """Return a module of the lesson."""
    return {"id": name, "type": kind, "label": label, "settings": settings}


PLAYER = module("player", "player")
OUT = module("out", "output", level=-12)
PRIME = module("oscillator", "oscillator", "Prime", wave="sine")
LOUDNESS = module("amplifier", "amplifier", "Loudness")
RING = module("envelope", "envelope", "Ring", stages="attack-decay", attack=0.002, decay=2.5)
TIERCE = module("oscillator-2", "oscillator", "Tierce", wave="sine", ratio=1.2)
HUM = module("oscillator-3", "oscillator", "Hum", wave="sine", ratio=0.5)
NOMINAL = module("oscillator-4", "oscillator", "Nominal", wave="sine", ratio=2.01)
BRONZE = module("filter", "filter", "Bronze", cutoff=300)
BLOW = module("envelope-2", "envelope", "Blow", stages="attack-decay", attack=0.002, decay=0.8)
FOG = module("reverb", "reverb", "Fog", decay=3.5, mix=0.35)

TO_LOUDNESS = [("oscillator.out", "amplifier.in")]
FROM_RING = [("envelope.out", "amplifier.level"), ("player.gate", "envelope.gate")]


def partial(name: str) -> list[tuple[str, str]]:
    """Return the lines of another oscillator beside the first."""
    return [(f"{name}.out", "amplifier.in"), ("player.pitch", f"{name}.pitch")]


def sides(source: str) -> list[tuple[str, str]]:
    """Return the lines from an output to both ears."""
    return [(source, "out.left"), (source, "out.right")]


def patch(modules: list[dict[str, Any]], lines: list[tuple[str, str]]) -> Patch:
    """Return a patch of the lesson; what steers the bronze does so by two octaves."""
    depths = {("envelope-2.out", "filter.cutoff"): 24}
    connections = [
        {"from": source, "to": target, "depth": depths.get((source, target), 1)}
        for source, target in [("player.pitch", "oscillator.pitch"), *lines]
    ]
    return read_patch({"modules": [PLAYER, *modules, OUT], "connections": connections})


RUNG = [*TO_LOUDNESS, *FROM_RING]
CAST = [*RUNG, *partial("oscillator-2"), *partial("oscillator-3"), *partial("oscillator-4")]
STRUCK = [
    *CAST,
    ("amplifier.out", "filter.in"),
    ("envelope-2.out", "filter.cutoff"),
    ("player.gate", "envelope-2.gate"),
]
PARTIALS = [PRIME, TIERCE, HUM, NOMINAL]

PATCHES = (
    patch([PRIME], sides("oscillator.out")),
    patch([PRIME, LOUDNESS], [*TO_LOUDNESS, *sides("amplifier.out")]),
    patch([PRIME, LOUDNESS, RING], [*RUNG, *sides("amplifier.out")]),
    patch([PRIME, TIERCE, LOUDNESS, RING], [*RUNG, *partial("oscillator-2"), *sides("amplifier.out")]),
    patch(
        [PRIME, TIERCE, HUM, LOUDNESS, RING],
        [*RUNG, *partial("oscillator-2"), *partial("oscillator-3"), *sides("amplifier.out")],
    ),
    patch([*PARTIALS, LOUDNESS, RING], [*CAST, *sides("amplifier.out")]),
    patch([*PARTIALS, LOUDNESS, RING, BRONZE, BLOW], [*STRUCK, *sides("filter.out")]),
    patch(
        [*PARTIALS, LOUDNESS, RING, BRONZE, BLOW, FOG],
        [*STRUCK, ("filter.out", "reverb.in"), ("reverb.left", "out.left"), ("reverb.right", "out.right")],
    ),
)


def step(number: int, title: str, why: str, listen: str, **more: Any) -> StepContent:
    """Return a step of the lesson by its number."""
    return StepContent(title=title, why=why, listen=listen, patch=PATCHES[number - 1], phrase=STROKES, **more)


def with_decay(seconds: float) -> Patch:
    """Return the third step's patch with another time to ring."""
    ring = RING | {"settings": RING["settings"] | {"decay": seconds}}
    return patch([PRIME, LOUDNESS, ring], [*RUNG, *sides("amplifier.out")])


RINGING = Plate(
    id="plate-1",
    caption="One stroke that is given a fifth of a second, one second, and five: wood, glass, and metal.",
    recipe=Recipe(
        view=LevelView(taps=("amplifier.out",)),
        patch=PATCHES[2],
        phrase=STROKES,
        strip=Strip(module="envelope", setting="decay", values=(0.2, 1.0, 5.0)),
    ),
)

STEPS = (
    step(
        1,
        "One sine, and no end to it",
        "A bell is many tones at once. We begin with the one that we would sing: its **prime**, a *sine*, which has no "
        "partial but itself.\n\nFour strokes are played, and nothing of them is heard: the tone only swings.",
        "One even tone. {the measured pitch of Prime}, and it never stops.",
    ),
    step(
        2,
        "Somebody has to let it through",
        "An **amplifier** in its way, with nobody at its level, and it is still. That is the beginning of every shape.",
        "Nothing. On the map, the picture of {the module Prime} goes on.",
    ),
    step(
        3,
        "It is struck, and it rings",
        "A bell is not held. It is struck once, and what happens then is its own affair. So the **envelope** gets two "
        "stages only: an attack of {the attack of Ring}, which is the blow, and a decay of {the decay of Ring}."
        "\n\nHow long it rings says what it is made of: {picture 1}. Try {the detour A wooden one}.",
        "Four strokes. Each begins before the last one has died.",
        plates=(RINGING,),
        detours=(
            Detour(
                id="detour-1",
                name="A wooden one",
                note="The same tone with a fifth of a second to ring.",
                patch=with_decay(0.2),
            ),
        ),
    ),
    step(
        4,
        "A minor third makes it a bell",
        "This one interval is why bells sound grave even on a wedding day: the **tierce**, {the ratio of Tierce} times "
        "the prime, which is a minor third (6:5).",
        "Two tones that are nearly a chord.",
    ),
    step(
        5,
        "The hum below",
        "An octave under the prime lies the **hum**. It is what still stands in the air when all else is gone.",
        "The bell grows by an octave downwards.",
    ),
    step(
        6,
        "The nominal above, not quite in tune",
        "Above the prime stands the **nominal**. In a perfect bell it is the octave; no bell is perfect. Ours is at "
        "{the ratio of Nominal}.",
        "A slow unrest in the upper tone.",
        extra=True,
    ),
    step(
        7,
        "Bronze drinks the highs first",
        "In metal the high tones die before the low ones. A **low-pass filter** stands for that: it begins open, "
        "because the *blow* lifts its cutoff by two octaves, and falls back to {the cutoff of Bronze} within "
        "{the decay of Blow}.",
        "A bright beginning, a dark end, with every stroke.",
    ),
    step(
        8,
        "Over the water",
        "Between the bell and us lies the harbour, and this morning it is full of **fog**. A *reverb* keeps every "
        "stroke for {the decay of Fog}.",
        "The bell is out there, and the room is large.",
    ),
)

LESSON = LessonDocument(title=TITLE, summary=SUMMARY, target_first=True, target_note=TARGET_NOTE, steps=STEPS)
