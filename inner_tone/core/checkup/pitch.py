"""Pitch: sources that do not follow the keys, are out of tune, or lie beyond hearing."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.remedies import with_high_pass
from inner_tone.core.checkup.scene import STILL, Scene
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import ChangeLine, Connect, Edit, Ends, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.units import note_name, trimmed, with_unit

LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
IN_TUNE_CENTS = 5.0
FOLLOWING = 0.02
UNEVEN = 0.1  # of its peak, from which on a movement is held not to swing about 0
LEAST_SPREAD = 0.9  # semitones between the phrase's notes, below which nobody can tell whether something follows


def follows_player(scene: Scene, module: Module) -> bool:
    """Tell whether a source's pitch depends on the player's."""
    return scene.player is not None and Port.of(scene.player.id, "pitch") in scene.graph.upstream(pitch_of(module))


def pitch_of(module: Module) -> Port:
    """Return the input by which a source follows a pitch."""
    return Port.of(module.id, "pitch")


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
                measured = f"{trimmed(depth * spread)} semitones where the keys go {trimmed(spread)}"
                message = f"{module.title} follows the keys, but {'too far' if depth > 1 else 'not far enough'}."
                yield not_followed(module, message, measured, Remedy("Set the depth to 1.", (edit,)))
        elif not lines and is_heard_as_tone(scene, module):
            name = scene.player.title
            edit_line = Connect(line=Connection(source=source, target=target))
            message = f"{module.title} sounds the same note whatever is played: nothing is connected to its pitch."
            measured = (
                f"{with_unit(frequency_hz(scene, module, 0.0), 'Hz')} throughout, {len(scene.pitches)} notes played"
            )
            remedy = Remedy(f"Connect the pitch of {name} to it.", (edit_line,))
            yield not_followed(module, message, measured, remedy)


def not_followed(module: Module, message: str, measured: str, remedy: Remedy) -> Finding:
    """Return the finding that a source does not follow the keys."""
    why = "A melody becomes another melody, or one note again and again."
    return Finding("pitch-not-followed", module.id, "pitch", message, measured, why, remedy)


def is_heard_as_tone(scene: Scene, module: Module) -> bool:
    """Tell whether a source without a key sounds as a tone: within hearing, and no sound of its own length."""
    return "recorded" not in module.declaration.traits and frequency_hz(scene, module, 0.0) > LOWEST_HZ


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
    sounding = frequency_hz(scene, module, scene.pitches[0] if scene.pitches else 0.0)
    yield Finding(
        "out-of-tune",
        name,
        "pitch",
        f"{module.title} is {trimmed(abs(nearest.cents), 2)} cents {sharp} of what is played.",
        f"{with_unit(sounding, 'Hz')} for {played}, {trimmed(nearest.cents, 2)} cents",
        "Beside any other instrument it sounds wrong, and beats.",
        Remedy(f"Tune {module.title} to the keys.", nearest.edits),
    )


def is_even(scene: Scene, line: Connection) -> bool:
    """Tell whether it is known where a line holds a pitch: it brings the player's, or goes round in even cycles."""
    return line.source.name == "pitch" or is_cyclic(scene, line)


def is_cyclic(scene: Scene, line: Connection) -> bool:
    """Tell whether a line brings a movement that repeats: a wave, or what moves in a time of its own."""
    declared = scene.graph.declared(line.source.module)
    return "rate" in declared.inputs_by_name or declared.pitched


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
    settings = module.all_settings
    uneven = [line for line in steered_by(scene, module) if centre(scene, line)]
    steps = 100.0 * (module.number("pitch") + sum(centre(scene, line) for line in uneven))
    for name, cents in (("semitone", 100.0), ("fine", 1.0)):
        if name in settings:
            steps += cents * module.number(name)
    cents = steps - 100.0 * round(steps / 100.0)
    edits: list[Edit] = [edit for line in uneven for edit in evened(scene, line)]
    edits += [SetValue(module=module.id, setting=name, value=0) for name in ("fine",) if settings.get(name, 0) != 0]
    for name in ("pitch", "semitone"):
        if name in settings and module.number(name) % 1.0:
            edits.append(SetValue(module=module.id, setting=name, value=round(module.number(name))))
    hertz = frequency_hz(scene, module, scene.pitches[0] if scene.pitches else 0.0)
    shifted, shifts = shift_hz(scene, module)
    offset = module.number("offset") if "offset" in settings else 0.0
    without, with_all = hertz - offset, hertz + shifted
    if with_all != without and without > 0.0 and with_all > 0.0:
        cents += 1200.0 * math.log2(with_all / without)
        edits += [*shifts, *([SetValue(module=module.id, setting="offset", value=0)] if offset else [])]
    return Tuning(cents, tuple(edits))


