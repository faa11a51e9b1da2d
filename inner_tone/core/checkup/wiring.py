"""What is connected to no effect: sources that go nowhere, and steering by what never moves."""

from collections.abc import Iterator

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.scene import STILL, Scene
from inner_tone.core.message import Argument, Message, Name, Number, Opening, counted, say
from inner_tone.core.patch.graph import is_single
from inner_tone.core.patch.model import Connection
from inner_tone.core.patch.moves import Disconnect, Ends, RemoveModules


def goes_nowhere(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each module that nothing on the way to the output depends on."""
    if scene.output is None:
        return
    for module in scene.patch.modules:
        if module.id not in scene.heard and not is_single(module):
            lines = scene.graph.reading(module.id)
            why_so = "feeds-no-output" if lines else "unheard"
            yield Finding(
                "goes-nowhere",
                module.id,
                "",
                say(f"check.goes-nowhere.{why_so}", module=Name(module.title)),
                counted("check.none-to-the-output", len(lines)),
                say("check.it-makes-no-difference"),
                Remedy(
                    say("check.connect-it-to-something"),
                    (RemoveModules(modules=(module.id,), bridge=False),),
                    say("check.take-it-out"),
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
        whose: Argument = source if output.unnamed else say("do.port", port=name, module=source)
        steered = say("do.port", port=scene.graph.input(line.target).words, module=target)
        yield Finding(
            "unmoving",
            line.target.module,
            line.target.name,
            say("check.steers-and-never-moves", whose=Opening(whose), steered=steered),
            say("check.at-throughout", greatest=Number(measure.greatest, 2)),
            say("check.what-is-shown-as"),
            Remedy(
                remedy_words(scene, line),
                (Disconnect(line=Ends.of(line)),),
                say("check.take-the-connection-away"),
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


def remedy_words(scene: Scene, line: Connection) -> Message:
    """Return what could make a source move."""
    module = scene.graph.module(line.source)
    if module == scene.player:
        return say("check.give-it-a-gesture", source=line.source.name)
    if "gate" in module.declaration.inputs_by_name:
        return say("check.connect-a-gate-to", module=Name(module.title))
    return say("check.let-something-move-or", module=Name(module.title))
