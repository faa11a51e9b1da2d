"""Pitch: sources that do not follow the keys, are out of tune, or lie beyond hearing."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.remedies import with_high_pass
from inner_tone.core.checkup.scene import STILL, Scene
from inner_tone.core.message import Message, Name, Number, Quantity, counted, say
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import ChangeLine, Connect, Edit, Ends, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.tuning import amount, frequency_hz, pitch_of
from inner_tone.core.units import note_name

LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
IN_TUNE_CENTS = 5.0
FOLLOWING = 0.02
UNEVEN = 0.1  # of its peak, from which on a movement is held not to swing about 0
LEAST_SPREAD = 0.9  # semitones between the phrase's notes, below which nobody can tell whether something follows


def follows_player(scene: Scene, module: Module) -> bool:
    """Tell whether a source's pitch depends on the player's."""
    return scene.player is not None and Port.of(scene.player.id, "pitch") in scene.graph.upstream(pitch_of(module))


def steered_by(scene: Scene, module: Module) -> list[Connection]:
    """Return what steers the pitch of a source."""
    return scene.graph.coming(pitch_of(module))


def pitch_not_followed(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each source on the sound path that the keys do not move, or not as far as they should."""
    if scene.player is None or not scene.pitches or scene.pitches[-1] - scene.pitches[0] < LEAST_SPREAD:
        return
    spread = scene.pitches[-1] - scene.pitches[0]
    for module in scene.pitched():
        lines = steered_by(scene, module)
        source, target = Port.of(scene.player.id, "pitch"), pitch_of(module)
        direct = [line for line in lines if line.source == source and not line.scaled_by]
        if follows_player(scene, module):
            depth = sum(line.depth for line in direct)
            if direct and len(direct) == len(lines) and abs(depth - 1.0) > FOLLOWING:
                edit = ChangeLine(line=Ends(source=source, target=target), depth=1.0)
                measured = say("check.semitones-where-the-keys", depth=Number(depth * spread), spread=Number(spread))
                how = "too-far" if depth > 1 else "not-far-enough"
                message = say(f"check.follows-the-keys.{how}", module=Name(module.title))
                yield not_followed(module, message, measured, Remedy(say("check.set-the-depth-to-1"), (edit,)))
        elif not lines and is_heard_as_tone(scene, module):
            name = scene.player.title
            edit_line = Connect(line=Connection(source=source, target=target))
            message = say("check.sounds-the-same-note", module=Name(module.title))
            measured = say(
                "check.throughout-notes-played",
                played=Quantity(played_hz(scene, module, 0.0), "Hz"),
                pitches=len(scene.pitches),
            )
            remedy = Remedy(say("check.connect-the-pitch-of", name=name), (edit_line,))
            yield not_followed(module, message, measured, remedy)


def not_followed(module: Module, message: Message, measured: Message, remedy: Remedy) -> Finding:
    """Return the finding that a source does not follow the keys."""
    why = say("check.a-melody-becomes-another")
    return Finding("pitch-not-followed", module.id, "pitch", message, measured, why, remedy)


def is_heard_as_tone(scene: Scene, module: Module) -> bool:
    """Tell whether a source without a key sounds as a tone: within hearing, and no sound of its own length."""
    return "recorded" not in module.declaration.traits and played_hz(scene, module, 0.0) > LOWEST_HZ


@dataclass(frozen=True)
class Tuning:
    """Where a source sounds, for the note that is played."""

    cents: float  # from the nearest key that its transposition means
    edits: tuple[Edit, ...]


def out_of_tune(scene: Scene) -> Iterator[Finding]:
    """Yield a finding if no source that follows the keys is in tune with them.

    One that is detuned beside another in tune makes the sound broad, and is meant.
    """
    found = {
        module.id: tuning(scene, module)
        for module in scene.pitched()
        if follows_player(scene, module) and all(is_even(scene, line) for line in steered_by(scene, module))
    }
    if not found or any(abs(one.cents) <= IN_TUNE_CENTS for one in found.values()):
        return
    if min(one.cents for one in found.values()) < 0.0 < max(one.cents for one in found.values()):
        return  # spread to both sides of the note
    name, nearest = min(found.items(), key=lambda item: abs(item[1].cents))
    module = scene.graph.modules[name]
    sharp = "sharp" if nearest.cents > 0 else "flat"
    played = note_name(60.0 + scene.pitches[0]) if scene.pitches else "C4"
    sounding = played_hz(scene, module, scene.pitches[0] if scene.pitches else 0.0)
    yield Finding(
        "out-of-tune",
        name,
        "pitch",
        say(f"check.out-of-tune.{sharp}", module=Name(module.title), cents=Number(abs(nearest.cents), 2)),
        say("check.for-cents", sounding=Quantity(sounding, "Hz"), played=played, cents=Number(nearest.cents, 2)),
        say("check.beside-any-other-instrument"),
        Remedy(say("check.tune-to-the-keys", module=Name(module.title)), nearest.edits),
    )


def is_even(scene: Scene, line: Connection) -> bool:
    """Tell whether it is known where a line holds a pitch: it brings the player's, or goes round in even cycles."""
    return line.source.name == "pitch" or is_cyclic(scene, line)


