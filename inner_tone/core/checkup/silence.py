"""No sound: walks back from the output to the first place where the signal is lost."""

from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.scene import SILENT, Scene
from inner_tone.core.modules.declaration import Value
from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.model import Connection, Module, split_port
from inner_tone.core.patch.moves import AddModule, ChangeLine, Connect, Edit, Ends, SetValue
from inner_tone.core.patch.ports import lines_from, main_output, sounds
from inner_tone.core.units import trimmed, with_unit

WHY = "Nothing can be heard of the whole patch, however well the rest of it is built."
OPEN_HZ = 1000.0


def silence(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that says where the sound is lost, if there is none."""
    if scene.output is None:
        module = Module(id=fresh_id(scene.modules, "output"), type="output")
        edits: list[Edit] = [AddModule(module=module)]
        edits += [
            Connect(
                line=Connection(source=f"{one.id}.{main_output(one.declaration, side)}", target=f"{module.id}.{side}")
            )
            for one in loose_ends(scene)
            for side in ("left", "right")
        ]
        yield lost("", "", "There is no output.", "no output", Remedy("Add an output.", tuple(edits)))
    elif max(scene.peak(f"{scene.output.id}.{side}") for side in ("left", "right")) < SILENT:
        yield Walk(scene).lost_at(scene.output)


def lost(module: str, port: str, message: str, measured: str, remedy: Remedy) -> Finding:
    """Return the finding that sound is lost at a place."""
    return Finding("no-sound", module, port, message, measured, WHY, remedy)


def loose_ends(scene: Scene) -> list[Module]:
    """Return the modules that sound and feed nothing."""
    return [
        module
        for module in scene.patch.modules
        if sounds(module.declaration) and module.type != "output" and not lines_from(scene.patch, module.id)
    ]


def reach(scene: Scene) -> tuple[str, ...]:
    """Return the modules on the way to the output that do give sound: how far the signal gets."""
    return tuple(
        module.id
        for module in scene.patch.modules
        if module.id in scene.sounding_path and scene.sounds(scene.main(module))
    )


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
            return (
                self.unfed(module) if module.type != "output" or not module.declaration.inputs else self.unheard(module)
            )
        live = [line for line in lines if self.scene.sounds(line.source)]
        for line in live:
            dead = self.dead_line(module, line)
            if dead:
                return dead
        if live:
            return self.blocked(module, live)
        before = [self.scene.modules[split_port(line.source)[0]] for line in lines]
        unseen = [one for one in before if one.id not in self.seen]
        if unseen:
            return self.lost_at(min(unseen, key=lambda one: not self.is_fed(one)))
        message = f"{module.title} is in a loop that nothing feeds."
        return lost(module.id, "", message, "0 in, 0 out", Remedy("Let a source into the loop."))

    def is_fed(self, module: Module) -> bool:
        """Tell whether live sound comes into a module, or it makes its own."""
        return any(self.scene.sounds(line.source) for line in self.scene.sound_into(module))

    def unheard(self, output: Module) -> Finding:
        """Return the finding for an output that nothing is connected to."""
        ends = loose_ends(self.scene)
        edits = tuple(
            Connect(
                line=Connection(source=f"{one.id}.{main_output(one.declaration, side)}", target=f"{output.id}.{side}")
            )
            for one in ends
            for side in ("left", "right")
        )
        if ends:
            names = " and ".join(one.title for one in ends)
            words = f"Connect {names} to {output.title}."
        else:
            words = "Add a source of sound and connect it."
        message = f"Nothing is connected to {output.title}."
        return lost(output.id, "left", message, "no connection", Remedy(words, edits))

    def dead_line(self, module: Module, line: Connection) -> Finding | None:
        """Return the finding for a line that brings nothing though its source sounds."""
        port = split_port(line.target)[1]
        source = self.scene.title(line.source)
        ends = Ends(source=line.source, target=line.target)
        if abs(line.depth) < SILENT:
            remedy = Remedy("Set the depth to 1.", (ChangeLine(line=ends, depth=1.0),))
            message = f"The connection from {source} to {module.title} has a depth of {trimmed(line.depth)}."
            return lost(module.id, port, message, f"depth {trimmed(line.depth)}", remedy)
        if line.scaled_by and self.scene.peak(line.scaled_by) < SILENT:
            scale = self.scene.title(line.scaled_by)
            remedy = Remedy(
                f"Let {scale} move, or no longer scale by it.", (ChangeLine(line=ends, scaled_by="nothing"),)
            )
            message = f"The connection from {source} to {module.title} is scaled by {scale}, which stays at 0."
            return lost(module.id, port, message, f"{scale} at 0", remedy)
        return None

    def unfed(self, module: Module) -> Finding:
        """Return the finding for a module that gives no sound though nothing would have to come in."""
        if module.declaration.family != "source":
            message = f"Nothing comes into {module.title}."
            return lost(module.id, "in", message, "no connection", Remedy("Connect a source of sound to it."))
        inputs = [port.name for port in module.declaration.inputs]
        if "gate" in inputs and not self.scene.moves(f"{module.id}.gate"):
            return self.ungated(module)
        message = f"{module.title} gives no sound: all its levels are 0."
        return lost(module.id, "", message, "peak 0", Remedy("Raise a level, or set it to its default."))

    def blocked(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a module into which sound comes, and out of which none comes."""
        found = {
            "amplifier": self.closed_amplifier,
            "mixer": self.muted,
            "filter": self.closed_filter,
            "ladder": self.closed_filter,
            "crossfade": self.turned_away,
            "selector": self.turned_away,
        }.get(module.type, self.generic)
        return found(module, live)

    def generic(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a module of which no more is known."""
        if module.type == "output":
            level = self.scene.base(module, "level")
            remedy = Remedy("Set its level to 0 dB.", (self.setting(module, "level", 0.0),))
            message = f"{module.title} is turned down to {with_unit(level, 'dB')}."
            return lost(module.id, "level", message, with_unit(level, "dB"), remedy)
        message = f"Sound comes into {module.title}, and none comes out."
        return lost(module.id, "", message, self.reading(live), Remedy("Set it to its defaults, or take it out."))

    def reading(self, live: list[Connection]) -> str:
        """Return how strong the sound is that comes in."""
        return f"{trimmed(max(self.scene.peak(line.source) for line in live), 2)} in, 0 out"

    def setting(self, module: Module, name: str, value: Value) -> SetValue:
        """Return the edit that sets a setting."""
        return SetValue(module=module.id, setting=name, value=value)

    def closed_amplifier(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for an amplifier whose level stays at zero."""
        target = f"{module.id}.level"
        lines = self.scene.coming.get(target, [])
        if not lines:
            driver = self.driver_for(target)
            if driver:
                remedy = Remedy(f"Let {self.scene.title(driver.source)} drive its level.", (Connect(line=driver),))
            else:
                remedy = Remedy("Set its level to 1.", (self.setting(module, "level", 1.0),))
            message = f"{module.title} lets nothing through: its level is 0, and nothing drives it."
            return lost(module.id, "level", message, self.reading(live), remedy)
        return self.dead_steering(module, target, lines, live)

    def driver_for(self, target: str) -> Connection | None:
        """Return a line from what could drive a level: an envelope that is gated, else the player's gate."""
        for module in self.scene.patch.modules:
            if module.type == "envelope" and self.scene.sounds(f"{module.id}.out"):
                return Connection(source=f"{module.id}.out", target=target)
        return Connection(source=f"{self.scene.player.id}.gate", target=target) if self.scene.player else None

    def dead_steering(self, module: Module, target: str, lines: list[Connection], live: list[Connection]) -> Finding:
        """Return the finding for an input that is steered and stays shut all the same."""
        for line in lines:
            dead = self.dead_line(module, line) if self.scene.sounds(line.source) else None
            if dead:
                return dead
        for line in lines:
            source = self.scene.modules[split_port(line.source)[0]]
            if source.type == "envelope" and not self.scene.moves(line.source):
                return self.ungated(source)
        measure = self.scene.measure(target)
        message = f"{module.title} lets nothing through: what steers its level never lifts it above 0."
        ends = Ends(source=lines[0].source, target=target)
        remedy = Remedy("Set the depth to 1.", (ChangeLine(line=ends, depth=1.0),))
        greatest = trimmed(measure.greatest, 2) if measure else "0"
        return lost(module.id, "level", message, f"at most {greatest}", remedy)

    def ungated(self, module: Module) -> Finding:
        """Return the finding for a module that waits for a gate in vain."""
        port = f"{module.id}.gate"
        player = self.scene.player
        if not self.scene.coming.get(port):
            line = Connection(source=f"{player.id}.gate", target=port) if player else None
            name = player.title if player else "a player"
            remedy = Remedy(f"Connect the gate of {name} to it.", (Connect(line=line),) if line else ())
            message = f"{module.title} never begins: nothing is connected to its gate."
            return lost(module.id, "gate", message, "no connection", remedy)
        if not self.scene.phrase.notes:
            message = f"{module.title} never begins: the phrase has no notes."
            return lost(module.id, "gate", message, "0 notes", Remedy("Give the phrase a note."))
        message = f"{module.title} never begins: its gate never opens."
        return lost(module.id, "gate", message, "gate at 0", Remedy("Connect a gate that opens, or raise its depth."))

    def muted(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a mixer that lets none of its live channels through."""
        settings = self.scene.settings[module.id]
        numbers = [split_port(line.target)[1].removeprefix("in") for line in live]
        solos = [name for name, value in settings.items() if name.startswith("solo") and value == "on"]
        number = numbers[0]
        port = f"in{number}"
        if settings[f"mute{number}"] == "on":
            remedy = Remedy(f"Unmute channel {number}.", (self.setting(module, f"mute{number}", "off"),))
            return lost(module.id, port, f"Channel {number} of {module.title} is muted.", "muted", remedy)
        if solos and f"solo{number}" not in solos:
            edits = tuple(self.setting(module, name, "off") for name in solos)
            message = f"Another channel of {module.title} is set to sound alone."
            return lost(module.id, port, message, "solo elsewhere", Remedy("Switch its solo off.", edits))
        remedy = Remedy(f"Set level {number} to 1.", (self.setting(module, f"level{number}", 1.0),))
        return lost(
            module.id, f"level{number}", f"Channel {number} of {module.title} is turned down to 0.", "level 0", remedy
        )

    def closed_filter(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a filter that takes everything away."""
        measure = self.scene.measure(f"{module.id}.cutoff")
        cutoff = measure.greatest if measure else self.scene.base(module, "cutoff")
        remedy = Remedy(f"Set its cutoff to {with_unit(OPEN_HZ, 'Hz')}.", (self.setting(module, "cutoff", OPEN_HZ),))
        message = f"{module.title} is closed: its cutoff leaves nothing of what comes in."
        return lost(module.id, "cutoff", message, f"cutoff at most {with_unit(cutoff, 'Hz')}", remedy)

    def turned_away(self, module: Module, live: list[Connection]) -> Finding:
        """Return the finding for a module that is turned to an input with nothing on it."""
        port = split_port(live[0].target)[1]
        value = {"a": 0.0, "b": 1.0}.get(port) if module.type == "crossfade" else float(port.removeprefix("in"))
        remedy = Remedy(f"Turn it to {port}.", (self.setting(module, "position", value or 0.0),))
        message = f"{module.title} is turned to an input with no sound; there is sound on {port}."
        return lost(module.id, "position", message, self.reading(live), remedy)
