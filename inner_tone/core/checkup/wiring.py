"""What is connected to no effect: sources that go nowhere, and steering by what never moves."""

from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.scene import STILL, Scene
from inner_tone.core.patch.graph import is_single
from inner_tone.core.patch.model import Connection
from inner_tone.core.patch.moves import Disconnect, Ends, RemoveModules
from inner_tone.core.units import trimmed


def goes_nowhere(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each module that nothing on the way to the output depends on."""
    if scene.output is None:
        return
    for module in scene.patch.modules:
        if module.id not in scene.heard and not is_single(module):
            lines = scene.graph.reading(module.id)
            message = f"{module.title} goes nowhere: " + (
                "what it feeds does not lead to the output." if lines else "nothing listens to it."
            )
            yield Finding(
                "goes-nowhere",
                module.id,
                "",
                message,
                f"{len(lines)} connection{'' if len(lines) == 1 else 's'}, none to the output",
                "It makes no difference to the sound, and whoever reads the map wonders what it is for.",
                Remedy(
                    "Connect it to something that is heard, or take it out.",
                    (RemoveModules(modules=(module.id,), bridge=False),),
                    "Take it out.",
                ),
            )


def unmoving(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each connection that steers by a signal that stays at one value over the whole phrase."""
    for line in scene.patch.connections:
        if not scene.steers(line) or is_meant_to_stay(scene, line):
            continue
        measure = scene.measure(line.source)
        if measure is None or measure.greatest - measure.least > STILL:
            continue
        source, target = scene.title(line.source), scene.title(line.target)
        name, output = line.source.name, scene.graph.output_at(line.source)
        whose = source if output.unnamed else f"The {name} of {source}"
        steered = f"the {scene.graph.input(line.target).words} of {target}"
        yield Finding(
            "unmoving",
            line.target.module,
            line.target.name,
            f"{whose} steers {steered}, and never moves in this phrase.",
            f"at {trimmed(measure.greatest, 2)} throughout",
            "What is shown as movement is none: the step would sound the same without it.",
            Remedy(
                remedy_words(scene, line),
                (Disconnect(line=Ends.of(line)),),
                "Take the connection away.",
            ),
        )


def is_meant_to_stay(scene: Scene, line: Connection) -> bool:
    """Tell whether a source may well stay where it is: a lever, arithmetic on one, or a note's pitch and velocity."""
    output = scene.graph.output_at(line.source)
    if scene.graph.module(line.source) == scene.player and output.kind == "gate":
        return output.main and not scene.phrase.notes
    if output.rest == "with-input":
        return not any(scene.moves(way) for way in scene.graph.ways(line.source.module))
    return output.rest == "meant"


def remedy_words(scene: Scene, line: Connection) -> str:
    """Return what could make a source move."""
    module = scene.graph.module(line.source)
    if module == scene.player:
        return f"Give the phrase a gesture for the {line.source.name}, or take the connection away."
    if "gate" in module.declaration.inputs_by_name:
        return f"Connect a gate to {module.title}, or take the connection away."
    return f"Let something move {module.title}, or take the connection away."
