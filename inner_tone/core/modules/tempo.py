"""Divisions of the beat, for what follows the phrase's tempo."""

import numpy as np

from inner_tone.core.modules.declaration import Choice, Settings, Value
from inner_tone.core.modules.kernel import compiled

DIVISIONS = {
    "4": 4.0,
    "3": 3.0,
    "2": 2.0,
    "3/2": 1.5,
    "1": 1.0,
    "3/4": 0.75,
    "2/3": 2.0 / 3.0,
    "1/2": 0.5,
    "1/3": 1.0 / 3.0,
    "1/4": 0.25,
    "1/6": 1.0 / 6.0,
    "1/8": 0.125,
}
BEATS = np.array(list(DIVISIONS.values()))

FREE, LOCKED = range(2)


def lock(help: str) -> Choice:
    """Return the declaration of the choice between a module's own time and the phrase's tempo."""
    return Choice("lock", ("free", "tempo"), "free", help, words=("free", "to the tempo"), role="lock")


def division(default: str, help: str) -> Choice:
    """Return the declaration of the choice of a division, in beats."""
    return Choice(
        "division", tuple(DIVISIONS), default, help, "of a beat", works_with=("lock", "tempo"), role="division"
    )


def written_free(settings: Settings) -> dict[str, Value]:
    """Write settings one way: a division means nothing to what is free."""
    return {**settings, "division": "1"} if settings["lock"] == "free" else dict(settings)


@compiled
def samples_of(place: int, tempo: float, rate: float) -> float:
    """Return how many samples a division lasts, by its place, at a tempo in beats per minute."""
    samples: float = BEATS[place] * 60.0 / tempo * rate
    return samples
