"""What a lens looks at: the taps of a patch that has played a phrase, or a recording; and what stands behind it.

Whatever it is, a lens asks it for the sound of a tap, for what people call it and for the kind of its signal: so a
recording can stand behind a render, or be looked at by itself.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.modules.declaration import Kind
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port


@dataclass(frozen=True)
class Played:
    """A patch that has played a phrase, and the sounds of some of its taps, by port."""

    graph: Graph
    sounds: Mapping[str, Sound] = field(default_factory=dict)

    def sound(self, tap: str) -> Sound | None:
        """Return the sound of a tap, if it is there."""
        return self.sounds.get(tap)

    def module(self, tap: str) -> Module | None:
        """Return the module whose port a tap is; nothing where it is none."""
        return self.graph.modules.get(Port(tap).module)

    def kind(self, tap: str) -> Kind:
        """Return the kind of signal at a tap."""
        port = Port(tap)
        declared = self.graph.declared(port.module)
        output = declared.outputs_by_name.get(port.name)
        return output.kind if output else declared.input(port.name).kind

    def words(self, tap: str) -> str:
        """Return how people call a tap: the module, and the port where it is not the main one."""
        port = Port(tap)
        title = self.graph.module(port).title
        return title if port.name == "out" else f"{title}: {port.name}"

    @property
    def gate(self) -> Sound | None:
        """The signal that tells when a key is down, if it is there."""
        player = self.graph.player
        return self.sounds.get(Port.of(player.id, "gate")) if player else None


@dataclass(frozen=True)
class Recorded:
    """A recording under its name: one sound, whatever the tap is called."""

    name: str
    recording: Sound
    gate: Sound | None = None

    def sound(self, tap: str) -> Sound | None:
        """Return the sound."""
        return self.recording

    def module(self, tap: str) -> Module | None:
        """Return nothing: no module is known to have made it."""
        return None

    def kind(self, tap: str) -> Kind:
        """Return what it is: sound."""
        return "audio"

    def words(self, tap: str) -> str:
        """Return its name."""
        return self.name


Source = Played | Recorded


def heard(source: Source, tap: str) -> Sound:
    """Return the sound of a tap that must be there; raises KeyError."""
    found = source.sound(tap)
    if found is None:
        raise KeyError(tap)
    return found


@dataclass(frozen=True)
class Against:
    """What a source is compared with: another one, or another tap of its own in the place of the first."""

    legend: str
    source: Source
    tap: str | None = None

    def sound(self, tap: str, first: str) -> Sound | None:
        """Return what stands behind a tap, if there is such a tap; a recording stands behind the first one alone."""
        if isinstance(self.source, Recorded) and tap != first:
            return None
        return self.source.sound(self.tap if self.tap is not None and tap == first else tap)
