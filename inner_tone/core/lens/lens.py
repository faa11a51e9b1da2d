"""What a lens declares about itself: what it needs, how it can be set, and how a chart of it is made."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.source import Against, Source
from inner_tone.core.lens.view import Looking
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port


@dataclass(frozen=True)
class Options:
    """A row of a lens's form: a setting that is one of some values, each with its word."""

    name: str
    label: str
    options: tuple[tuple[str | float | bool, str], ...]
    unit: str = ""

    def rule(self, view: type[Looking]) -> dict[str, Any]:
        """Return the row as data."""
        options = [{"value": value, "word": word} for value, word in self.options]
        return {"is": "options", "name": self.name, "label": self.label, "options": options, "unit": self.unit}


@dataclass(frozen=True)
class Amounts:
    """A row of a lens's form: numbers on one ruler, each greater than the one before, with their names for the ear."""

    names: tuple[str, ...]
    label: str
    words: tuple[str, ...]
    unit: str
    step: float
    log: bool = False

    def rule(self, view: type[Looking]) -> dict[str, Any]:
        """Return the row as data; its bounds are those that the view declares."""
        fields = [view.model_fields[name] for name in self.names]
        low = next(one.ge for one in fields[0].metadata if hasattr(one, "ge"))
        high = next(one.le for one in fields[0].metadata if hasattr(one, "le"))
        travel = "log" if self.log else "linear"
        ruler = {"low": low, "high": high, "default": fields[0].default, "unit": self.unit, "step": self.step}
        numbers = [{"name": name, "word": word} for name, word in zip(self.names, self.words, strict=True)]
        return {"is": "amounts", "label": self.label, "numbers": numbers, "ruler": {**ruler, "travel": travel}}


def switch(name: str, label: str) -> Options:
    """Return the row of what is on or off."""
    return Options(name, label, ((True, "on"), (False, "off")))


SPAN_FORM = (
    Options("log", "scale", ((True, "logarithmic"), (False, "linear"))),
    Amounts(("low_hz", "high_hz"), "from", ("Lowest frequency", "Highest frequency"), "Hz", 1, log=True),
    Amounts(("floor_db",), "down to", ("Lowest level",), "dB", 6),
)


def its_taps(view: Looking, graph: Graph) -> tuple[Port, ...]:
    """Return the taps that a view names."""
    return view.taps


def nothing_held(view: Any) -> None:
    """Say that no cycles are held still."""


def no_course(view: Any) -> bool:
    """Say that what is seen does not move on."""
    return False


@dataclass(frozen=True)
class Lens:
    """A lens.

    `place` is its place among all. It `needs` ports of a patch, which are tapped for it: none where it has nothing to
    look at. It `listens` if it needs the sound of its taps; if it is for what is `heard`, it follows the output where
    what is followed is no sound. Its `form` says how it can be set; `over_phrase` how it is set at first, where it
    differs, on what is seen over the whole phrase rather than within some cycles. Behind one `of_patches` only another
    patch can stand, no other tap and no recording. While one plays, one that `moves_on` shows what passes; `holds` says
    of which tap how many cycles are held still.
    """

    place: int
    title: str
    view: type[Any]
    chart: Callable[[Any, Source, Against | None], Chart]
    needs: Callable[[Any, Graph], tuple[Port, ...]] = its_taps
    form: tuple[Options | Amounts, ...] = ()
    over_phrase: Mapping[str, int] = field(default_factory=dict)
    listens: bool = True
    heard: bool = False
    of_patches: bool = False
    moves_on: Callable[[Any], bool] = no_course
    holds: Callable[[Any], tuple[Port, int] | None] = nothing_held

    @property
    def kind(self) -> str:
        """The name by which a view says that it is of this lens."""
        return str(self.view.model_fields["kind"].default)

    @property
    def most_taps(self) -> int:
        """How many taps it looks at, at most."""
        limits = [getattr(one, "max_length", None) for one in self.view.model_fields["taps"].metadata]
        return int(next(limit for limit in limits if limit is not None))

    def behind(self, against: Against | None) -> Against | None:
        """Return what stands behind it, if such a thing can."""
        return None if against and self.of_patches and not against.of_patch else against
