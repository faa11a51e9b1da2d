"""The wiring of a patch: each module in each voice as a unit, and the lines that each of its inputs reads.

A module that exists once per voice becomes as many units; a module that exists once is one unit, of voice 0. Where a
line leads from voices to a module that exists once, there is one line for each voice: they sum.

Two wirings can be united for as long as one gives way to the other: then the lines that only the old one has fade out,
and those that only the new one has fade in, so that nothing jumps.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from inner_tone.core.modules import OUTPUT, PLAYER
from inner_tone.core.patch.graph import Graph, is_single
from inner_tone.core.patch.model import Connection, Module

SEMITONES_PER_OCTAVE = 12.0
ONCE = -1  # the voice of a group that exists once, whichever voices are awake


class UnitKey(NamedTuple):
    """By what a unit is known from one program to the next: a module that a patch has but once by its type alone."""

    module: str
    type: str
    voice: int

    @property
    def node(self) -> "Node":
        """The module whatever the voice."""
        return self.module, self.type


Node = tuple[str, str]


class UnitPlace(NamedTuple):
    """An output of a unit."""

    unit: UnitKey
    output: str


class Line(NamedTuple):
    """What an input of a unit reads: an output, scaled by another, with a depth that may be on its way from another."""

    source: UnitPlace
    scale: UnitPlace | None
    depth: float
    depth_before: float

    @property
    def ends(self) -> tuple[UnitPlace, UnitPlace | None]:
        """By what a line is known from one wiring to the next."""
        return self.source, self.scale


@dataclass(frozen=True)
class Unit:
    """A module in one voice."""

    key: UnitKey
    module: Module
    once: bool  # whether it exists but once

    @property
    def voice(self) -> int:
        """The voice that it belongs to."""
        return self.key.voice


@dataclass
class Wiring:
    """Units, by unit and input the lines that it reads, and which modules feed which, in the order of the patch."""

    voices: int
    units: dict[UnitKey, Unit] = field(default_factory=dict)
    lines: dict[tuple[UnitKey, str], list[Line]] = field(default_factory=dict)
    feeds: dict[Node, list[Node]] = field(default_factory=dict)

    def add(self, unit: Unit) -> None:
        """Put a unit in."""
        self.units[unit.key] = unit
        self.feeds.setdefault(unit.key.node, [])

    def feed(self, source: Node, target: Node) -> None:
        """Note that a module feeds another."""
        known = self.feeds.setdefault(source, [])
        if target not in known:
            known.append(target)

    @property
    def heard(self) -> set[UnitPlace]:
        """The outputs that some line reads."""
        return {place for lines in self.lines.values() for line in lines for place in line.ends if place is not None}


def key_of(module: Module, voice: int) -> UnitKey:
    """Return by what a module in a voice is known."""
    return UnitKey("" if is_single(module) else module.id, module.type, voice)


def wiring_of(graph: Graph) -> Wiring:
    """Return the wiring of a patch; connections that are off are no part of it."""
    voices = graph.patch.voices
    voiced = voiced_modules(graph)
    wiring = Wiring(voices)
    for module in graph.patch.modules:
        for voice in range(voices if module.id in voiced else 1):
            wiring.add(Unit(key_of(module, voice), module, module.id not in voiced))
    for connection in graph.patch.connections:
        for unit, line in lines_of(graph, connection, voiced):
            wiring.lines.setdefault((unit, connection.target.name), []).append(line)
        for port in connection.read:
            wiring.feed(key_of(graph.module(port), 0).node, key_of(graph.module(connection.target), 0).node)
    return wiring


def lines_of(graph: Graph, connection: Connection, voiced: frozenset[str]) -> Iterator[tuple[UnitKey, Line]]:
    """Yield what a connection is in each voice, or from each voice into a module that exists once."""
    target = graph.module(connection.target)
    differing = any(port.module in voiced and not graph.output_at(port).for_all for port in connection.read)
    many = graph.patch.voices if target.id in voiced or differing else 1
    depth = connection.depth / SEMITONES_PER_OCTAVE if graph.per_octave(connection) else connection.depth
    for voice in range(many):
        places = [UnitPlace(in_voice(graph.module(port), voice, voiced), port.name) for port in connection.read]
        line = Line(places[0], places[1] if connection.scaled_by else None, depth, depth)
        yield in_voice(target, voice, voiced), line


def in_voice(module: Module, voice: int, voiced: frozenset[str]) -> UnitKey:
    """Return the unit of a module that a voice has to do with."""
    return key_of(module, voice if module.id in voiced else 0)


def voiced_modules(graph: Graph) -> frozenset[str]:
    """Return the modules that exist once for each voice: what depends on the player's notes and follows nothing shared.

    None if the patch has but one voice.
    """
    if graph.patch.voices == 1:
        return frozenset()
    shared = reached(graph, [module.id for module in graph.patch.modules if module.declaration.shared])
    players = [module.id for module in graph.patch.modules if module.type == PLAYER]
    return reached(graph, players, notes_only=True) - shared


def reached(graph: Graph, beginnings: Iterable[str], *, notes_only: bool = False) -> frozenset[str]:
    """Return some modules and all that they feed; with `notes_only`, by lines that differ from voice to voice."""
    found: set[str] = set()
    waiting = list(beginnings)
    while waiting:
        name = waiting.pop()
        if name not in found:
            found.add(name)
            waiting += [
                line.target.module
                for line in graph.reading(name)
                for port in line.read
                if port.module == name and not (notes_only and graph.output_at(port).for_all)
            ]
    return frozenset(found)


def united(old: Wiring, new: Wiring) -> Wiring:
    """Return both wirings as one, in which the old one fades out and the new one fades in."""
    both = Wiring(max(old.voices, new.voices), {**old.units, **new.units})
    for wiring in (new, old):
        for source, targets in wiring.feeds.items():
            both.feeds.setdefault(source, [])
            for target in targets:
                both.feed(source, target)
    for key, unit in both.units.items():
        for port in unit.module.declaration.inputs:
            place = key, port.name
            before = {line.ends: line for line in old.lines.get(place, ())}
            after = {line.ends: line for line in new.lines.get(place, ())}
            if key not in new.units:  # it leaves: it goes on as it was, unless it is itself what is heard
                depth = 0.0 if unit.module.type == OUTPUT else 1.0
                lines = [line._replace(depth=depth * line.depth) for line in before.values()]
            elif key not in old.units:  # it comes: what goes through it swells, what steers it is there at once
                swelling = 0.0 if port.goes_through else 1.0
                lines = [line._replace(depth_before=swelling * line.depth) for line in after.values()]
            else:
                lines = list(changing(before, after))
            if lines:
                both.lines[place] = lines
    return both


def changing(
    before: dict[tuple[UnitPlace, UnitPlace | None], Line], after: dict[tuple[UnitPlace, UnitPlace | None], Line]
) -> Iterator[Line]:
    """Yield the lines of an input that stays, each on its way from what it was to what it will be."""
    for ends, line in after.items():
        yield line._replace(depth_before=before[ends].depth if ends in before else 0.0)
    for ends, line in before.items():
        if ends not in after:
            yield line._replace(depth=0.0)
