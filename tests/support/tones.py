"""Voices of one oscillator and one note, and the same at another pitch: how far it lies is known by construction."""

import random
from typing import Any

from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Note, Phrase

LOWEST, HIGHEST = 45, 69  # of the notes: two octaves lower their partials are still told apart
WAVES = ("sine", "triangle", "saw", "square")


def tone(dice: random.Random) -> Patch:
    """Return a patch in which one oscillator is heard through a filter and an amplifier, both steered or not."""
    wave = dice.choice(WAVES)
    modules: list[dict[str, Any]] = [
        {"id": "player", "type": "player"},
        {"id": "reed", "type": "oscillator", "label": "Reed", "settings": {"wave": wave}},
        {"id": "loud", "type": "amplifier"},
        {"id": "push", "type": "envelope", "settings": envelope(dice)},
        {"id": "out", "type": "output", "settings": {"level": dice.choice([-18, -12, -6])}},
    ]
    lines: list[dict[str, Any]] = [
        {"from": "player.pitch", "to": "reed.pitch"},
        {"from": "player.gate", "to": "push.gate"},
        {"from": "push.out", "to": "loud.level"},
        {"from": "loud.out", "to": "out.left"},
        {"from": "loud.out", "to": "out.right"},
    ]
    source = "reed.out"
    if wave in ("saw", "square") and dice.random() < 0.7:
        settings = {"cutoff": round(dice.uniform(500, 5000)), "resonance": round(dice.uniform(0, 0.6), 2)}
        modules.append({"id": "bell", "type": dice.choice(["filter", "ladder"]), "settings": settings})
        lines += [{"from": source, "to": "bell.in"}, {"from": "player.pitch", "to": "bell.cutoff", "depth": 0.5}]
        if dice.random() < 0.4:
            lines.append({"from": "push.out", "to": "bell.cutoff", "depth": dice.choice([-12, 12, 24])})
        source = "bell.out"
    lines.append({"from": source, "to": "loud.in"})
    return read_patch({"format": "inner-tone/patch", "version": 1, "modules": modules, "connections": lines})


def envelope(dice: random.Random) -> dict[str, float]:
    """Return the settings of an envelope that lets a note be heard while its key is down."""
    return {
        "attack": round(dice.uniform(0.005, 0.2), 3),
        "decay": round(dice.uniform(0.1, 0.6), 2),
        "sustain": round(dice.uniform(0.4, 0.9), 2),
        "release": round(dice.uniform(0.05, 0.5), 2),
    }


def one_note(dice: random.Random) -> Phrase:
    """Return a phrase of one note."""
    length = dice.choice([1.0, 1.5, 2.0])
    note = Note(start=0, length=length, pitch=dice.randint(LOWEST, HIGHEST))
    return Phrase(tempo=60, beats=length + 0.5, notes=(note,))


def tuned(dice: random.Random, patch: Patch, semitones: int, cents: int = 0) -> Patch:
    """Return a patch whose oscillator sounds so much higher: by its octave, its semitones or its base pitch."""
    octave = dice.choice([octave for octave in range(-2, 3) if abs(semitones - 12 * octave) <= 12])
    rest = semitones - 12 * octave
    moved: dict[str, Any] = {"octave": octave, "semitone": rest} if dice.random() < 0.7 else {"pitch": semitones}
    modules = [
        one.model_copy(update={"settings": {**one.settings, **moved, "fine": cents}}) if one.id == "reed" else one
        for one in patch.modules
    ]
    return patch.model_copy(update={"modules": tuple(modules)})
