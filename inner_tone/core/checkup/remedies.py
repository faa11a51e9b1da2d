"""What remedies put in: an envelope with its amplifier or alone, a filter against standstill, an output, a movement."""

from collections.abc import Sequence

from inner_tone.core.checkup.finding import Remedy
from inner_tone.core.checkup.scene import Scene
from inner_tone.core.message import say
from inner_tone.core.modules import CATALOGUE, OUTPUT
from inner_tone.core.modules.declaration import Role
from inner_tone.core.patch.edit import fresh_id
from inner_tone.core.patch.graph import Graph, feeding
from inner_tone.core.patch.inserting import inserted
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import AddModule, Connect, Disconnect, Edit, Ends
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Gesture

AMPLIFIER, ENVELOPE, FILTER = "amplifier", "envelope", "filter"
STANDSTILL_HZ = 20


def with_output(graph: Graph) -> tuple[Edit, ...]:
    """Return the edits that put an output in, to which everything leads that leads nowhere."""
    output = Module(id=fresh_id(graph.modules, OUTPUT), type=OUTPUT)
    lines = feeding(graph.loose_ends(), output.id)
    return (AddModule(module=output), *(Connect(line=line) for line in lines))


def with_switch(graph: Graph, lines: Sequence[Connection]) -> tuple[Edit, ...]:
    """Return the edits that put an amplifier with an envelope into some lines; none without a player."""
    if not lines or graph.player is None:
        return ()
    amplifier = Module(id=fresh_id(graph.modules, AMPLIFIER), type=AMPLIFIER)
    envelope = Module(id=fresh_id(graph.modules, ENVELOPE), type=ENVELOPE)
    gate = Connection(source=Port.of(graph.player.id, "gate"), target=Port.of(envelope.id, "gate"))
    amplifiers, edits = inserted(graph, amplifier, lines)
    levels = [Connection(source=envelope.main, target=Port.of(one.id, one.declaration.opens)) for one in amplifiers]
    return (*edits, AddModule(module=envelope), Connect(line=gate), *(Connect(line=level) for level in levels))


def with_envelope(graph: Graph, switch: Connection) -> tuple[Edit, ...]:
    """Return the edits that put an envelope in the place of a line that switches something at once."""
    declared = CATALOGUE[ENVELOPE]
    envelope = Module(id=fresh_id(graph.modules, ENVELOPE), type=ENVELOPE, settings={declared.named("sustain"): 1})
    gate = Connection(source=switch.source, target=Port.of(envelope.id, "gate"))
    level = Connection(source=envelope.main, target=switch.target, depth=switch.depth)
    return (
        AddModule(module=envelope),
        Connect(line=gate),
        Connect(line=level),
        Disconnect(line=Ends.of(switch)),
    )


def with_high_pass(graph: Graph, lines: Sequence[Connection]) -> tuple[Edit, ...]:
    """Return the edits that put a filter into some lines which lets nothing through that stands still."""
    wanted: dict[Role, str | int] = {"mode": "highpass", "slope": 6, "cutoff": STANDSTILL_HZ}
    settings = {CATALOGUE[FILTER].named(role): value for role, value in wanted.items()}
    module = Module(
        id=fresh_id(graph.modules, FILTER), type=FILTER, label=str(say("check.no-standstill")), settings=settings
    )
    return inserted(graph, module, lines)[1] if lines else ()


def moved_by_hand(scene: Scene, control: Port, otherwise: tuple[Edit, ...]) -> Remedy:
    """Return what to do where everything waits for a control: write its movement, if the phrase can, else otherwise."""
    name = scene.port_title(control)
    gesture = gesture_of(scene.graph, control)
    words = say("check.let-move-or-no", name=name)
    if gesture is None:
        return Remedy(words, otherwise, say("check.no-longer-scale-by"))
    words = say("check.write-a-movement-or-unscale", name=name)
    middle, end = 0.5 * scene.phrase.beats, scene.phrase.beats
    written = Gesture(control=gesture, points=((0.0, 0.0), (middle, 1.0), (end, 0.0)))
    others = tuple(one for one in scene.phrase.gestures if one.control != gesture)
    phrase = scene.phrase.model_copy(update={"gestures": (*others, written)})
    return Remedy(words, (), say("check.write-a-movement-of", name=name), phrase)


def gesture_of(graph: Graph, control: Port) -> str | None:
    """Return the name by which a phrase moves a control, if it can."""
    module = graph.module(control)
    if module == graph.player:
        return control.name if control.name in ("wheel", "bend") else None
    return (
        f"lever:{module.id}" if "numbers" in module.declaration.traits and module.declaration.family == "play" else None
    )