def shift_hz(scene: Scene, module: Module) -> tuple[float, list[Edit]]:
    """Return by how many hertz the input in hertz shifts a source as a whole, and what takes that away."""
    if "linear" not in module.all_settings:
        return 0.0, []
    base = module.number("linear")
    edits: list[Edit] = [SetValue(module=module.id, setting="linear", value=0)] if base else []
    lines = [line for line in scene.coming(module, "linear") if centre(scene, line)]
    edits += [edit for line in lines for edit in evened(scene, line)]
    return base + sum(centre(scene, line) for line in lines), edits


def evened(scene: Scene, line: Connection) -> tuple[Edit, ...]:
    """Return the edits that let a movement swing evenly about 0: its range, or a filter against standstill."""
    module = scene.graph.module(line.source)
    choice = module.declaration.choices.get("range")
    if choice:
        return (SetValue(module=module.id, setting=choice.name, value=choice.default),)
    return with_high_pass(scene.graph, [line])


def frequency_hz(scene: Scene, module: Module, played: float) -> float:
    """Return the frequency of a source in Hz for a pitch in semitones that comes in from the player."""
    settings = module.all_settings
    semitones = module.number("pitch") + sum(
        line.depth * played for line in steered_by(scene, module) if line.source.name == "pitch"
    )
    for name, factor in (("octave", 12.0), ("semitone", 1.0), ("fine", 0.01)):
        if name in settings:
            semitones += factor * module.number(name)
    ratio = module.number("ratio") if "ratio" in settings else 1.0
    offset = module.number("offset") if "offset" in settings else 0.0
    return float(MIDDLE_C_HZ * 2.0 ** (semitones / 12.0) * ratio + offset)


def out_of_hearing(scene: Scene) -> Iterator[Finding]:
    """Yield a finding for each source on the sound path whose fundamental lies beyond hearing for all notes."""
    for module in scene.on_path(lambda declared: declared.pitched and "recorded" not in declared.traits):
        measure = scene.measure(pitch_of(module))
        if measure and measure.greatest - measure.least > STILL and not follows_player(scene, module):
            continue
        played = scene.pitches if follows_player(scene, module) and scene.pitches else [0.0]
        found = [abs(frequency_hz(scene, module, one)) for one in (played[0], played[-1])]
        low, high = max(found) < LOWEST_HZ, min(found) > HIGHEST_HZ
        if not (low or high):
            continue
        octaves = math.ceil(abs(math.log2(max(found[0], 1e-3) / (110.0 if low else 7000.0))))
        shift = octaves if low else -octaves
        setting = "octave" if "octave" in module.all_settings else "pitch"
        ruler = module.declaration.rulers[setting]
        wanted = module.number(setting) + shift * (1.0 if setting == "octave" else 12.0)
        value = min(ruler.high, max(ruler.low, wanted))
        yield Finding(
            "out-of-hearing",
            module.id,
            "pitch",
            f"{module.title} swings too {'slowly' if low else 'fast'} to be heard as a tone.",
            f"{with_unit(found[0], 'Hz')}; ears begin at 20 Hz and end at 20 kHz",
            "Its picture moves, so everybody looks for the fault further down the path.",
            Remedy(
                f"Move it by {abs(shift)} octave{'s' if abs(shift) > 1 else ''} {'up' if low else 'down'}.",
                (SetValue(module=module.id, setting=setting, value=value),),
            ),
        )
