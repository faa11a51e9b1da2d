"""The lesson “Fog comes in”: it starts from where the foghorn ends."""

from collections.abc import Sequence
from typing import Any

from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Gesture
from inner_tone.demo.foghorn import BELL, BLASTS, BREATH, DISTANT, LOUDNESS, OUT, PLAYER, REED

TITLE = "Fog comes in"
SUMMARY = "The same horn, an hour later: the mole answers it, the fog holds it, and a second reed goes sour."

QUAY = {
    "id": "quay",
    "type": "delay",
    "label": "Mole",
    "settings": {"time": 0.42, "feedback": 0.35, "mix": 0.3},
}
FOG = {"id": "fog", "type": "reverb", "label": "Fog", "settings": {"decay": 3.0, "mix": 0.3}}
SECOND = {"id": "reed-2", "type": "oscillator", "label": "Second reed", "settings": {"octave": -2, "fine": 9}}

# the wheel closes the horn's mouth while it calls
BANK: dict[str, Any] = {"from": "player.wheel", "to": "bell.cutoff", "depth": -18}
INTO_THE_BANK = BLASTS.model_copy(
    update={"title": "Into the bank", "gestures": (Gesture(control="wheel", points=((1.0, 0.0), (7.0, 1.0))),)}
)

BODY = [
    ("player.pitch", "reed.pitch"),
    ("player.gate", "breath.gate"),
    ("breath.out", "amp.level"),
    ("reed.out", "bell.in"),
    ("bell.out", "amp.in"),
]


def patch(modules: list[dict[str, Any]], lines: list[tuple[str, str]], steered: Sequence[dict[str, Any]] = ()) -> Patch:
    """Return a patch of the lesson: the distant horn, what comes behind it, and what steers it by a depth."""
    connections = [{"from": source, "to": target, "depth": 1} for source, target in [*BODY, *lines]]
    connections.extend(steered)
    listed = [PLAYER, REED, BELL, LOUDNESS, BREATH, *modules, OUT]
    return read_patch({"title": "Foghorn", "modules": listed, "connections": connections})


def sides(source: str) -> list[tuple[str, str]]:
    """Return the lines from a module with two sides to both ears."""
    return [(f"{source}.left", "out.left"), (f"{source}.right", "out.right")]


STEPS = (
    StepContent(
        title="The mole answers",
        why=(
            "We take the horn up where we left it. Across the basin stands the mole, and it answers after "
            "{the time of Mole}: a **delay** that feeds a part of itself back into itself."
        ),
        listen="Each blast comes back, weaker every time.",
        patch=patch([QUAY], [("amp.out", "quay.in"), *sides("quay")]),
        phrase=BLASTS,
    ),
    StepContent(
        title="The fog holds on to it",
        why="One wall is an echo. A thousand droplets are a **reverb**: so many answers that none is heard by itself.",
        listen="There is no moment of silence between the blasts any longer.",
        patch=patch([QUAY, FOG], [("amp.out", "quay.in"), ("quay.left", "fog.in"), *sides("fog")]),
        phrase=BLASTS,
    ),
    StepContent(
        title="The bank rolls over the horn",
        why=(
            "Fog does not come at once. The **wheel** steers the cutoff of the bell mouth downwards, and the phrase "
            "moves it by itself: under *Phrase* you see the movement beneath the notes."
        ),
        listen="The second blast is duller than the first, and goes on growing duller.",
        patch=patch([QUAY, FOG], [("amp.out", "quay.in"), ("quay.left", "fog.in"), *sides("fog")], [BANK]),
        phrase=INTO_THE_BANK,
    ),
    StepContent(
        title="A second reed goes sour",
        why=(
            "Salt has got into the horn. A second reed stands {the fine of Second reed} beside the first, and the two "
            "**beat** against each other. This step is for those who want more."
        ),
        listen="A slow throbbing within the blast.",
        patch=patch(
            [QUAY, FOG, SECOND],
            [
                ("player.pitch", "reed-2.pitch"),
                ("reed-2.out", "bell.in"),
                ("amp.out", "quay.in"),
                ("quay.left", "fog.in"),
                *sides("fog"),
            ],
            [BANK],
        ),
        phrase=INTO_THE_BANK,
        extra=True,
    ),
)

LESSON = LessonDocument(title=TITLE, summary=SUMMARY, start=DISTANT, steps=STEPS)
