"""The graph of a patch: its modules and connections, indexed once, with what is declared of their ports."""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from functools import cached_property
from typing import TypeVar

from inner_tone.core.modules import CATALOGUE, OUTPUT, PLAYER
from inner_tone.core.modules.declaration import Input, Law, ModuleType, Output, Value
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.port import Port

Key = TypeVar("Key", bound=Hashable)


class Graph:
    """A patch in which everything is found at once. Neither changes; an edit makes another patch.

    Parameters
    ----------
    patch
        A patch whose modules are of known types; connections lead between ports that are there.
    """

    def __init__(self, patch: Patch) -> None:
        self.patch = patch
        self.modules: dict[str, Module] = patch.by_id

    @cached_property
    def _coming(self) -> dict[Port, list[Connection]]:
        return self._lines_by(lambda line: (line.target,))

    @cached_property
    def _into(self) -> dict[str, list[Connection]]:
        return self._lines_by(lambda line: (line.target.module,))

    @cached_property
    def _leaving(self) -> dict[str, list[Connection]]:
        return self._lines_by(lambda line: (line.source.module,))

    @cached_property
    def _reading(self) -> dict[str, list[Connection]]:
        return self._lines_by(lambda line: dict.fromkeys(port.module for port in line.read))

    def _lines_by(self, keys: Callable[[Connection], Iterable[Key]]) -> dict[Key, list[Connection]]:
        found: dict[Key, list[Connection]] = {}
        for line in self.patch.connections:
            for key in keys(line):
                found.setdefault(key, []).append(line)
        return found

    @cached_property
    def player(self) -> Module | None:
        """The player, if there is one."""
        return self.first_of(PLAYER)

    @cached_property
    def output(self) -> Module | None:
        """The output, if there is one."""
        return self.first_of(OUTPUT)

    def first_of(self, kind: str) -> Module | None:
        """Return the first module of a type, if there is one."""
        return next((module for module in self.patch.modules if module.type == kind), None)

    @cached_property
    def ears(self) -> tuple[Port, ...]:
        """The inputs by which sound is heard, left before right; none without an output."""
        return tuple(Port.of(self.output.id, port.name) for port in self.output.declaration.ways) if self.output else ()

    def module(self, port: Port) -> Module:
        """Return the module that a port belongs to; raises KeyError."""
        return self.modules[port.module]

    def declared(self, name: str) -> ModuleType:
        """Return the declaration of a module's type; raises KeyError."""
        return self.modules[name].declaration

    def input(self, port: Port) -> Input:
        """Return the declaration of an input; raises KeyError."""
        return self.modules[port.module].declaration.input(port.name)

    def output_at(self, port: Port) -> Output:
        """Return the declaration of an output; raises KeyError."""
        return self.modules[port.module].declaration.output(port.name)

    def has(self, port: Port) -> bool:
        """Tell whether there is such an output or input."""
        module = self.modules.get(port.module)
        declared = module.declaration if module else None
        return declared is not None and (port.name in declared.outputs_by_name or port.name in declared.inputs_by_name)

    def coming(self, port: Port) -> list[Connection]:
        """Return the connections that enter an input, in the patch's order."""
        return self._coming.get(port, [])

    def into(self, name: str) -> list[Connection]:
        """Return the connections that enter a module."""
        return self._into.get(name, [])

    def leaving(self, name: str) -> list[Connection]:
        """Return the connections that leave a module."""
        return self._leaving.get(name, [])

    def reading(self, name: str) -> list[Connection]:
        """Return the connections that leave a module, or that it scales."""
        return self._reading.get(name, [])

    def between(self, source: str, target: str) -> Connection | None:
        """Return the connection between two ports, if there is one."""
        return next((line for line in self.coming(Port(target)) if line.source == source), None)

    def main(self, name: str, towards: Port | None = None) -> Port:
        """Return the output that stands for a module: on the way to an ear the one for that ear; raises KeyError."""
        found = self.declared(name).towards(self.input(towards).ear if towards else "")
        if found is None:
            raise KeyError(name)
        return Port.of(name, found.name)

    def is_main(self, port: Port) -> bool:
        """Tell whether an output stands for its module, so that its own name need not be said."""
        return self.declared(port.module).main == self.output_at(port)

    def ways(self, name: str) -> tuple[Port, ...]:
        """Return the inputs of a module whose signal comes out again, changed."""
        return tuple(Port.of(name, port.name) for port in self.declared(name).ways)

    def counting(self, module: Module, settings: Mapping[str, Value]) -> dict[str, Value]:
        """Return a module's settings as they count: 0 where a setting stands only for what is not connected."""
        alone = [port.name for port in module.declaration.inputs if port.alone]
        return {**settings, **{name: 0.0 for name in alone if self.coming(Port.of(module.id, name))}}

    def free_way(self, name: str) -> Port:
        """Return the channel of a module into which nothing comes yet, or its first way in."""
        ways = self.ways(name)
        free = [way for way in ways if self.input(way).channel and not self.coming(way)]
        return free[0] if free else ways[0]

    def beside(self, port: Port) -> Port:
        """Return where what sounds beside others comes in: the next free channel of a mixer, else the same input."""
        declared = self.input(port)
        adds_up = declared.channel and declared.goes_through and declared.heard_at is None
        return self.free_way(port.module) if adds_up and declared.effect == "adds" else port

    def inputs(self) -> Iterator[tuple[Port, Input]]:
        """Yield every input, module by module."""
        for module in self.patch.modules:
            for declared in module.declaration.inputs:
                yield Port.of(module.id, declared.name), declared

    def outputs(self) -> Iterator[tuple[Port, Output]]:
        """Yield every output, module by module."""
        for module in self.patch.modules:
            for declared in module.declaration.outputs:
                yield Port.of(module.id, declared.name), declared

    def carries_sound(self, line: Connection) -> bool:
        """Tell whether a connection carries sound along the path: it goes through, and one of its ends is sound."""
        port = self.input(line.target)
        return port.goes_through and "audio" in (port.kind, self.output_at(line.source).kind)

    def sound_into(self, name: str) -> list[Connection]:
        """Return the connections by which sound enters a module to go through it."""
        return [line for line in self.into(name) if self.carries_sound(line)]

    def sound_from(self, name: str) -> list[Connection]:
        """Return the connections by which sound leaves a module to go through another."""
        return [line for line in self.leaving(name) if self.carries_sound(line)]

    def carries_pitch(self, port: Port) -> bool:
        """Tell whether an output brings a pitch in semitones: one of that kind, or what a pitch has gone through."""
        return self._is_pitch(port, frozenset())

    def _is_pitch(self, port: Port, seen: frozenset[Port]) -> bool:
        output = self.output_at(port)
        if output.kind == "pitch":
            return True
        if output.kind != "control" or not self.is_main(port) or port in seen:
            return False
        coming = [line for way in self.ways(port.module) for line in self.coming(way)]
        return bool(coming) and all(self._is_pitch(line.source, seen | {port}) for line in coming)

    def per_octave(self, line: Connection) -> bool:
        """Tell whether a connection counts octaves of a pitch: where it moves a time or a rate, which doubles."""
        return self.input(line.target).law is Law.OCTAVES and self.carries_pitch(line.source)

    def loose_ends(self) -> list[Module]:
        """Return the modules that give sound and feed nothing."""
        return [
            module
            for module in self.patch.modules
            if module.declaration.sounds and module.type != OUTPUT and not self.leaving(module.id)
        ]

    def upstream(self, port: Port) -> frozenset[Port]:
        """Return the outputs that an input depends on, directly or through other modules."""
        found: set[Port] = set()
        waiting = list(self.coming(port))
        while waiting:
            for source in waiting.pop().read:
                if source not in found:
                    found.add(source)
                    waiting += self.into(source.module)
        return frozenset(found)

    @cached_property
    def feeds(self) -> dict[str, list[str]]:
        """The modules that each module feeds, or that read it as their scale."""
        found: dict[str, list[str]] = {module.id: [] for module in self.patch.modules}
        for line in self.patch.connections:
            for port in line.read:
                if line.target.module not in found[port.module]:
                    found[port.module].append(line.target.module)
        return found

    @cached_property
    def distances(self) -> dict[str, int]:
        """How many modules of the sound path lie between a module and the output, for those on the path."""
        distance = {self.output.id: 0} if self.output else {}
        ways = [line.modules for line in self.patch.connections if self.carries_sound(line)]
        ways = [(source, target) for source, target in ways if source != target]
        for _ in self.patch.modules:  # the longest path without a loop visits each module once
            farther = False
            for source, target in ways:
                longer = distance.get(target, -2) + 1
                if max(0, distance.get(source, -1)) < longer <= len(self.patch.modules):
                    distance[source] = longer
                    farther = True
            if not farther:
                break
        return distance

    def bridges(self, name: str) -> Iterator[Connection]:
        """Yield the connections that lead past a module: from what goes through it to whatever it feeds."""
        through = set(self.ways(name))
        for coming in self.into(name):
            if coming.target not in through or coming.source.module == name:
                continue
            for going in self.leaving(name):
                if going.target.module != name:
                    depth = max(-1e5, min(1e5, coming.depth * going.depth))
                    changes = {
                        "source": coming.source,
                        "depth": depth,
                        "scaled_by": going.scaled_by or coming.scaled_by,
                        "off": coming.off or going.off,
                    }
                    yield going.model_copy(update=changes)


def is_single(module: Module) -> bool:
    """Tell whether a module is one that a patch has but once, and outside of all sections."""
    return "single" in module.declaration.traits


def feeding(ends: Iterable[Module], output: str) -> Iterator[Connection]:
    """Yield the connections that let modules be heard on both sides of an output, which may yet have to be put in."""
    for module in ends:
        for way in CATALOGUE[OUTPUT].ways:
            source = module.declaration.towards(way.ear)
            assert source is not None, module.type
            yield Connection(source=Port.of(module.id, source.name), target=Port.of(output, way.name))
