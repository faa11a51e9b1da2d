"""What counts as done in a step."""

from typing import Annotated, Literal

from pydantic import Field

from inner_tone.core.documents import Document

By = Literal["sound", "wiring", "both", "free"]


class Aim(Document):
    """By what a step is done: its sound, its wiring, both, or nothing, where one is free to explore.

    `tolerance` is how many times as far as usual a sound may be off.
    """

    by: By = "sound"
    tolerance: Annotated[float, Field(ge=0.25, le=8)] = 1.0


USUAL = Aim()
