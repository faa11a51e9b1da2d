"""Sides: a path of two sides that has become one."""

from collections.abc import Iterator

import numpy as np

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.scene import SILENT, Scene
from inner_tone.core.engine.render import Measure
from inner_tone.core.message import Name, say
from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import AddModule, Connect, Disconnect, Edit, Ends, MoveEnd
from inner_tone.core.patch.port import Port

DIFFERENT = 0.02  # of the level, from which on two sides are heard as two


def one_sided(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that both ears hear the same, although a module on the way makes two different sides."""
    render = scene.render
    if scene.output is None or not np.allclose(render.left, render.right, atol=SILENT):
        return
    for module in scene.on_path(lambda declared: any(port.ear for port in declared.outputs)):
        if module == scene.output:
            continue
        lines = [line for line in scene.graph.sound_from(module.id) if scene.graph.output_at(line.source).ear]
        sides = {scene.graph.output_at(port).ear: port for port in outputs_of(module)}
        left, right = (scene.measure(sides[ear]) if ear in sides else None for ear in ("left", "right"))
        if lines and left and right and differ(left, right):
            yield merged(scene, module, lines)


def outputs_of(module: Module) -> list[Port]:
    return [Port.of(module.id, port.name) for port in module.declaration.outputs]


def differ(left: Measure, right: Measure) -> bool:
    """Tell whether two sides are heard as two: they move differently, or one is stronger."""
    level = max(left.rms, right.rms)
    if level < SILENT:
        return False
    apart = np.abs(np.asarray(left.highs) - right.highs).max() if len(left.highs) == len(right.highs) else 0.0
    return max(abs(left.rms - right.rms), float(apart)) > DIFFERENT * level


def merged(scene: Scene, module: Module, lines: list[Connection]) -> Finding:
    """Return the finding that what leaves a module on two sides goes on as one."""
    used = {scene.graph.output_at(line.source).ear for line in lines}
    behind = scene.graph.module(lines[0].target)
    how = (
        say("check.only-its-side-is", side=used.pop())
        if len(used) == 1
        else say("check.takes-in-both-as", behind=Name(behind.title))
    )
    return Finding(
        "one-sided",
        module.id,
        lines[0].source.name,
        say("check.has-two-sides-and", module=Name(module.title), how=how),
        say("check.left-and-right-alike"),
        say("check.what-was-spread-to"),
        second_side(scene, behind, lines),
    )


def second_side(scene: Scene, behind: Module, lines: list[Connection]) -> Remedy:
    """Return what gives the right side a way of its own: a second module like the one that took in both."""
    graph = scene.graph
    right = [line for line in lines if graph.output_at(line.source).ear == "right"]
    going = [line for line in graph.sound_from(behind.id) if graph.input(line.target).ear == "right"]
    if behind == scene.output or not right or not going:
        return Remedy(say("check.lead-each-side-to"))
    copy = behind.model_copy(
        update={
            "id": fresh_id(graph.modules, behind.id),
            "label": str(say("check.right", behind=behind.title[:50])),
            "settings": behind.settings,
        }
    )
    steering = [line for line in graph.into(behind.id) if line not in lines and not graph.carries_sound(line)]
    fed = [line for line in right if line.target.module == behind.id]
    edits: list[Edit] = [AddModule(module=copy)]
    edits += [Connect(line=line.model_copy(update={"target": line.target.on(copy.id)})) for line in (*steering, *fed)]
    edits += [Disconnect(line=Ends.of(line)) for line in fed]
    edits += [
        MoveEnd(line=Ends.of(line), to=Ends(source=line.source.on(copy.id), target=line.target)) for line in going
    ]
    return Remedy(say("check.give-the-right-side", kind=behind.declaration.title.lower()), tuple(edits))
