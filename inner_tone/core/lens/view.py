"""What all lenses are set to: which taps they look at. A view is kept in a step and can be drawn again."""

from typing import Annotated

from pydantic import Field, model_validator

from inner_tone.core.documents import Document
from inner_tone.core.patch.port import Port

MOST_TAPS = 4

Taps = Annotated[tuple[Port, ...], Field(min_length=1, max_length=MOST_TAPS)]
OneTap = Annotated[tuple[Port, ...], Field(min_length=1, max_length=1)]
Hertz = Annotated[float, Field(ge=1.0, le=24_000.0)]
Floor = Annotated[float, Field(ge=-140.0, le=-12.0)]
Cycles = Annotated[int, Field(ge=0, le=64)]


class Looking(Document):
    """The base of all views; each says its kind."""

    kind: str
    taps: Taps


class Spanned(Looking):
    """What lenses share that show frequencies."""

    low_hz: Hertz = 20.0
    high_hz: Hertz = 20_000.0
    log: bool = True

    @model_validator(mode="after")
    def upwards(self) -> "Spanned":
        """Refuse a span that ends where it begins."""
        if self.high_hz < 1.05 * self.low_hz:
            raise ValueError("The span is empty: high_hz must be greater than low_hz.")
        return self
