"""Templates: the usual openings of a lesson, each a first step that can be heard at once and built upon."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.step import StepContent, first_step
from inner_tone.core.patch.placements import HEADROOM_DB
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Note, Phrase

Line = tuple[str, str] | tuple[str, str, float] | tuple[str, str, float, str]  # from, to, depth, scaled by


@dataclass(frozen=True)
class Template:
    """An opening: what it is called, what it is good for, and its steps."""

    id: str
    title: str
    summary: str
    steps: tuple[StepContent, ...]


def module(name: str, kind: str, label: str = "", **settings: float | str | tuple[float, ...]) -> dict[str, Any]:
    """Return a module of a template's patch, called like its type if it has no label."""
    return {"id": name, "type": kind, "label": label, "settings": settings}


PLAYER = module("player", "player")
OUT = module("out", "output", level=HEADROOM_DB)
AMP = module("amp", "amplifier")
ENVELOPE = module("envelope", "envelope", attack=0.01, decay=0.3, sustain=0.6, release=0.3)
PLAYED: tuple[Line, ...] = (
    ("player.gate", "envelope.gate"),
    ("envelope.out", "amp.level"),
    ("amp.out", "out.left"),
    ("amp.out", "out.right"),
)
FOUR_NOTES = Phrase(
    title="Four notes",
    tempo=96,
    beats=8,
    notes=tuple(Note(start=2 * number, length=1.5, pitch=pitch) for number, pitch in enumerate((57, 60, 64, 57))),
)
LONG_NOTE = Phrase(title="One long note", tempo=96, beats=8, notes=(Note(start=0, length=6, pitch=57),))


def opening(title: str, modules: Sequence[dict[str, Any]], lines: Sequence[Line], phrase: Phrase) -> StepContent:
    """Return a first step with a patch."""
    keys = ("from", "to", "depth", "scaled_by")
    connections = [dict(zip(keys, line, strict=False)) for line in lines]
    patch = read_patch({"modules": [PLAYER, *modules, OUT], "connections": connections})
    return StepContent(title=title, patch=patch, phrase=phrase)


TEMPLATES = (
    Template("empty", "An empty bench", "A player and an output, nothing between them.", (first_step(),)),
    Template(
        "tone",
        "A tone under the keys",
        "One oscillator, played: an envelope opens and closes an amplifier. For waves, envelopes, pitch.",
        (
            opening(
                "A tone under the keys",
                [module("oscillator", "oscillator", wave="saw"), AMP, ENVELOPE],
                [("player.pitch", "oscillator.pitch"), ("oscillator.out", "amp.in"), *PLAYED],
                FOUR_NOTES,
            ),
        ),
    ),
    Template(
        "filtered",
        "Two oscillators and a filter",
        "A full tone, a little out of tune with itself, and a low-pass filter that its envelope opens. For filters.",
        (
            opening(
                "Two oscillators and a filter",
                [
                    module("oscillator", "oscillator", wave="saw"),
                    module("oscillator-2", "oscillator", "Second oscillator", wave="saw", fine=7),
                    module("filter", "filter", mode="lowpass", slope=24, cutoff=600, resonance=0.2),
                    AMP,
                    ENVELOPE,
                ],
                [
                    ("player.pitch", "oscillator.pitch"),
                    ("player.pitch", "oscillator-2.pitch"),
                    ("oscillator.out", "filter.in", 0.5),
                    ("oscillator-2.out", "filter.in", 0.5),
                    ("envelope.out", "filter.cutoff", 24),
                    ("filter.out", "amp.in"),
                    *PLAYED,
                ],
                FOUR_NOTES,
            ),
        ),
    ),
    Template(
        "noise",
        "Noise and a filter",
        "White noise through a band that a slow LFO moves: wind, surf, breath. For filters and modulation.",
        (
            opening(
                "Noise and a filter",
                [
                    module("noise", "noise", colour="white"),
                    module("filter", "filter", mode="bandpass", slope=12, cutoff=800, resonance=0.4),
                    module("lfo", "lfo", rate=0.3),
                    AMP,
                    ENVELOPE,
                ],
                [("noise.out", "filter.in"), ("lfo.out", "filter.cutoff", 12), ("filter.out", "amp.in"), *PLAYED],
                LONG_NOTE,
            ),
        ),
    ),
    Template(
        "carrier",
        "A carrier and its modulator",
        "Two sines, one moving the phase of the other: the smallest FM instrument. For ratio and index.",
        (
            opening(
                "A carrier and its modulator",
                [
                    module("carrier", "oscillator", "Carrier", wave="sine"),
                    module("modulator", "oscillator", "Modulator", wave="sine", ratio=2),
                    AMP,
                    ENVELOPE,
                ],
                [
                    ("player.pitch", "carrier.pitch"),
                    ("player.pitch", "modulator.pitch"),
                    ("modulator.out", "carrier.phase", 1.5),
                    ("carrier.out", "amp.in"),
                    *PLAYED,
                ],
                FOUR_NOTES,
            ),
        ),
    ),
    Template(
        "steps",
        "A sequence of steps",
        "A clock and eight steps play a tone by themselves. For sequencing and rhythm.",
        (
            opening(
                "A sequence of steps",
                [
                    module("clock", "clock", division="1/8"),
                    module("steps", "steps", row1=(0, 3, 7, 10, 12, 10, 7, 3)),
                    module("oscillator", "oscillator", wave="square"),
                    AMP,
                    module("envelope", "envelope", stages="attack-decay", attack=0.005, decay=0.25),
                    module("whole", "envelope", "Whole", attack=0.01, decay=0, sustain=1, release=0.3),
                ],
                [
                    ("clock.out", "steps.clock"),
                    ("steps.row1", "oscillator.pitch"),
                    ("steps.gate", "envelope.gate"),
                    ("oscillator.out", "amp.in"),
                    ("envelope.out", "amp.level", 1, "whole.out"),
                    ("player.gate", "whole.gate"),
                    *PLAYED[2:],
                ],
                LONG_NOTE,
            ),
        ),
    ),
)


def template(identity: str) -> Template:
    """Return a template; raises InnerToneError if there is none of that id."""
    for one in TEMPLATES:
        if one.id == identity:
            return one
    raise InnerToneError(f"There is no template “{identity}”.")
