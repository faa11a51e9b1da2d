"""Placements: where a new module could go, the usual place first, each as edits with a reason in words."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from inner_tone.core.modules import CATALOGUE, MODULE_TYPES, OUTPUT
from inner_tone.core.modules.declaration import ModuleType, Place
from inner_tone.core.patch.depth import usual_depth
from inner_tone.core.patch.edit import fresh_id, fresh_title
from inner_tone.core.patch.graph import Graph, feeding
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import AddModule, Connect, Disconnect, Edit, Ends, InsertModule
from inner_tone.core.patch.port import Port

HEADROOM_DB = -12.0  # a new output leaves room for several sources at full level
DRIVER = "clock"  # what steps bring along if nothing drives them yet


@dataclass(frozen=True)
class Placement:
    """One way to put a new module in."""

    words: str
    edits: tuple[Edit, ...]


def placements(graph: Graph, selected: str | None, line: Ends | None = None) -> dict[str, list[Placement]]:
    """Return, for each type of module, where a new one could go, given what is selected on the map."""
    return {
        declared.name: list(Placing(graph, declared, selected, line).all())
        for declared in MODULE_TYPES
        if "single" not in declared.traits or graph.first_of(declared.name) is None
    }


def new_module(graph: Graph, declared: ModuleType) -> Module:
    """Return a module of a type with a free id, and a name of its own if it is not the first."""
    title = fresh_title([module.title for module in graph.modules.values()], declared.title)
    label = "" if title == declared.title else title
    settings = {"level": HEADROOM_DB} if declared.name == OUTPUT else {}
    return Module(id=fresh_id(graph.modules, declared.name), type=declared.name, label=label, settings=settings)


class Placing:
    """A new module of one type on its way into a patch."""

    def __init__(self, graph: Graph, declared: ModuleType, selected: str | None, line: Ends | None) -> None:
        self.graph = graph
        self.declared = declared
        self.selected = graph.modules.get(selected) if selected else None
        self.line = line
        self.module = new_module(graph, declared)

    def all(self) -> Iterator[Placement]:
        """Yield the placements, the usual first; the last is always: alone."""
        seen = set()
        for placement in (*self.on_line(), *USUALLY[self.declared.usually](self)):
            if placement.words not in seen:
                seen.add(placement.words)
                yield placement
        yield Placement("by itself, not connected", (AddModule(module=self.module),))

    def on_line(self) -> Iterator[Placement]:
        """Yield the place on the selected line."""
        if self.line and self.declared.ways:
            words = f"between {self.name(self.line.source)} and {self.name(self.line.target)}"
            yield Placement(words, (InsertModule(module=self.module, lines=(self.line,)),))

    def name(self, port: Port) -> str:
        """Return the name of the module that a port belongs to."""
        return self.graph.module(port).title

    def on_the_way(self) -> Module | None:
        """Return the selected module if it gives sound to others."""
        chosen = self.selected
        return chosen if chosen and chosen.type != OUTPUT and chosen.declaration.sounds else None

    def as_source(self) -> Iterator[Placement]:
        """A source sounds beside the selected one, or at the beginning of the path, and follows the keys."""
        selected = self.on_the_way()
        if selected and "source" in selected.declaration.traits:
            targets = self.graph.sound_from(selected.id)
            if targets:
                beside = [self.copy_of(line) for line in targets]
                yield Placement(f"beside {selected.title}", self.put(*beside, *self.keyed()))
        if selected and selected.declaration.passes:
            into = Connection(source=self.main(), target=self.free_way(selected))
            yield Placement(f"into {selected.title}", self.put(into, *self.keyed()))
        first = self.first_of_path()
        if first:
            yield Placement(f"into {self.name(first[0].target)}", self.put(*first, *self.keyed()))

    def copy_of(self, line: Connection) -> Connection:
        """Return a line like one from another source: into the next free channel of a mixer, else into the same."""
        port = self.graph.input(line.target)
        together = port.channel and port.heard_at is None
        way = self.free_way(self.graph.module(line.target)) if together else line.target
        return Connection(source=self.main(line.target), target=way, depth=line.depth)

    def free_way(self, module: Module) -> Port:
        """Return the way into a module that is free, or its first."""
        free = [
            Port.of(module.id, way.name)
            for way in module.declaration.ways
            if way.channel and not self.graph.coming(Port.of(module.id, way.name))
        ]
        return free[0] if free else self.graph.ways(module.id)[0]

    def first_of_path(self) -> list[Connection]:
        """Return lines to where the sound path begins: what the first source feeds, else the output."""
        for module in self.graph.patch.modules:
            if "source" in module.declaration.traits:
                lines = [self.copy_of(one) for one in self.graph.sound_from(module.id)]
                if lines:
                    return lines
        return self.to_output()

    def to_output(self) -> list[Connection]:
        """Return the lines to both ears."""
        return [Connection(source=self.main(ear), target=ear) for ear in self.graph.ears]

    def main(self, towards: Port | None = None) -> Port:
        """Return the output that stands for the new module."""
        found = self.declared.towards(self.graph.input(towards).ear if towards else "")
        assert found is not None, self.declared.name
        return Port.of(self.module.id, found.name)

    def input(self, name: str) -> Port:
        """Return an input of the new module."""
        return Port.of(self.module.id, name)

    def keyed(self) -> Iterator[Connection]:
        """Yield the lines from the player that the module needs to be played: its pitch and its gate."""
        for name in ("pitch", "gate"):
            if self.graph.player and name in self.declared.inputs_by_name:
                yield Connection(source=Port.of(self.graph.player.id, name), target=self.input(name))

    def put(self, *lines: Connection) -> tuple[Edit, ...]:
        """Return the edits that put the module in with some lines."""
        return (AddModule(module=self.module), *(Connect(line=line) for line in lines))

    def on_path(self) -> Iterator[Placement]:
        """What changes sound goes behind the selected module, before it, or before the output."""
        selected = self.on_the_way()
        if selected:
            going = self.graph.sound_from(selected.id)
            behind = self.graph.module(going[0].target) if going else None
            coming = self.graph.sound_into(behind.id) if behind else []
            if behind and any(line.source.module != selected.id for line in coming):
                # what sounds beside it goes the same way
                yield Placement(f"before {behind.title}", (self.insertion(coming),))
            if going:
                yield Placement(f"behind {selected.title}", (self.insertion(going),))
            else:
                into = Connection(source=self.graph.main(selected.id), target=self.input(self.declared.ways[0].name))
                yield Placement(f"behind {selected.title}", self.put(into))
        for module in (self.selected, self.graph.output):
            coming = self.graph.sound_into(module.id) if module else []
            if module and coming:
                yield Placement(f"before {module.title}", (self.insertion(coming),))
            elif module and module == self.graph.output:
                yield Placement(f"before {module.title}", self.put(*self.to_output()))

    def insertion(self, lines: Sequence[Connection]) -> InsertModule:
        """Return the edit that puts the module into some lines."""
        return InsertModule(module=self.module, lines=tuple(Ends.of(line) for line in lines))

    def on_pitch(self) -> Iterator[Placement]:
        """A glide and the like go between the player's pitch and what follows it."""
        following = [
            line
            for line in (self.graph.leaving(self.graph.player.id) if self.graph.player else ())
            if line.source.name == "pitch" and line.target.name == "pitch"
        ]
        mine = [line for line in following if self.selected and line.target.module == self.selected.id]
        if mine and len(mine) < len(following):
            yield Placement(f"on the pitch of {self.name(mine[0].target)}", (self.insertion(mine),))
        if following:
            yield Placement("on the pitch of all that follows the keys", (self.insertion(following),))
        yield from self.as_steering()

    def as_steering(self) -> Iterator[Placement]:
        """What steers goes to the inputs of the selected module, or to where most would want it."""
        if self.selected:
            for target in self.steerable(self.selected):
                yield self.steering(target)
        for target in self.unsteered():
            yield self.steering(target)

    def steerable(self, module: Module) -> list[Port]:
        """Return a module's inputs that can be steered, the usual and the free ones first, the rare ones last."""
        order = {name: place for place, name in enumerate(self.declared.often)}
        steered = [port for port in module.declaration.inputs if port.ruler and port.kind in ("control", "pitch")]
        targets = [Port.of(module.id, port.name) for port in sorted(steered, key=lambda port: port.rare)]
        return sorted(targets, key=lambda one: (order.get(one.name, 99), bool(self.graph.coming(one))))[:6]

    def unsteered(self) -> list[Port]:
        """Return the inputs in the patch that most often want such a module and are not steered yet."""
        order = self.declared.often
        found = [
            port
            for port, declared in self.graph.inputs()
            if declared.name in order and declared.ruler and not self.is_steered(port)
        ]
        return sorted(found, key=lambda target: order.index(target.name))[:4]

    def is_steered(self, port: Port) -> bool:
        """Tell whether something steers an input already; that a pitch follows the keys does not count."""
        return any(not self.follows_keys(line) for line in self.graph.coming(port))

    def follows_keys(self, line: Connection) -> bool:
        """Tell whether a connection brings the player's pitch."""
        return self.graph.player is not None and line.source == Port.of(self.graph.player.id, "pitch")

    def steering(self, target: Port) -> Placement:
        """Return the placement that steers an input. What has a gate takes the place of one that was its switch."""
        main = self.declared.main
        assert main is not None, self.declared.name
        depth = usual_depth(self.declared, main, self.graph.input(target))
        words = f"steers the {target.name} of {self.name(target)}"
        line = Connection(source=self.main(), target=target, depth=depth)
        switches = [one for one in self.graph.coming(target) if self.graph.output_at(one.source).kind == "gate"]
        if "gate" in self.declared.inputs_by_name and switches:
            gone = [Disconnect(line=Ends.of(one)) for one in switches]
            return Placement(f"{words}, instead of the gate", (*self.put(line, *self.keyed()), *gone))
        return Placement(words, self.put(line, *self.keyed()))

    def drives_gates(self) -> Iterator[Placement]:
        """A clock drives whatever waits for a gate: the selected module, or all that nothing drives yet."""
        for port, declared in self.graph.inputs():
            waits = declared.kind == "gate" and declared.name != "reset" and not self.graph.coming(port)
            if waits and (self.selected is None or self.selected.id == port.module):
                line = Connection(source=self.main(), target=port)
                yield Placement(f"drives the {port.name} of {self.name(port)}", self.put(line))

    def plays(self) -> Iterator[Placement]:
        """Steps play what has a pitch and what has a gate, driven by a clock that they bring along if there is none."""
        clock = self.graph.first_of(DRIVER)
        driver = clock or new_module(self.graph, CATALOGUE[DRIVER])
        lines = [Connection(source=Port.of(driver.id, "out"), target=self.input("clock"))]
        for port, _ in self.graph.inputs():
            source = {"pitch": "row1", "gate": "gate"}.get(port.name)
            if source and (self.selected is None or self.selected.id == port.module):
                lines.append(Connection(source=self.input(source), target=port))
        words = f"plays {self.selected.title}" if self.selected and len(lines) > 1 else "plays all that can be played"
        if len(lines) > 1:
            yield Placement(words, (*(() if clock else (AddModule(module=driver),)), *self.put(*lines)))

    def as_player(self) -> Iterator[Placement]:
        """A player is followed by every source, and opens every envelope, that nobody plays yet."""
        lines = [
            Connection(source=self.input(port.name), target=port)
            for port, _ in self.graph.inputs()
            if port.name in ("pitch", "gate") and not self.graph.coming(port)
        ]
        if lines:
            yield Placement("plays all that can be played", self.put(*lines))

    def as_output(self) -> Iterator[Placement]:
        """An output takes in the end of the sound path: what sounds and feeds nothing."""
        ends = self.graph.loose_ends()
        if ends:
            words = "lets " + " and ".join(module.title for module in ends) + " be heard"
            yield Placement(words, self.put(*feeding(ends, self.module.id)))


USUALLY: dict[Place, Callable[[Placing], Iterator[Placement]]] = {
    "beside": Placing.as_source,
    "path": Placing.on_path,
    "pitch": Placing.on_pitch,
    "gates": Placing.drives_gates,
    "plays": Placing.plays,
    "steers": Placing.as_steering,
    "player": Placing.as_player,
    "output": Placing.as_output,
}
