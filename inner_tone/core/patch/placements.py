"""Placements: where a new module could go, the usual place first, each as edits with a reason in words."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from inner_tone.core.message import Listed, Message, Name, say
from inner_tone.core.modules import CATALOGUE, MODULE_TYPES, OUTPUT
from inner_tone.core.modules.declaration import ModuleType, UsualPlace
from inner_tone.core.patch.depth import usual_depth
from inner_tone.core.patch.edit import fresh_id, fresh_title
from inner_tone.core.patch.graph import Graph, feeding
from inner_tone.core.patch.inserting import are_two_sides, inserted, paths_of
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import AddModule, ChangeLine, Connect, Disconnect, Edit, Ends, InsertModule
from inner_tone.core.patch.offers import how_strongly
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.tuning import pitch_of

HEADROOM_DB = -12.0  # a new output leaves room for several sources at full level
DRIVER = "clock"  # what steps bring along if nothing drives them yet


@dataclass(frozen=True)
class Placement:
    """One way to put a new module in; `loses_a_side` where of the two that it makes only one goes on."""

    said: Message
    edits: tuple[Edit, ...]
    loses_a_side: bool = False

    @property
    def words(self) -> str:
        """Where it would go, in words."""
        return str(self.said)


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
        yield Placement(say("offer.by-itself-not-connected"), (AddModule(module=self.module),))

    def on_line(self) -> Iterator[Placement]:
        """Yield the place on the selected line: what sound or a movement goes through, or what weighs the line."""
        line = self.graph.between(self.line.source, self.line.target) if self.line else None
        if line and self.declared.ways:
            words = say("offer.between", source=self.name(line.source), target=self.name(line.target))
            yield Placement(words, (InsertModule(module=self.module, lines=(Ends.of(line),)),))
        elif line and self.weighs:
            yield self.weighing(line)

    @property
    def weighs(self) -> bool:
        """Whether it can weigh a line: it steers, and its numbers are no pitch and no gate."""
        main = self.declared.main
        return self.declared.usually == "steers" and main is not None and main.kind == "control"

    def weighing(self, line: Connection) -> Placement:
        """Return the placement that lets the module say how strong a line is."""
        weighed = ChangeLine(line=Ends.of(line), scaled_by=self.main())
        return Placement(say("offer.weighs", how=how_strongly(self.graph, line)), (*self.put(*self.keyed()), weighed))

    def name(self, port: Port) -> Name:
        """Return the name of the module that a port belongs to."""
        return Name(self.graph.module(port).title)

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
                yield Placement(say("offer.beside", module=Name(selected.title)), self.put(*beside, *self.keyed()))
        if selected and selected.declaration.passes:
            into = Connection(source=self.main(), target=self.graph.free_way(selected.id))
            yield Placement(say("offer.into", target=Name(selected.title)), self.put(into, *self.keyed()))
        first = self.first_of_path()
        if first:
            yield Placement(say("offer.into", target=self.name(first[0].target)), self.put(*first, *self.keyed()))
        if selected and selected.declaration.pitched:
            yield self.as_modulator(selected)

    def as_modulator(self, carrier: Module) -> Placement:
        """Return the placement of a source that moves another one at its own speed, and is not heard itself."""
        phase = carrier.declaration.named("phase")
        target = Port.of(carrier.id, phase) if phase else pitch_of(carrier)
        depth = usual_depth(self.declared, self.declared.output(self.main().name), self.graph.input(target))
        line = Connection(source=self.main(), target=target, depth=depth)
        return Placement(say("offer.moves-as-in-fm", module=Name(carrier.title)), self.put(line, *self.keyed()))

    def copy_of(self, line: Connection) -> Connection:
        """Return a line like one from another source: into the next free channel of a mixer, else into the same."""
        return Connection(source=self.main(line.target), target=self.graph.beside(line.target), depth=line.depth)

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
        ways = (*self.behind(), *self.before())
        if any(port.ear for port in self.declared.outputs):
            # what makes two sides of one keeps them only where both ears are fed
            ways = tuple(sorted(ways, key=lambda way: way.loses_a_side))
        yield from ways

    def behind(self) -> Iterator[Placement]:
        """Yield the places behind the selected module: on its own lines alone."""
        if self.selected is None or self.selected.type == OUTPUT:
            return
        chosen = self.selected
        lines = self.graph.leaving(chosen.id)
        going = self.graph.sound_from(chosen.id) if chosen.declaration.sounds else self.lines_through(lines)
        if going:
            yield self.insertion(say("offer.behind", module=Name(chosen.title)), going)
        elif chosen.declaration.sounds or self.graph.output_at(self.graph.main(chosen.id)).kind == "control":
            yield self.at_the_end(chosen)

    def at_the_end(self, chosen: Module) -> Placement:
        """Return the place behind a module that feeds nothing yet; the new one is heard if nothing else is."""
        into = Connection(source=self.graph.main(chosen.id), target=self.input(self.declared.ways[0].name))
        heard = () if self.graph.output is None or self.graph.sound_into(self.graph.output.id) else self.to_output()
        return Placement(
            say("offer.behind", module=Name(chosen.title)), self.put(into, *(heard if self.declared.sounds else ()))
        )

    def lines_through(self, lines: Sequence[Connection]) -> list[Connection]:
        """Return those lines that bring a movement, rather than a pitch or a gate."""
        return [line for line in lines if self.graph.output_at(line.source).kind == "control"]

    def before(self) -> Iterator[Placement]:
        """Yield the places before the selected module and before the output: each line alone, then all of them."""
        for module in (self.selected, self.graph.output):
            coming = self.graph.sound_into(module.id) if module else []
            if module is None:
                continue
            yield from self.before_all(module, coming)
            if not coming and module == self.graph.output:
                yield Placement(say("offer.before", module=Name(module.title)), self.put(*self.to_output()))

    def before_all(self, module: Module, coming: Sequence[Connection]) -> Iterator[Placement]:
        """Yield the places before a module; one that has channels takes in all that comes at once."""
        by_source: dict[str, list[Connection]] = {}
        for line in coming:
            by_source.setdefault(line.source.module, []).append(line)
        together = self.insertion(say("offer.before", module=Name(module.title)), coming) if coming else None
        if together and (len(by_source) == 1 or self.declared.shut_by == "channel"):
            yield together
            return
        single = [
            self.insertion(say("offer.between", source=self.name(lines[0].source), target=Name(module.title)), lines)
            for lines in by_source.values()
        ]
        # where what comes in adds up already, one module can take it all
        every = (
            [Placement(say("offer.before-on-all-that", module=Name(module.title)), together.edits)] if together else []
        )
        every = every if len(paths_of(coming)) == 1 else []
        yield from (*single, *every) if module == self.selected else (*every, *single)

    def insertion(self, said: Message, lines: Sequence[Connection]) -> Placement:
        """Return the placement that puts the module into some lines, once for each path that they are."""
        copies, edits = inserted(self.graph, self.module, lines)
        lost = len(copies) == 1 and self.loses_a_side(lines)
        if len(copies) > 1:
            each = "side" if are_two_sides(self.graph, lines) else "path"
            said = say(f"offer.each.{each}", place=said)
        return Placement(say("offer.side-only", place=said, side=self.main().name) if lost else said, edits, lost)

    def loses_a_side(self, lines: Sequence[Connection]) -> bool:
        """Tell whether the module makes two sides, of which only one goes on."""
        used = {self.declared.towards(self.graph.input(line.target).ear) for line in lines}
        return any(port.ear for port in self.declared.outputs) and len(used) < 2

    def on_pitch(self) -> Iterator[Placement]:
        """A glide and the like go between the player's pitch and what follows it."""
        following = [
            line
            for line in (self.graph.leaving(self.graph.player.id) if self.graph.player else ())
            if line.source.name == "pitch" and line.target.name == "pitch"
        ]
        mine = [line for line in following if self.selected and line.target.module == self.selected.id]
        if mine and len(mine) < len(following):
            yield self.on_all(say("offer.on-the-pitch-of", target=self.name(mine[0].target)), mine)
        if following:
            yield self.on_all(say("offer.on-every-pitch"), following)
        yield from self.as_steering()

    def on_all(self, said: Message, lines: Sequence[Connection]) -> Placement:
        """Return the placement of one module on several lines from one source."""
        return Placement(said, (InsertModule(module=self.module, lines=tuple(Ends.of(line) for line in lines)),))

    def as_steering(self) -> Iterator[Placement]:
        """What steers goes to the inputs of the selected module, or to where most would want it.

        What a movement goes through stands behind the selected one. What moves another module is weighed first.
        """
        chosen = self.selected
        if chosen and self.declared.ways and not chosen.declaration.sounds and chosen != self.graph.player:
            yield from self.behind()
        if chosen:
            yield from (self.weighing(line) for line in self.moving_lines(chosen) if self.weighs)
            targets = self.steerable(chosen)
            rare = [
                target for target in targets if self.graph.input(target).rare and target.name not in self.declared.often
            ]
            yield from (self.steering(target) for target in targets if target not in rare)
            yield from (self.weighing(line) for line in self.moved_lines(chosen) if self.weighs)
        for target in self.unsteered():
            yield self.steering(target)
        if chosen:
            yield from (self.steering(target) for target in rare)
        if any(port.part == "pitch" for port in self.declared.inputs) and self.graph.player:
            yield Placement(say("offer.follows-the-keys-feeds"), self.put(*self.keyed()))

    def moving_lines(self, chosen: Module) -> list[Connection]:
        """Return the lines by which the selected module moves another one, or sound moves it: as in FM."""
        mine = [line for line in self.graph.leaving(chosen.id) if self.is_free(line) and self.is_moving(line)]
        return mine + [line for line in self.graph.into(chosen.id) if self.is_free(line) and self.is_sound(line)]

    def moved_lines(self, chosen: Module) -> list[Connection]:
        """Return the lines by which what steers moves the selected module."""
        known = self.moving_lines(chosen)
        return [
            line
            for line in self.graph.into(chosen.id)
            if self.is_free(line) and self.is_moving(line) and line not in known
        ]

    def is_free(self, line: Connection) -> bool:
        """Tell whether nothing weighs a line yet, and no gate or key alone comes by it."""
        return line.scaled_by is None and self.graph.output_at(line.source).kind in ("audio", "control")

    def is_moving(self, line: Connection) -> bool:
        """Tell whether a line moves something, rather than going through it; one that opens a sound is no movement."""
        port = self.graph.input(line.target)
        return not port.goes_through and line.target.name != self.graph.declared(line.target.module).opens

    def is_sound(self, line: Connection) -> bool:
        """Tell whether it is sound that moves something by a line."""
        return self.is_moving(line) and self.graph.output_at(line.source).kind == "audio"

    def steerable(self, module: Module) -> list[Port]:
        """Return a module's inputs that can be steered, the usual and the free ones first, the rare ones last.

        What does nothing as the module is set, as the width of a sine, is none of them.
        """
        order = {name: place for place, name in enumerate(self.declared.often)}
        steered = [port for port in module.declaration.inputs if port.ruler and port.kind in ("control", "pitch")]
        working = [port for port in steered if module.declaration.works(port, module.all_settings)]
        targets = [Port.of(module.id, port.name) for port in sorted(working, key=lambda port: port.rare)]
        return sorted(targets, key=lambda one: (order.get(one.name, 99), bool(self.graph.coming(one))))[:6]

    def unsteered(self) -> list[Port]:
        """Return the inputs in the patch that most often want such a module and are not steered yet."""
        order = self.declared.often
        found = [
            port
            for port, declared in self.graph.inputs()
            if declared.name in order
            and declared.ruler
            and not self.is_steered(port)
            and self.graph.declared(port.module).works(declared, self.graph.module(port).all_settings)
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
        words = say("offer.steers-the", input=self.graph.input(target).words, target=self.name(target))
        line = Connection(source=self.main(), target=target, depth=depth)
        switches = [one for one in self.graph.coming(target) if self.graph.output_at(one.source).kind == "gate"]
        if "gate" in self.declared.inputs_by_name and switches:
            gone = [Disconnect(line=Ends.of(one)) for one in switches]
            return Placement(say("offer.instead-of-the-gate", place=words), (*self.put(line, *self.keyed()), *gone))
        return Placement(words, self.put(line, *self.keyed()))

    def drives_gates(self) -> Iterator[Placement]:
        """A clock drives whatever waits for a gate: the selected module, or all that nothing drives yet."""
        for port, declared in self.graph.inputs():
            waits = declared.kind == "gate" and not declared.anew and not self.graph.coming(port)
            if waits and (self.selected is None or self.selected.id == port.module):
                line = Connection(source=self.main(), target=port)
                yield Placement(say("offer.drives-the-of", port=port.name, module=self.name(port)), self.put(line))

    def plays(self) -> Iterator[Placement]:
        """Steps play what has a pitch and what has a gate, driven by a clock that they bring along if there is none.

        The gate of the keys gives way to theirs, since one would hold open what the other is to open; a pitch adds to
        that of the keys, which transpose the steps.
        """
        clock = self.graph.first_of(DRIVER)
        driver = clock or new_module(self.graph, CATALOGUE[DRIVER])
        lines = [Connection(source=driver.main, target=self.input(self.declared.named("advance")))]
        for port, _ in self.graph.inputs():
            source = {"pitch": self.declared.outputs[0].name, "gate": "gate"}.get(port.name)
            if source and (self.selected is None or self.selected.id == port.module):
                lines.append(Connection(source=self.input(source), target=port))
        words = (
            say("offer.plays", module=Name(self.selected.title))
            if self.selected and len(lines) > 1
            else say("offer.plays-all-that-can")
        )
        gates = [line.target for line in lines[1:] if line.source.name == "gate"]
        given = [line for port in gates for line in self.graph.coming(port) if self.is_key(line)]
        words = say("offer.instead-of-the-keys", place=words) if given else words
        if len(lines) > 1:
            gone = [Disconnect(line=Ends.of(line)) for line in given]
            yield Placement(words, (*(() if clock else (AddModule(module=driver),)), *self.put(*lines), *gone))

    def is_key(self, line: Connection) -> bool:
        """Tell whether a connection brings the gate of the keys."""
        return self.graph.player is not None and line.source == Port.of(self.graph.player.id, "gate")

    def as_player(self) -> Iterator[Placement]:
        """A player is followed by every source, and opens every envelope, that nobody plays yet."""
        lines = [
            Connection(source=self.input(port.name), target=port)
            for port, _ in self.graph.inputs()
            if port.name in ("pitch", "gate") and not self.graph.coming(port)
        ]
        if lines:
            yield Placement(say("offer.plays-all-that-can"), self.put(*lines))

    def as_output(self) -> Iterator[Placement]:
        """An output takes in the end of the sound path: what sounds and feeds nothing."""
        ends = self.graph.loose_ends()
        if ends:
            words = say("offer.be-heard", modules=Listed([Name(module.title) for module in ends]))
            yield Placement(words, self.put(*feeding(ends, self.module.id)))


USUALLY: dict[UsualPlace, Callable[[Placing], Iterator[Placement]]] = {
    "beside": Placing.as_source,
    "path": Placing.on_path,
    "pitch": Placing.on_pitch,
    "gates": Placing.drives_gates,
    "plays": Placing.plays,
    "steers": Placing.as_steering,
    "player": Placing.as_player,
    "output": Placing.as_output,
}
