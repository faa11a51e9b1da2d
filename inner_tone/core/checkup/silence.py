"""No sound: walks back from the output to the first place where the signal is lost."""

from collections.abc import Callable, Iterator
from dataclasses import replace

from inner_tone.core.checkup.envelopes import is_envelope
from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.remedies import moved_by_hand, with_output
from inner_tone.core.checkup.scene import SILENT, Scene
from inner_tone.core.checkup.stepping import stands_still
from inner_tone.core.message import Argument, Listed, Message, Name, Number, Quantity, say
from inner_tone.core.modules.declaration import Shut, Value
from inner_tone.core.patch.graph import feeding
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import ChangeLine, Connect, Ends, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.units import trimmed

WHY = say("check.nothing-can-be-heard")
OPEN_HZ = 1000.0


def silence(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that says where the sound is lost, if there is none."""
    if scene.output is None:
        yield lost(
            "",
            "",
            say("check.there-is-no-output"),
            say("check.no-output"),
            Remedy(say("check.add-an-output"), with_output(scene.graph)),
        )
    elif max(scene.peak(Port.of(scene.output.id, port.name)) for port in scene.output.declaration.outputs) < SILENT:
        yield Walk(scene).lost_at(scene.output)


def lost(module: str, port: str, message: Message, measured: Message, remedy: Remedy) -> Finding:
    """Return the finding that sound is lost at a place."""
    return Finding("no-sound", module, port, message, measured, WHY, remedy)


def reach(scene: Scene) -> tuple[str, ...]:
    """Return the modules on the way to the output that do give sound: how far the signal gets."""
    return tuple(
        module.id
        for module in scene.patch.modules
        if module.id in scene.sounding_path and scene.sounds(scene.main(module))
    )


def silences(scene: Scene) -> dict[str, Message]:
    """Return why each module gives no sound that should, in as few words as a card has room for."""
    found = {}
    for module in scene.patch.modules:
        main = module.declaration.main
        if main is not None and main.kind == "audio" and scene.peak(scene.main(module)) < SILENT:
            found[module.id] = why_silent(scene, module)
    return found


def why_silent(scene: Scene, module: Module) -> Message:
    """Return why a module is silent: nothing comes in, its level is 0, or it lets nothing through."""
    if any(scene.peak(line.target) >= SILENT for line in scene.sound_into(module)):
        return say("check.level-at") if is_shut(scene, module) else say("check.nothing-comes-out")
    return say("check.gives-nothing") if "source" in module.declaration.traits else say("check.nothing-comes-in")


def is_shut(scene: Scene, module: Module) -> bool:
    """Tell whether the level of a module has stayed at 0."""
    declared = module.declaration
    if declared.shut_by != "level":
        return False
    level = scene.measure_of(module, declared.opens)
    return level.peak < SILENT if level else module.number(declared.opens) < SILENT


class Walk:
    """The way back from the output."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self.seen: set[str] = set()

    def lost_at(self, module: Module) -> Finding:
        """Return the finding for a module that gives no sound."""
        self.seen.add(module.id)
        lines = self.scene.sound_into(module)
        if not lines:
            return self.unheard(module) if module == self.scene.output else self.unfed(module)
        live = [line for line in lines if self.scene.sounds(line.source)]
        for line in live:
            dead = self.dead_line(module, line)
            if dead:
                return dead
        if live:
            return self.blocked(module, live)
        before = [self.scene.graph.module(line.source) for line in lines]
        unseen = [one for one in before if one.id not in self.seen]
        if unseen:
            return self.lost_at(min(unseen, key=lambda one: not self.is_fed(one)))
        message = say("check.is-in-a-loop", module=Name(module.title))
        return lost(module.id, "", message, say("check.nothing-in-nothing-out"), Remedy(say("check.let-a-source-into")))

    def is_fed(self, module: Module) -> bool:
        """Tell whether live sound comes into a module, or it makes its own."""
        return any(self.scene.sounds(line.source) for line in self.scene.sound_into(module))

    def unheard(self, output: Module) -> Finding:
        """Return the finding for an output that nothing is connected to."""
        ends = self.scene.graph.loose_ends()
        edits = tuple(Connect(line=line) for line in feeding(ends, output.id))
        if ends:
            names = Listed([Name(one.title) for one in ends])
            words = say("check.connect-to", names=names, output=Name(output.title))
        else:
            words = say("check.add-a-source-of")
        message = say("check.nothing-is-connected-to", output=Name(output.title))
        return lost(output.id, self.scene.graph.ears[0].name, message, say("check.no-connection"), Remedy(words, edits))

    def dead_line(self, module: Module, line: Connection) -> Finding | None:
        """Return the finding for a line that brings nothing though its source sounds."""
        port = line.target.name
        source = self.scene.title(line.source)
        ends = Ends.of(line)
        if abs(line.depth) < SILENT:
            remedy = Remedy(say("check.set-the-depth-to-1"), (ChangeLine(line=ends, depth=1.0),))
            message = say(
                "check.line-without-depth", source=source, module=Name(module.title), depth=Number(line.depth)
            )
            return lost(module.id, port, message, say("check.depth", depth=Number(line.depth)), remedy)
        if line.scaled_by and self.scene.peak(line.scaled_by) < SILENT:
            scale = self.scene.port_title(line.scaled_by)
            unscaled = (ChangeLine(line=ends, scaled_by="nothing"),)
            message = say("check.line-scaled-to-nothing", source=source, module=Name(module.title), scale=scale)
            return lost(
                module.id,
                port,
                message,
                say("check.at", scale=scale),
                moved_by_hand(self.scene, line.scaled_by, unscaled),
            )
        return None

    def unfed(self, module: Module) -> Finding:
        """Return the finding for a module that gives no sound though nothing would have to come in."""
        if module.declaration.ways and "source" not in module.declaration.traits:
            message = say("check.nothing-comes-into", module=Name(module.title))
            way = module.declaration.ways[0].name
            return lost(module.id, way, message, say("check.no-connection"), Remedy(say("check.connect-a-source-of")))
        gate = Port.of(module.id, "gate")
        if gate.name in module.declaration.inputs_by_name and not self.scene.moves(gate):
            return self.ungated(module)
        empty = [name for name in module.declaration.rows if not any(module.row(name))]
        if empty:
            message = say("check.gives-no-sound-all", module=Name(module.title), empty=empty[0])
            edit = self.setting(module, empty[0], (1.0,))
            return lost(
                module.id,
                empty[0],
                message,
                say("check.peak"),
                Remedy(say("check.raise-the-first-of", empty=empty[0]), (edit,)),
            )
        message = say("check.gives-no-sound", module=Name(module.title))
        return lost(module.id, "", message, say("check.peak"), Remedy(say("check.defaults-or-another-source")))

    def blocked(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a module into which sound comes, and out of which none comes."""
        found: dict[Shut, Callable[[Module, list[Connection]], Finding]] = {
            "level": self.closed_amplifier,
            "channel": self.muted,
            "cutoff": lambda shut, _: self.closed_filter(shut),
            "position": self.turned_away,
            "": self.generic,
        }
        return found[module.declaration.shut_by](module, live)

    def generic(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a module of which no more is known."""
        if module == self.scene.output:
            level = module.number("level")
            remedy = Remedy(say("check.level-to-0-db"), (self.setting(module, "level", 0.0),))
            message = say("check.output-turned-down", module=Name(module.title), level=Quantity(level, "dB"))
            return lost(module.id, "level", message, say("check.level-of", level=Quantity(level, "dB")), remedy)
        message = say("check.sound-comes-into-and", module=Name(module.title))
        return lost(module.id, "", message, self.reading(live), Remedy(say("check.defaults-or-out")))

    def reading(self, live: list[Connection]) -> Message:
        """Return how strong the sound is that comes in."""
        return say("check.something-in-nothing-out", peak=Number(max(self.scene.peak(line.source) for line in live), 2))

    def setting(self, module: Module, name: str, value: Value) -> SetValue:
        """Return the edit that sets a setting."""
        return SetValue(module=module.id, setting=name, value=value)

    def closed_amplifier(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for an amplifier whose level stays at zero."""
        target = Port.of(module.id, module.declaration.opens)
        lines = self.scene.graph.coming(target)
        if not lines:
            driver = self.driver_for(target)
            if driver:
                remedy = Remedy(
                    say("check.let-drive-its-level", source=self.scene.title(driver.source)), (Connect(line=driver),)
                )
            else:
                remedy = Remedy(say("check.level-to-1"), (self.setting(module, "level", 1.0),))
            message = say("check.lets-nothing-through-its", module=Name(module.title))
            return lost(module.id, "level", message, self.reading(live), remedy)
        return self.dead_steering(module, target, lines, live)

    def driver_for(self, target: Port) -> Connection | None:
        """Return a line from what could drive a level: an envelope that is gated, else the player's gate."""
        for module in self.scene.patch.modules:
            if is_envelope(module) and self.scene.sounds(self.scene.main(module)):
                return Connection(source=self.scene.main(module), target=target)
        player = self.scene.player
        return Connection(source=Port.of(player.id, "gate"), target=target) if player else None

    def dead_steering(self, module: Module, target: Port, lines: list[Connection], live: list[Connection]) -> Finding:
        """Return the finding for an input that is steered and stays shut all the same."""
        for line in lines:
            dead = self.dead_line(module, line) if self.scene.sounds(line.source) else None
            if dead:
                return dead
        for line in lines:
            source = self.scene.graph.module(line.source)
            if is_envelope(source) and not self.scene.moves(line.source):
                return self.ungated(source)
        measure = self.scene.measure(target)
        message = say("check.lets-nothing-through-what", module=Name(module.title))
        ends = Ends.of(lines[0])
        remedy = Remedy(say("check.set-the-depth-to-1"), (ChangeLine(line=ends, depth=1.0),))
        greatest = trimmed(measure.greatest, 2) if measure else "0"
        return lost(module.id, target.name, message, say("check.at-most", greatest=greatest), remedy)

    def ungated(self, module: Module) -> Finding:
        """Return the finding for a module that waits for a gate in vain."""
        port = Port.of(module.id, "gate")
        player = self.scene.player
        if not self.scene.graph.coming(port):
            line = Connection(source=Port.of(player.id, "gate"), target=port) if player else None
            name: Argument = Name(player.title) if player else say("check.a-player")
            remedy = Remedy(say("check.connect-the-gate-of", name=name), (Connect(line=line),) if line else ())
            message = say("check.never-begins-nothing-is", module=Name(module.title))
            return lost(module.id, "gate", message, say("check.no-connection"), remedy)
        for line in self.scene.graph.coming(port):
            still = stands_still(self.scene, self.scene.graph.module(line.source))
            if still:
                return replace(still, code="no-sound", why=WHY)
        if not self.scene.phrase.notes:
            message = say("check.never-begins-the-phrase", module=Name(module.title))
            return lost(module.id, "gate", message, say("check.notes"), Remedy(say("check.give-the-phrase-a")))
        message = say("check.never-begins-its-gate", module=Name(module.title))
        return lost(module.id, "gate", message, say("check.gate-at"), Remedy(say("check.connect-a-gate-that")))

    def muted(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a mixer that lets none of its live channels through."""
        found = [shut for line in live if (shut := self.shut_channel(module, line))]
        return found[0] if found else self.generic(module, live)

    def shut_channel(self, module: Module, line: Connection) -> Finding | None:
        """Return the finding that a line comes into a channel of a mixer which lets nothing through."""
        declared, settings, port = module.declaration, module.all_settings, line.target.name
        number = self.scene.graph.input(line.target).channel
        mute, solo, loud = (declared.named(role, number) for role in ("mute", "solo", "level"))
        switches = [one.name for one in declared.choices.values() if one.role == "solo"]
        solos = [name for name in switches if settings[name] == "on"]
        if settings[mute] == "on":
            remedy = Remedy(say("check.unmute-channel", number=number), (self.setting(module, mute, "off"),))
            return lost(
                module.id,
                port,
                say("check.channel-of-is-muted", number=number, module=Name(module.title)),
                say("check.muted"),
                remedy,
            )
        if solos and solo not in solos:
            edits = tuple(self.setting(module, name, "off") for name in solos)
            message = say("check.channel-of-is-not", number=number, module=Name(module.title))
            return lost(
                module.id, port, message, say("check.solo-elsewhere"), Remedy(say("check.switch-its-solo-off"), edits)
            )
        level = Port.of(module.id, loud)
        if self.scene.peak(level) >= SILENT or not self.is_measured(level, module):
            return None
        steering = self.scene.graph.coming(level)
        if steering:
            return self.dead_steering(module, level, steering, [line])
        remedy = Remedy(say("check.set-level-to", number=number), (self.setting(module, level.name, 1.0),))
        message = say("check.channel-of-is-turned", number=number, module=Name(module.title))
        return lost(module.id, level.name, message, say("check.level"), remedy)

    def is_measured(self, port: Port, module: Module) -> bool:
        """Tell whether an input's value is known: it was measured, or is the module's setting."""
        return self.scene.measure(port) is not None or abs(module.number(port.name)) < SILENT

    def closed_filter(self, module: Module) -> Finding:
        """Return the finding for a filter that takes everything away."""
        name = module.declaration.named("cutoff")
        measure = self.scene.measure_of(module, name)
        cutoff = measure.greatest if measure else module.number(name)
        remedy = Remedy(
            say("check.set-its-cutoff-to", cutoff=Quantity(OPEN_HZ, "Hz")), (self.setting(module, name, OPEN_HZ),)
        )
        message = say("check.is-closed-its-cutoff", module=Name(module.title))
        return lost(module.id, name, message, say("check.cutoff-at-most", cutoff=Quantity(cutoff, "Hz")), remedy)

    def turned_away(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a module that is turned to an input with nothing on it."""
        port, name = live[0].target.name, module.declaration.named("position")
        position = self.scene.graph.input(live[0].target).heard_at or 0.0
        remedy = Remedy(say("check.turn-it-to", port=port), (self.setting(module, name, position),))
        message = say("check.is-turned-to-an", module=Name(module.title), port=port)
        return lost(module.id, name, message, self.reading(live), remedy)