def is_cyclic(scene: Scene, line: Connection) -> bool:
    """Tell whether a line brings a movement that repeats: a wave, or what moves in a time of its own."""
    declared = scene.graph.declared(line.source.module)
    return bool(declared.named("rate")) or declared.pitched


def centre(scene: Scene, line: Connection) -> float:
    """Return about what a repeated movement swings, in the unit of its depth; 0 where it swings evenly about 0."""
    found = scene.measure(line.source)
    if found is None or not is_cyclic(scene, line):
        return 0.0
    middle = found.mean if scene.graph.output_at(line.source).kind == "audio" else 0.5 * (found.least + found.greatest)
    if abs(middle) < UNEVEN * found.peak:
        return 0.0
    scale = scene.measure(line.scaled_by) if line.scaled_by else None
    return line.depth * middle * (scale.mean if scale else 1.0)


def tuning(scene: Scene, module: Module) -> Tuning:
    """Return how far a source lies from the keys, apart from whole semitones and from a ratio chosen as such."""
    uneven = [line for line in steered_by(scene, module) if centre(scene, line)]
    tunings = [(name, semitones) for name, semitones in module.declaration.tunings.items() if semitones]
    steps = sum(centre(scene, line) for line in uneven)
    steps = 100.0 * (steps + sum(semitones * module.number(name) for name, semitones in tunings))
    cents = steps - 100.0 * round(steps / 100.0)
    edits: list[Edit] = [edit for line in uneven for edit in evened(scene, line)]
    for name, semitones in tunings:
        value = module.number(name)
        whole = round(value) if semitones >= 1.0 else 0  # what is finer than a semitone goes, what is broken is rounded
        edits += [SetValue(module=module.id, setting=name, value=whole)] if value != whole else []
    hertz = played_hz(scene, module, scene.pitches[0] if scene.pitches else 0.0)
    shifted, shifts = shift_hz(scene, module)
    offset = amount(module, "offset")
    without, with_all = hertz - offset, hertz + shifted
    if with_all != without and without > 0.0 and with_all > 0.0:
        cents += 1200.0 * math.log2(with_all / without)
        edits += shifts
        edits += [SetValue(module=module.id, setting=module.declaration.named("offset"), value=0)] if offset else []
    return Tuning(cents, tuple(edits))


def shift_hz(scene: Scene, module: Module) -> tuple[float, list[Edit]]:
    """Return by how many hertz the input in hertz shifts a source as a whole, and what takes that away."""
    name = module.declaration.named("hertz")
    if not name:
        return 0.0, []
    base = module.number(name)
    edits: list[Edit] = [SetValue(module=module.id, setting=name, value=0)] if base else []
    lines = [line for line in scene.coming(module, name) if centre(scene, line)]
    edits += [edit for line in lines for edit in evened(scene, line)]
    return base + sum(centre(scene, line) for line in lines), edits


def evened(scene: Scene, line: Connection) -> tuple[Edit, ...]:
    """Return the edits that let a movement swing evenly about 0: its range, or a filter against standstill."""
    module = scene.graph.module(line.source)
    choice = module.declaration.choices.get(module.declaration.named("range"))
    if choice:
        return (SetValue(module=module.id, setting=choice.name, value=choice.default),)
    return with_high_pass(scene.graph, [line])


def played_hz(scene: Scene, module: Module, played: float) -> float:
    """Return the frequency of a source in Hz for a pitch in semitones that comes in from the player."""
    pitch = module.number(pitch_of(module).name)
    pitch += sum(line.depth * played for line in steered_by(scene, module) if line.source.name == "pitch")
    return float(frequency_hz(module, np.array(pitch)))


def out_of_hearing(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each source on the sound path whose fundamental lies beyond hearing for all notes."""
    for module in scene.on_path(lambda declared: declared.pitched and "recorded" not in declared.traits):
        measure = scene.measure(pitch_of(module))
        if measure and measure.greatest - measure.least > STILL and not follows_player(scene, module):
            continue
        played = scene.pitches if follows_player(scene, module) and scene.pitches else [0.0]
        found = [abs(played_hz(scene, module, one)) for one in (played[0], played[-1])]
        low, high = max(found) < LOWEST_HZ, min(found) > HIGHEST_HZ
        if not (low or high):
            continue
        octaves = math.ceil(abs(math.log2(max(found[0], 1e-3) / (110.0 if low else 7000.0))))
        shift = octaves if low else -octaves
        setting = module.declaration.named("octave") or pitch_of(module).name
        ruler = module.declaration.rulers[setting]
        wanted = module.number(setting) + shift * 12.0 / module.declaration.tunings[setting]
        value = min(ruler.high, max(ruler.low, wanted))
        yield Finding(
            "out-of-hearing",
            module.id,
            "pitch",
            say(f"check.swings-too.{'slowly' if low else 'fast'}", module=Name(module.title)),
            say("check.ears-begin-at-hz", found=Quantity(found[0], "Hz")),
            say("check.its-picture-moves-so"),
            Remedy(
                counted(f"check.move-it.{'up' if low else 'down'}", abs(shift)),
                (SetValue(module=module.id, setting=setting, value=value),),
            ),
        )
