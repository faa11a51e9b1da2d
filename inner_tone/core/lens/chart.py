"""A chart: what a lens shows, ready to be drawn on a screen or on paper, with the numbers and the sentence."""

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from inner_tone.core.arrays import Floats
from inner_tone.core.lens.moment import Span
from inner_tone.core.lens_kinds import LensKind

Role = Literal["this", "compared", "theory"]
MarkKind = Literal["partial", "stage"]


class ChartPart(BaseModel):
    """The base of all parts of a chart: they do not change."""

    model_config = ConfigDict(frozen=True)


class Axis(ChartPart):
    """An axis: what is measured in which unit, from where to where. Notes are fractional MIDI notes."""

    label: str
    unit: Literal["s", "Hz", "dB", "LUFS", "°", "rad", "note", ""]
    low: float
    high: float
    log: bool = False


class Trace(ChartPart):
    """A line, or a band between `lows` and `ys`. Where there is nothing to draw, a value is missing.

    Several lines of one role are told apart by their `order`.
    """

    role: Role
    legend: str
    xs: list[float]
    ys: list[float | None]
    lows: list[float] | None = None
    order: int = 0


class Mark(ChartPart):
    """A place with a name: a partial at its level, or where a stage ends. `words` are read where it is pointed at.

    Of several notes, a partial is `of` one of them: a place may be marked for each.
    """

    kind: MarkKind
    x: float
    y: float | None
    text: str
    words: str
    of: str = ""


class Raster(ChartPart):
    """Levels in dB over a grid, row by row from the lowest frequency: each a byte, 0 at `low_db`, 255 at `high_db`."""

    columns: int
    rows: int
    low_db: float
    high_db: float
    levels: str


class Panel(ChartPart):
    """One field of a chart. Those of a chart stand below one another and share its x axis; `share` is of the height."""

    title: str
    y: Axis
    traces: list[Trace] = []
    marks: list[Mark] = []
    raster: Raster | None = None
    shaded: bool = False
    share: float = 1.0


class Table(ChartPart):
    """Numbers in rows, as people read them."""

    columns: list[str]
    rows: list[list[str]]


class Seen(ChartPart):
    """The moment that a chart shows, in s: what it is called, why it was taken, and the passage within it that counts.

    `note` is its number of `notes`, 0 where it is no note.
    """

    begin_s: float
    end_s: float
    words: str
    why: str = ""
    note: int = 0
    notes: int = 0
    passage_begin_s: float | None = None
    passage_end_s: float | None = None


def seen_in(span: Span, seconds: float) -> Seen:
    """Return a moment within a render of so many s."""
    end = seconds if span.end_s is None else min(span.end_s, seconds)
    return Seen(
        begin_s=min(span.begin_s, end), end_s=end, words=span.words, why=span.why, note=span.note, notes=span.notes
    )


class Chart(ChartPart):
    """What a lens shows. `difference` says in numbers what differs from what it is compared with.

    `facts` are what the sentence rests on.
    """

    kind: LensKind
    taps: list[str]
    title: str = ""
    x: Axis
    panels: list[Panel]
    sentence: str
    difference: str = ""
    table: Table | None = None
    facts: dict[str, Any] = {}
    seen: Seen | None = None


def rounded(values: Floats, digits: int) -> list[float]:
    """Return values with as many places as a picture can show."""
    found: list[float] = np.round(values, digits).tolist()
    return found


def gapped(values: Floats, digits: int) -> list[float | None]:
    """Return values, those that are not known missing."""
    return [round(float(value), digits) if np.isfinite(value) else None for value in values]
