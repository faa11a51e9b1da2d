"""What sounds when it should not: drones, what sounds unplayed, and feedback that runs away."""

from collections.abc import Iterator

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.remedies import with_switch
from inner_tone.core.checkup.scene import SILENT, Scene
from inner_tone.core.engine.schedule import schedule
from inner_tone.core.message import Listed, Name, Number, say
from inner_tone.core.modules.declaration import OPENS
from inner_tone.core.patch.model import Connection
from inner_tone.core.patch.moves import ChangeLine, Ends, SetValue

LAST_SECONDS = 1.0
STEADY_DB = 3.0
RUNAWAY = 10.0  # 20 dB above full scale
SELF_SOUNDING = 0.01
FED = 1e-3
BELOW_SINGING = 0.9


def drone(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that the sound goes on, as strong as before, when the phrase has ended."""
    if not scene.phrase.notes or scene.output is None:
        return
    rate = scene.render.rate
    end = max(note.start + note.length for note in scene.phrase.notes) * 60.0 / scene.phrase.tempo
    ended = round(max(end, scene.phrase.seconds) * rate)
    tail = scene.sound(ended)
    second = round(LAST_SECONDS * rate)
    if len(tail) < 3 * second:
        return
    first, last = loudness_db(tail[:second]), loudness_db(tail[-second:])
    if last < -60.0 or last < first - STEADY_DB or falls_silent(tail[-second:], rate) or plays_itself(scene):
        return
    edits = with_switch(scene.graph, scene.sound_into(scene.output))
    words = (
        say("check.put-an-amplifier-before", output=Name(scene.output.title)) if edits else say("check.close-the-way")
    )
    yield Finding(
        "drone",
        scene.output.id,
        "",
        say("check.the-sound-never-ends"),
        say("check.s-after-the-end", tail=Number(len(tail) / rate, 2), last=Number(last, 2)),
        say("check.a-source-swings-without"),
        Remedy(words, edits),
    )


def plays_itself(scene: Scene) -> bool:
    """Tell whether a clock goes on to open and close what is heard: then it is meant to go on without keys."""
    return any(
        scene.graph.input(line.target).does == OPENS
        and line.target.module in scene.heard
        and "own-time" in scene.graph.declared(line.source.module).traits
        and scene.moves(line.source)
        for line in scene.patch.connections
        if scene.graph.output_at(line.source).kind == "gate"
    )


def loudness_db(signal: Floats) -> float:
    """Return the level of a stretch of sound in dB."""
    return float(10.0 * np.log10(max(float(np.mean(signal * signal)), 1e-12)))


def falls_silent(signal: Floats, rate: float) -> bool:
    """Tell whether there are gaps of a twentieth of a second in a stretch of sound: it beats, and is no drone."""
    size = round(0.05 * rate)
    parts = signal[: len(signal) // size * size].reshape(-1, size)
    return bool(np.min(np.max(np.abs(parts), axis=1)) < 10.0 * SILENT)


def sounds_unplayed(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each filter that sings by itself, though hardly anything comes in."""
    for module in scene.on_path(lambda declared: "sings" in declared.traits):
        fed = max((scene.peak(line.source) for line in scene.sound_into(module)), default=0.0)
        sung = scene.peak(scene.main(module))
        if fed < FED and sung > SELF_SOUNDING:
            ring = module.declaration.named("ring")
            edit = SetValue(module=module.id, setting=ring, value=BELOW_SINGING)
            yield Finding(
                "sounds-unplayed",
                module.id,
                ring,
                say("check.sounds-by-itself-nothing", module=Name(module.title)),
                say("check.peak-from-a-peak", sung=Number(sung, 2), fed=Number(fed, 2)),
                say("check.at-full-resonance-a"),
                Remedy(
                    say("check.less-resonance-or-tuned", level=Number(BELOW_SINGING)),
                    (edit,),
                    say("check.less-resonance", level=Number(BELOW_SINGING)),
                ),
            )


def runaway(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each loop in which the signal has grown far beyond full scale."""
    plan = schedule(scene.graph.feeds)
    for group, loop in zip(plan.groups, plan.loops, strict=True):
        if not loop:
            continue
        loudest = max(group, key=lambda name: scene.peak(scene.graph.main(name)))
        module = scene.graph.modules[loudest]
        peak = scene.peak(scene.main(module))
        if peak < RUNAWAY:
            continue
        closing = [line for line in scene.patch.connections if closes(scene, line, group)]
        weakest = max(closing, key=lambda line: abs(line.depth))
        ends = Ends.of(weakest)
        depth = float(f"{0.3 * weakest.depth / max(1.0, abs(weakest.depth)):.2g}")
        names = Listed([Name(scene.graph.modules[name].title) for name in group])
        yield Finding(
            "runaway",
            module.id,
            "",
            say("check.the-loop-through-feeds", names=names),
            say("check.runs-over", peak=Number(peak, 2), decibels=Number(20.0 * float(np.log10(peak)), 2)),
            say("check.each-time-round-it"),
            Remedy(
                say(
                    "check.line-down",
                    source=scene.title(weakest.source),
                    target=scene.title(weakest.target),
                    depth=Number(depth),
                ),
                (ChangeLine(line=ends, depth=depth),),
            ),
        )


def closes(scene: Scene, line: Connection, group: tuple[str, ...]) -> bool:
    """Tell whether a connection within a loop carries sound through, so that its depth is the loop's gain."""
    source, target = line.modules
    return source in group and target in group and scene.graph.input(line.target).goes_through
