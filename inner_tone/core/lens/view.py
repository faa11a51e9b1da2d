"""What a lens is set to: which taps it looks at, and how. A view is kept in a step and can be drawn again."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from inner_tone.core.analysis.spectrum import Over, Window
from inner_tone.core.analysis.sweep import USUAL_HIGH_HZ, USUAL_LOW_HZ, Resolution
from inner_tone.core.documents import Document
from inner_tone.core.patch.port import Port

MOST_TAPS = 4

Taps = Annotated[tuple[Port, ...], Field(min_length=1, max_length=MOST_TAPS)]
Hertz = Annotated[float, Field(ge=1.0, le=24_000.0)]
Floor = Annotated[float, Field(ge=-140.0, le=-12.0)]


class WaveView(Document):
    """A signal over time: some cycles of its pitch, held still, or (0 cycles) its course through the moment.

    Held by another tap, it shows the same moments as the wave of that one, so that both can be compared.
    """

    kind: Literal["wave"] = "wave"
    taps: Taps
    cycles: Annotated[int, Field(ge=0, le=64)] = 3
    held_by: Port | None = None
    stacked: bool = False


class Spanned(Document):
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


class SpectrumView(Spanned):
    """Level against frequency: of the passage that says most, or over the whole moment."""

    kind: Literal["spectrum"] = "spectrum"
    taps: Taps
    floor_db: Floor = -84.0
    window: Window = "blackman-harris"
    over: Over = "passage"
    smooth: Annotated[int, Field(ge=0, le=48, description="The mean over 1/n of an octave; 0 for none.")] = 0
    theory: bool = False


class SweepView(Spanned):
    """Time against frequency, as levels or as the course of the pitch."""

    kind: Literal["sweep"] = "sweep"
    taps: Annotated[tuple[Port, ...], Field(min_length=1, max_length=1)]
    low_hz: Hertz = USUAL_LOW_HZ
    high_hz: Hertz = USUAL_HIGH_HZ
    floor_db: Floor = -70.0
    resolution: Resolution = "balanced"
    show: Literal["levels", "pitch"] = "levels"


class LevelView(Document):
    """Loudness, RMS and peak over time, or the course of an envelope; with the gate beneath."""

    kind: Literal["level"] = "level"
    taps: Taps
    scale: Literal["fitting", "decibel", "linear"] = "fitting"
    gate: bool = True


class ResponseView(Document):
    """What is made of what comes in on its way to each tap: from the filter before it, or from an input upstream.

    Those of several taps share the axes of the first one's kind.
    """

    kind: Literal["response"] = "response"
    source: Port | None = None
    taps: Taps
    theory: bool = True
    phase: bool = False


class FrequencyView(Document):
    """How fast the cycle of an oscillator really runs, over some cycles of what moves it or (0) over the moment."""

    kind: Literal["frequency"] = "frequency"
    taps: Annotated[tuple[Port, ...], Field(min_length=1, max_length=1)]
    cycles: Annotated[int, Field(ge=0, le=64)] = 3
    phase: bool = True


# how a lens is set at first, where it differs, on what is seen over the whole phrase rather than within some cycles
SEEN_OVER_PHRASE: dict[str, dict[str, int]] = {"wave": {"cycles": 0}}

View = Annotated[
    WaveView | SpectrumView | SweepView | LevelView | ResponseView | FrequencyView, Field(discriminator="kind")
]
