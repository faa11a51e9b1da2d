"""What a patch comes down to: the same for all patches that the trade takes as the same.

Names, order and sections are nothing to it. Settings are written one way, so an octave is twelve semitones. What only
adds up what comes in, and is steered by nothing, is worked into the lines through it: so a mixer at unity is the lines
into one input, a scale is a depth, and a module through which all comes unchanged is not there. What multiplies is the
same whichever factor comes first.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple

from inner_tone.core.modules import OUTPUT
from inner_tone.core.modules.declaration import Law, Sums, Value
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.port import Port

Path = tuple[Connection, ...]

DIGITS = 6
MOST_FACTORS = 2  # a connection has a source, and may have a scale
NOTHING = 1e-9


class Way(NamedTuple):
    """What a line multiplies, in one order, and where it leads."""

    factors: tuple[Port, ...]
    target: Port

    @property
    def modules(self) -> tuple[str, ...]:
        """The modules that it joins."""
        return (*(port.module for port in self.factors), self.target.module)


@dataclass(frozen=True)
class Plain:
    """Modules by id, each with its settings written one way; lines with their depths; what was worked into lines.

    `paths` are, for each line, the connections that it was made of, each way from its source to its target; `shifts` by
    how much what was worked in has moved the base value of an input.
    """

    types: dict[str, str]
    settings: dict[str, dict[str, Value]]
    lines: dict[Way, float]
    voices: int = 1
    dissolved: frozenset[str] = frozenset()
    paths: dict[Way, list[Path]] = field(default_factory=dict, compare=False)
    shifts: dict[Port, float] = field(default_factory=dict, compare=False)

    def reaching(self) -> frozenset[str]:
        """Return the modules that what is heard depends on: all from which a way leads to a single one that ends it."""
        feeding: dict[str, set[str]] = {}
        for way in self.lines:
            feeding.setdefault(way.target.module, set()).update(port.module for port in way.factors)
        ends = [name for name, kind in self.types.items() if kind == OUTPUT]
        found, waiting = set(ends), list(ends)
        while waiting:
            new = feeding.get(waiting.pop(), set()) - found
            found |= new
            waiting += new
        return frozenset(found)

    def named(self, names: dict[str, str]) -> "Plain":
        """Return it with other ids for its modules; ids that are not given stay."""

        def port(one: Port) -> Port:
            return one.on(names.get(one.module, one.module))

        lines = {way_of(map(port, way.factors), port(way.target)): depth for way, depth in self.lines.items()}
        return replace(
            self,
            types={names.get(one, one): kind for one, kind in self.types.items()},
            settings={names.get(one, one): values for one, values in self.settings.items()},
            lines=lines,
        )

    def only(self, kept: Iterable[str]) -> "Plain":
        """Return it with only some of its modules, and the lines among them."""
        stay = set(kept)
        return replace(
            self,
            types={one: kind for one, kind in self.types.items() if one in stay},
            settings={one: values for one, values in self.settings.items() if one in stay},
            lines={way: depth for way, depth in self.lines.items() if stay.issuperset(way.modules)},
        )


def way_of(factors: Iterable[Port], target: Port) -> Way:
    """Return a way whose factors stand in one order."""
    return Way(tuple(sorted(factors)), target)


def rounded(value: Any) -> Value:
    """Return a value without what is only the noise of arithmetic."""
    if isinstance(value, tuple):
        return tuple(rounded(one) for one in value)  # type: ignore[misc]
    if isinstance(value, str):
        return value
    number = float(f"{float(value):.{DIGITS}g}")
    return 0.0 if abs(number) < NOTHING else number


def alike(one: float, other: float) -> bool:
    """Tell whether two numbers are the same but for the noise of arithmetic."""
    return abs(one - other) <= 1e-5 * max(abs(one), abs(other), 1e-3)


def written(module: Module, settings: dict[str, Value]) -> dict[str, Value]:
    """Return settings, all of which are given, written one way: the same for what sounds the same."""
    declared = module.declaration
    idle = {port.name: port.base for port in declared.inputs if port.ruler and not declared.works(port, settings)}
    counting = settings | idle
    rows = {
        name: tuple(row.padded(counting[name])[: int(counting[row.counted_by]) if row.counted_by else None])  # type: ignore[arg-type]
        for name, row in declared.rows.items()
    }
    whole = counting | rows
    return {name: rounded(value) for name, value in (declared.written(whole) if declared.written else whole).items()}


def plain(patch: Patch, *, as_built: bool = False) -> Plain:
    """Return what a patch comes down to; `as_built` nothing is worked into lines, only written one way."""
    return Dissolving(patch).done(as_built)


def heard(form: Plain, as_built: bool) -> Plain:
    """Return what counts of a plain form: what is heard, or all that is built."""
    return form if as_built else form.only(form.reaching())


class Dissolving:
    """A patch on its way to its plain form."""

    def __init__(self, patch: Patch) -> None:
        self.patch = patch.live
        self.graph = Graph(self.patch)
        self.modules = dict(self.patch.by_id)
        self.settings = {
            name: dict(self.graph.counting(module, module.all_settings)) for name, module in self.modules.items()
        }
        self.lines: dict[Way, float] = {}
        self.paths: dict[Way, list[Path]] = {}
        for line in self.patch.connections:
            self.add(way_of(line.read, line.target), line.depth, [(line,)])
        self.gone: set[str] = set()
        self.shifts: dict[Port, float] = {}

    def add(self, way: Way, depth: float, paths: list[Path]) -> None:
        """Add a line to those that are there."""
        self.lines[way] = self.lines.get(way, 0.0) + depth
        self.paths[way] = [*self.paths.get(way, ()), *paths]

    def done(self, as_built: bool) -> Plain:
        """Return the plain form."""
        while not as_built and any([self.dissolve(name) for name in self.modules if name not in self.gone]):
            pass
        kept = {name: module for name, module in self.modules.items() if name not in self.gone}
        return Plain(
            {name: module.type for name, module in kept.items()},
            {name: written(module, self.settings[name]) for name, module in kept.items()},
            {way: depth for way, depth in self.lines.items() if abs(depth) > NOTHING},
            self.patch.voices,
            frozenset(self.gone),
            self.paths,
            self.shifts,
        )

    def sums(self, name: str) -> Sums | None:
        """Return what a module adds up, if it does nothing else here and something comes through it."""
        declared = self.modules[name].declaration
        if declared.sums is None:
            return None
        connected = frozenset(way.target.name for way in self.lines if way.target.module == name)
        found = declared.sums(self.settings[name], connected)
        if found is None or not any(gain for gains, _ in found.values() for gain in gains.values()):
            return None
        return found

    def dissolve(self, name: str) -> bool:
        """Work a module into the lines through it; tells whether that could be."""
        sums = self.sums(name)
        if sums is None:
            return False
        coming = [(way, depth) for way, depth in self.lines.items() if way.target.module == name]
        going = [(way, depth) for way, depth in self.lines.items() if any(port.module == name for port in way.factors)]
        if not coming or any(name in (port.module for port in way.factors) for way, _ in coming):
            return False  # what nothing enters, or what feeds itself, stays
        new: list[tuple[Way, float, list[Path]]] = []
        bases: list[tuple[Port, float]] = []
        for way, depth in going:
            ours = [port for port in way.factors if port.module == name]
            if len(ours) > 1 or ours[0].name not in sums:
                return False
            rest = [port for port in way.factors if port.module != name]
            gains, constant = sums[ours[0].name]
            constant += sum(gain * self.base(name, port) for port, gain in gains.items())
            for into, depth_in in coming:
                gain = gains.get(into.target.name, 0.0)
                if not gain:
                    continue
                if len(into.factors) + len(rest) > MOST_FACTORS:
                    return False
                paths = [(*first, *then) for first in self.paths[into] for then in self.paths[way]]
                new.append((way_of((*into.factors, *rest), way.target), depth_in * gain * depth, paths))
            if abs(constant) > NOTHING and rest:
                new.append((way_of(rest, way.target), constant * depth, self.paths[way]))
            elif abs(constant) > NOTHING:
                bases.append((way.target, constant * depth))
        if not all(self.can_shift(port) for port, _ in bases):
            return False
        self.take_out(name, new, bases)
        return True

    def take_out(
        self, name: str, new: Iterable[tuple[Way, float, list[Path]]], bases: Iterable[tuple[Port, float]]
    ) -> None:
        """Let new lines and base values stand for a module."""
        self.lines = {way: depth for way, depth in self.lines.items() if name not in way.modules}
        for way, depth, paths in new:
            self.add(way, depth, paths)
        for port, amount in bases:
            self.shifts[port] = self.shifts.get(port, 0.0) + amount
            settings = self.settings[port.module]
            settings[port.name] = shifted(self.graph.input(port).law, float(settings[port.name]), amount)  # type: ignore[arg-type]
        self.gone.add(name)

    def base(self, name: str, port: str) -> float:
        """Return the base value of an input that comes through."""
        value = self.settings[name].get(port, 0.0)
        return float(value) if isinstance(value, int | float) else 0.0

    def can_shift(self, port: Port) -> bool:
        """Tell whether an input has a base value that counts beside what is connected."""
        declared = self.graph.input(port)
        return declared.ruler is not None and not declared.alone


def shifted(law: Law, base: float, amount: float) -> float:
    """Return a base value moved by an amount, as the input's law has it."""
    if law is Law.LINEAR:
        return base + amount
    return float(base * 2.0 ** (amount / (12.0 if law is Law.SEMITONES else 1.0)))
