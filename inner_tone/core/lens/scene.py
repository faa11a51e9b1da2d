"""A scene: a patch that has played a phrase, with the sounds of its taps; and another that it is compared with."""

from collections.abc import Mapping
from dataclasses import dataclass

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.modules.declaration import Kind
from inner_tone.core.patch.model import Module, Patch, split_port
from inner_tone.core.patch.ports import of_type


@dataclass(frozen=True)
class Scene:
    """A patch, and the sounds of some of its taps, by port."""

    patch: Patch
    sounds: Mapping[str, Sound]

    def module(self, tap: str) -> Module:
        """Return the module whose port a tap is."""
        return self.patch.by_id[split_port(tap)[0]]

    def kind(self, tap: str) -> Kind:
        """Return the kind of signal at a tap."""
        declaration, port = self.module(tap).declaration, split_port(tap)[1]
        outputs = [one.kind for one in declaration.outputs if one.name == port]
        return outputs[0] if outputs else next(one.kind for one in declaration.inputs if one.name == port)

    def words(self, tap: str) -> str:
        """Return how people call a tap: the module, and the port where it is not the main one."""
        module, port = self.module(tap), split_port(tap)[1]
        return module.title if port == "out" else f"{module.title}: {port}"

    @property
    def gate(self) -> str | None:
        """The tap that tells when a key is down."""
        player = of_type(self.patch, "player")
        return f"{player.id}.gate" if player else None


@dataclass(frozen=True)
class Against:
    """What a scene is compared with: another one, or another tap of its own in the place of the first."""

    legend: str
    scene: Scene
    tap: str | None = None

    def sound(self, tap: str, first: str) -> Sound | None:
        """Return what stands behind a tap, if there is such a tap."""
        return self.scene.sounds.get(self.tap if self.tap is not None and tap == first else tap)
