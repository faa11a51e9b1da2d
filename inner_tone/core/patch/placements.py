"""Placements: where a new module could go, the usual place first, each as edits with a reason in words."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from inner_tone.core.modules import CATALOGUE, MODULE_TYPES
from inner_tone.core.modules.declaration import ModuleType
from inner_tone.core.patch.edit import fresh_id, fresh_title
from inner_tone.core.patch.model import Connection, Module, Patch, split_port
from inner_tone.core.patch.moves import AddModule, Connect, Disconnect, Edit, Ends, InsertModule
from inner_tone.core.patch.offers import usual_depth, wanted_by
from inner_tone.core.patch.ports import (
    carries_sound,
    lines_from,
    main_output,
    of_type,
    output_of,
    sounds,
    sources_of,
    through_inputs,
)

HEADROOM_DB = -12.0  # a new output leaves room for several sources at full level
ONLY_ONE = ("player", "output")
GLIDES = ("slew", "quantise")


@dataclass(frozen=True)
class Placement:
    """One way to put a new module in."""

    words: str
    edits: tuple[Edit, ...]


def placements(patch: Patch, selected: str | None, line: Ends | None = None) -> dict[str, list[Placement]]:
    """Return, for each type of module, where a new one could go, given what is selected on the map."""
    return {
        declared.name: list(Placing(patch, declared, selected, line).all())
        for declared in MODULE_TYPES
        if declared.name not in ONLY_ONE or of_type(patch, declared.name) is None
    }


def new_module(patch: Patch, declared: ModuleType) -> Module:
    """Return a module of a type with a free id, and a name of its own if it is not the first."""
    title = fresh_title([module.title for module in patch.modules], declared.title)
    label = "" if title == declared.title else title
    settings = {"level": HEADROOM_DB} if declared.name == "output" else {}
    return Module(id=fresh_id(patch.by_id, declared.name), type=declared.name, label=label, settings=settings)


def goes_through(module: Module) -> bool:
    """Tell whether sound goes through a module."""
    return sounds(module.declaration) and bool(through_inputs(module.declaration))


class Placing:
    """A new module of one type on its way into a patch."""

    def __init__(self, patch: Patch, declared: ModuleType, selected: str | None, line: Ends | None) -> None:
        self.patch = patch
        self.declared = declared
        self.selected = patch.by_id.get(selected) if selected else None
        self.line = line
        self.module = new_module(patch, declared)
        self.player = of_type(patch, "player")
        self.output = of_type(patch, "output")

    def all(self) -> Iterator[Placement]:
        """Yield the placements, the usual first; the last is always: alone."""
        seen = set()
        for placement in (*self.on_line(), *self.usual()):
            if placement.words not in seen:
                seen.add(placement.words)
                yield placement
        yield Placement("by itself, not connected", (AddModule(module=self.module),))

    def usual(self) -> Iterator[Placement]:
        """Yield what is usual for the module's family."""
        if self.declared.name == "player":
            yield from self.as_player()
        elif self.declared.name == "output":
            yield from self.as_output()
        elif self.declared.name in GLIDES:
            yield from self.on_pitch()
        elif self.declared.name == "clock":
            yield from self.as_clock()
        elif self.declared.name == "steps":
            yield from self.as_steps()
        elif self.declared.family == "source" and sounds(self.declared):
            yield from self.as_source()
        elif sounds(self.declared):
            yield from self.on_path()
        else:
            yield from self.as_steering()

    def on_line(self) -> Iterator[Placement]:
        """Yield the place on the selected line."""
        if self.line and through_inputs(self.declared):
            words = f"between {self.name(self.line.source)} and {self.name(self.line.target)}"
            yield Placement(words, (InsertModule(module=self.module, lines=(self.line,)),))

    def name(self, port: str) -> str:
        """Return the name of the module that a port belongs to."""
        return self.patch.by_id[split_port(port)[0]].title

    def as_source(self) -> Iterator[Placement]:
        """A source sounds beside the selected one, or at the beginning of the path, and follows the keys."""
        selected = self.selected
        if selected and sounds(selected.declaration) and selected.declaration.family == "source":
            targets = [line for line in lines_from(self.patch, selected.id) if carries_sound(self.patch, line)]
            if targets:
                beside = [self.copy_of(line) for line in targets]
                yield Placement(f"beside {selected.title}", self.put(*beside, *self.keyed()))
        if selected and selected.type != "output" and goes_through(selected):
            into = Connection(source=self.main(), target=f"{selected.id}.{self.free_way(selected)}")
            yield Placement(f"into {selected.title}", self.put(into, *self.keyed()))
        first = self.first_of_path()
        if first:
            yield Placement(f"into {self.name(first[0].target)}", self.put(*first, *self.keyed()))

    def copy_of(self, line: Connection) -> Connection:
        """Return a line like one from another source: into the next free channel of a mixer, else into the same."""
        target = self.patch.by_id[split_port(line.target)[0]]
        way = line.target if target.type != "mixer" else f"{target.id}.{self.free_way(target)}"
        return Connection(source=self.main(line.target), target=way, depth=line.depth)

    def free_way(self, module: Module) -> str:
        """Return the way into a module that is free, or its first."""
        ways = through_inputs(module.declaration)
        free = [way for way in ways if not sources_of(self.patch, f"{module.id}.{way}")]
        return free[0] if free and module.type in ("mixer", "selector", "crossfade") else ways[0]

    def first_of_path(self) -> list[Connection]:
        """Return lines to where the sound path begins: what the first source feeds, else the output."""
        for module in self.patch.modules:
            if module.declaration.family == "source" and sounds(module.declaration):
                lines = [
                    self.copy_of(one) for one in lines_from(self.patch, module.id) if carries_sound(self.patch, one)
                ]
                if lines:
                    return lines
        return self.to_output()

    def to_output(self) -> list[Connection]:
        """Return the lines to both ears."""
        if self.output is None:
            return []
        return [
            Connection(source=self.main(target), target=target)
            for target in (f"{self.output.id}.left", f"{self.output.id}.right")
        ]

    def main(self, towards: str = "") -> str:
        """Return the output that stands for the new module."""
        return f"{self.module.id}.{main_output(self.declared, towards)}"

    def keyed(self) -> Iterator[Connection]:
        """Yield the lines from the player that the module needs to be played: its pitch and its gate."""
        inputs = {port.name for port in self.declared.inputs}
        for name in ("pitch", "gate"):
            if self.player and name in inputs:
                yield Connection(source=f"{self.player.id}.{name}", target=f"{self.module.id}.{name}")

    def put(self, *lines: Connection) -> tuple[Edit, ...]:
        """Return the edits that put the module in with some lines."""
        return (AddModule(module=self.module), *(Connect(line=line) for line in lines))

    def on_path(self) -> Iterator[Placement]:
        """What changes sound goes behind the selected module, before it, or before the output."""
        selected = self.selected
        if selected and selected.type != "output" and sounds(selected.declaration):
            going = [line for line in lines_from(self.patch, selected.id) if carries_sound(self.patch, line)]
            behind = self.patch.by_id[split_port(going[0].target)[0]] if going else None
            if behind and any(split_port(line.source)[0] != selected.id for line in self.coming(behind)):
                # what sounds beside it goes the same way
                yield Placement(f"before {behind.title}", (self.insertion(self.coming(behind)),))
            if going:
                yield Placement(f"behind {selected.title}", (self.insertion(going),))
            else:
                into = Connection(
                    source=f"{selected.id}.{main_output(selected.declaration)}",
                    target=f"{self.module.id}.{through_inputs(self.declared)[0]}",
                )
                yield Placement(f"behind {selected.title}", self.put(into))
        if selected and through_inputs(selected.declaration):
            coming = self.coming(selected)
            if coming:
                yield Placement(f"before {selected.title}", (self.insertion(coming),))
        if self.output:
            coming = self.coming(self.output)
            if coming:
                yield Placement(f"before {self.output.title}", (self.insertion(coming),))
            else:
                yield Placement(f"before {self.output.title}", self.put(*self.to_output()))

    def coming(self, module: Module) -> list[Connection]:
        """Return the sound that enters a module."""
        return [
            line
            for line in self.patch.connections
            if split_port(line.target)[0] == module.id and carries_sound(self.patch, line)
        ]

    def insertion(self, lines: Sequence[Connection]) -> InsertModule:
        """Return the edit that puts the module into some lines."""
        return InsertModule(
            module=self.module, lines=tuple(Ends(source=line.source, target=line.target) for line in lines)
        )

    def on_pitch(self) -> Iterator[Placement]:
        """A glide and the like go between the player's pitch and what follows it."""
        following = [
            line
            for line in self.patch.connections
            if self.player and line.source == f"{self.player.id}.pitch" and split_port(line.target)[1] == "pitch"
        ]
        mine = [line for line in following if self.selected and split_port(line.target)[0] == self.selected.id]
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

    def steerable(self, module: Module) -> list[str]:
        """Return a module's inputs that can be steered, the usual and the free ones first."""
        ports = [port.name for port in module.declaration.inputs if port.ruler and port.kind in ("control", "pitch")]
        order = {name: place for place, name in enumerate(self.wanted())}
        targets = [f"{module.id}.{name}" for name in ports]
        free = [bool(sources_of(self.patch, target)) for target in targets]
        ranked = sorted(zip(targets, free, strict=True), key=lambda one: (order.get(split_port(one[0])[1], 99), one[1]))
        return [target for target, _ in ranked][:6]

    def wanted(self) -> tuple[str, ...]:
        """Return the inputs that this type steers most often."""
        return wanted_by(self.declared.name)

    def unsteered(self) -> list[str]:
        """Return the inputs in the patch that most often want such a module and are not steered yet."""
        found = [
            f"{module.id}.{port.name}"
            for module in self.patch.modules
            for port in module.declaration.inputs
            if port.name in self.wanted() and port.ruler and not self.is_steered(module, port.name)
        ]
        order = self.wanted()
        return sorted(found, key=lambda target: order.index(split_port(target)[1]))[:4]

    def is_steered(self, module: Module, name: str) -> bool:
        """Tell whether something steers an input already; that a pitch follows the keys does not count."""
        lines = sources_of(self.patch, f"{module.id}.{name}")
        return any(not (self.player and line.source == f"{self.player.id}.pitch") for line in lines)

    def steering(self, target: str) -> Placement:
        """Return the placement that steers an input. An envelope takes the place of a gate that was its switch."""
        trial = self.patch.model_copy(update={"modules": (*self.patch.modules, self.module)})
        depth = usual_depth(trial, self.main(), target)
        words = f"steers the {split_port(target)[1]} of {self.name(target)}"
        line = Connection(source=self.main(), target=target, depth=depth)
        switches = [one for one in sources_of(self.patch, target) if output_of(self.patch, one.source).kind == "gate"]
        if self.declared.name == "envelope" and switches:
            gone = [Disconnect(line=Ends(source=one.source, target=one.target)) for one in switches]
            return Placement(f"{words}, instead of the gate", (*self.put(line, *self.keyed()), *gone))
        return Placement(words, self.put(line, *self.keyed()))

    def as_clock(self) -> Iterator[Placement]:
        """A clock drives whatever waits for a gate: the selected module, or all that nothing drives yet."""
        for module in self.patch.modules:
            for port in module.declaration.inputs:
                target = f"{module.id}.{port.name}"
                free = port.kind == "gate" and port.name != "reset" and not sources_of(self.patch, target)
                if free and (self.selected is None or self.selected.id == module.id):
                    line = Connection(source=self.main(), target=target)
                    yield Placement(f"drives the {port.name} of {module.title}", self.put(line))

    def as_steps(self) -> Iterator[Placement]:
        """Steps play what has a pitch and what has a gate, driven by a clock that they bring along if there is none."""
        clock = of_type(self.patch, "clock")
        driver = clock or new_module(self.patch, CATALOGUE["clock"])
        lines = [Connection(source=f"{driver.id}.out", target=f"{self.module.id}.clock")]
        for module in self.patch.modules:
            for name, source in (("pitch", "row1"), ("gate", "gate")):
                wanted = name in [port.name for port in module.declaration.inputs]
                if wanted and (self.selected is None or self.selected.id == module.id):
                    lines.append(Connection(source=f"{self.module.id}.{source}", target=f"{module.id}.{name}"))
        words = f"plays {self.selected.title}" if self.selected and len(lines) > 1 else "plays all that can be played"
        if len(lines) > 1:
            yield Placement(words, (*(() if clock else (AddModule(module=driver),)), *self.put(*lines)))

    def as_player(self) -> Iterator[Placement]:
        """A player is followed by every source, and opens every envelope, that nobody plays yet."""
        lines = [
            Connection(source=f"{self.module.id}.{port.name}", target=f"{module.id}.{port.name}")
            for module in self.patch.modules
            for port in module.declaration.inputs
            if port.name in ("pitch", "gate") and not sources_of(self.patch, f"{module.id}.{port.name}")
        ]
        if lines:
            yield Placement("plays all that can be played", self.put(*lines))

    def as_output(self) -> Iterator[Placement]:
        """An output takes in the end of the sound path: what sounds and feeds nothing."""
        ends = [
            module
            for module in self.patch.modules
            if sounds(module.declaration) and not lines_from(self.patch, module.id)
        ]
        lines = [
            Connection(source=f"{module.id}.{main_output(module.declaration, side)}", target=f"{self.module.id}.{side}")
            for module in ends
            for side in ("left", "right")
        ]
        if lines:
            yield Placement("lets " + " and ".join(module.title for module in ends) + " be heard", self.put(*lines))
