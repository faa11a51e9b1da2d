"""Company: what sounds together with a phrase, rendered part by part and mixed."""

import math
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass

import numpy as np

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import RATE
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import LEAST_LENGTH, Companion, Gesture, Note, Phrase

# Returns the sounds of some taps of a patch that plays a phrase.
Sounds = Callable[[Patch, Phrase, Collection[str]], Mapping[str, Sound]]
SIDES = ("left", "right")


@dataclass(frozen=True)
class Heard:
    """A part of the company as it is mixed: its name, and what is heard of it, shape (2, n)."""

    name: str
    sound: Floats


@dataclass(frozen=True)
class Mix:
    """What is heard of a patch, shape (2, n), and of its company, equally long, before any limiter."""

    own: Floats
    parts: tuple[Heard, ...]
    rate: float = RATE

    @property
    def others(self) -> Floats:
        """The company alone, shape (2, n)."""
        return np.asarray(np.sum([np.zeros_like(self.own), *(one.sound for one in self.parts)], axis=0))

    @property
    def together(self) -> Floats:
        """All of it, shape (2, n)."""
        return self.own + self.others


def can_be_mixed(patch: Patch) -> bool:
    """Tell whether anything of a patch can be heard at all."""
    return Graph(patch).output is not None


def mix_of(patch: Patch, phrase: Phrase, sounds: Sounds, alone: str | None = None) -> Mix:
    """Return what is heard of a patch and of the company of its phrase; of one part `alone`, if one is named."""
    heard = [one for one in phrase.company if can_be_mixed(one.patch)]
    heard = [one for one in heard if one.id == alone] if alone else [one for one in heard if not one.muted]
    own = both_sides(patch, phrase, sounds)
    each = [placed(both_sides(one.patch, fitted(one, phrase), sounds), one, phrase) for one in heard]
    length = max(one.shape[1] for one in (own, *each))
    parts = [Heard(part.name, lengthened(sound, length)) for part, sound in zip(heard, each, strict=True)]
    return Mix(lengthened(own, length), tuple(parts))


def company_of(phrase: Phrase, sounds: Sounds, alone: str | None = None) -> Floats:
    """Return the company of a phrase, shape (2, n), silent where it has none."""
    return mix_of(Patch(), phrase, sounds, alone).others


def both_sides(patch: Patch, phrase: Phrase, sounds: Sounds) -> Floats:
    """Return what is heard of a patch on both sides, shape (2, n); a moment of silence of one without an output."""
    output = Graph(patch).output
    if output is None:
        return np.zeros((2, 1))
    ports = [Port.of(output.id, side) for side in SIDES]
    found = sounds(patch, phrase, ports)
    return np.stack([found[port].signal for port in ports])


def fitted(part: Companion, phrase: Phrase) -> Phrase:
    """Return what a part plays beside a phrase: its own, from the beginning again and again, at the other's tempo."""
    own, beats = part.phrase, phrase.beats
    rounds = range(math.ceil(beats / own.beats))
    notes = tuple(
        Note(
            start=start,
            length=max(LEAST_LENGTH, min(note.length, beats - start)),
            pitch=note.pitch,
            velocity=note.velocity,
        )
        for turn in rounds
        for note in own.notes
        if (start := note.start + turn * own.beats) < beats
    )
    gestures = tuple(
        Gesture(
            control=gesture.control,
            points=tuple(
                (beat + turn * own.beats, value)
                for turn in rounds
                for beat, value in gesture.points
                if beat + turn * own.beats <= beats
            ),
        )
        for gesture in own.gestures
    )
    moved = tuple(one for one in gestures if one.points)
    return Phrase(title=own.title, tempo=phrase.tempo, beats=beats, notes=notes, gestures=moved)


def placed(sound: Floats, part: Companion, phrase: Phrase) -> Floats:
    """Return a part, shape (2, n), at its level and its place between left and right, as it comes in and goes out."""
    angle = (part.pan + 1.0) * math.pi / 4.0  # equal power, 1 in the middle
    sides = math.sqrt(2.0) * np.array([[math.cos(angle)], [math.sin(angle)]])
    return np.asarray(sound * sides * 10.0 ** (part.level / 20.0) * faded(sound.shape[1], part, phrase))


def faded(count: int, part: Companion, phrase: Phrase) -> Floats:
    """Return the course of a part's level, shape (n,), as it comes in and goes out by straight lines."""
    beats = np.arange(count) / RATE * phrase.tempo / 60.0
    level = np.ones(count)
    if part.fade_in > 0.0:
        level *= np.clip(beats / part.fade_in, 0.0, 1.0)
    if part.fade_out > 0.0:
        level *= np.clip((phrase.beats - beats) / part.fade_out, 0.0, 1.0)
    return level


def lengthened(sound: Floats, length: int) -> Floats:
    """Return channels, shape (2, n), with silence behind them."""
    return np.pad(sound, ((0, 0), (0, length - sound.shape[1])))
