"""What is kept out of what is heard though the rest sounds: by a channel, a level, a scale, a gate."""

from collections.abc import Iterator
from dataclasses import replace

from inner_tone.core.checkup.finding import Finding
from inner_tone.core.checkup.scene import Scene
from inner_tone.core.checkup.silence import Walk
from inner_tone.core.message import say
from inner_tone.core.patch.model import Module

WHY = say("check.the-step-would-sound")


def unheard(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each place at which something that moves or sounds is lost."""
    walk = Walk(scene)
    for module in scene.patch.modules:
        if module.id in scene.heard or module == scene.output:
            for one in losses(scene, walk, module):
                yield replace(one, code="unheard", why=WHY)


def losses(scene: Scene, walk: Walk, module: Module) -> Iterator[Finding]:
    """Yield where what comes into a module is lost, or that it gives nothing itself."""
    coming = [line for line in scene.graph.into(module.id) if scene.moves(line.source)]
    dead = [(line, found) for line in coming if (found := walk.dead_line(module, line))]
    yield from (found for _, found in dead)
    # without a note nothing that waits for one can be heard, and that is no fault of the patch
    if module.id not in scene.sounding_path or module == scene.output or not scene.phrase.notes:
        return
    lost = [line for line, _ in dead]
    live = [line for line in scene.sound_into(module) if scene.sounds(line.source) and line not in lost]
    if module.declaration.shut_by == "channel":
        yield from (found for line in live if (found := walk.shut_channel(module, line)))
    elif not scene.sounds(scene.main(module)):
        if live:
            yield walk.blocked(module, live)
        elif "source" in module.declaration.traits and not scene.sound_into(module):
            yield walk.unfed(module)
