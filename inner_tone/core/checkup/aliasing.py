"""Aliasing: tones that are no multiples of the common fundamental, where all others must be."""

import math
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

import numpy as np

from inner_tone.core.analysis.spectrum import levels
from inner_tone.core.arrays import Floats
from inner_tone.core.checkup.finding import Finding, Remedy
from inner_tone.core.checkup.pitch import follows_player, played_hz, steered_by
from inner_tone.core.checkup.scene import SILENT, Scene
from inner_tone.core.engine.render import render
from inner_tone.core.message import Number, Quantity, say
from inner_tone.core.patch.model import Connection, Module
from inner_tone.core.patch.moves import ChangeLine, Ends
from inner_tone.core.phrase import Note, Phrase

ALLOWED_DB = -60.0
LEAST_SECONDS, MOST_SECONDS = 0.15, 0.5
SETTLED_SECONDS = 0.1
LARGEST_DENOMINATOR = 8
RATIO_ERROR = 1e-4
LEAST_FUNDAMENTAL_HZ = 60.0
CLEARANCE_BINS = 12.0
ANOTHER_RATE, TWICE_RATE = 88_200.0, 96_000.0
NEAR_BINS = 4.0
WEAKER_DB = 12.0
CLEARANCE_SHARE = 0.04
HIGHEST_HZ = 20_000.0
# what moves in a time of its own, so that its tones need not be multiples of anything
FREE = {"own-time", "random"}


def aliasing(scene: Scene) -> Iterator[Finding]:
    """Yield the finding that tones have folded back at half of the sampling rate, where that can be told."""
    moved = fast_lines(scene)
    note = longest_alone(scene)
    fundamental = common_fundamental_hz(scene, note.pitch - 60.0) if moved and note else None
    if note is None or fundamental is None:
        return
    passage = steady(scene, note)
    worst = loudest_stray(passage, scene.render.rate, fundamental) if passage is not None else None
    if worst is None or worst[1] < ALLOWED_DB or not has_folded(scene, note, worst):
        return
    line = max(moved, key=lambda one: abs(one.depth))
    source, target = scene.title(line.source), scene.title(line.target)
    synced = scene.graph.input(line.target).kind == "gate"
    depth = float(f"{0.4 * line.depth:.3g}")
    edits = () if synced else (ChangeLine(line=Ends.of(line), depth=depth),)
    words = (
        say("check.play-lower-notes-or", target=target)
        if synced
        else say("check.line-down-or-lower-notes", source=source, target=target, depth=Number(depth))
    )
    yield Finding(
        "aliasing",
        line.target.module,
        line.target.name,
        say("check.makes-tones-above-half", target=target),
        say(
            "check.folded-partial",
            hertz=Quantity(worst[0], "Hz"),
            level=Number(worst[1], 2),
            fundamental=Quantity(fundamental, "Hz"),
        ),
        say("check.they-do-not-belong"),
        Remedy(words, edits, say("check.turn-it-down-to", depth=Number(depth))),
    )


def fast_lines(scene: Scene) -> list[Connection]:
    """Return the connections on the way to the output by which sound moves something else: what can fold back."""
    found = []
    for line in scene.patch.connections:
        port = scene.graph.input(line.target)
        if not port.bends or scene.graph.output_at(line.source).kind != "audio" or is_idle(scene, line):
            continue
        if line.target.module in scene.sounding_path or port.kind == "audio":
            found.append(line)
    return found


def is_idle(scene: Scene, line: Connection) -> bool:
    """Tell whether a line moves nothing: by its depth, by what scales it, or because nothing comes."""
    scaled_away = line.scaled_by is not None and scene.peak(line.scaled_by) < SILENT
    return not line.depth or not scene.sounds(line.source) or scaled_away


def has_folded(scene: Scene, note: Note, stray: tuple[float, float]) -> bool:
    """Tell whether a stray tone lies elsewhere, or is much weaker, when the same is computed at another rate.

    What has folded at half of one sampling rate does not fold to the same place at another; what has not stays.
    """
    rate = scene.render.rate
    other = ANOTHER_RATE if rate != ANOTHER_RATE else TWICE_RATE
    again = render(scene.patch, until(scene.phrase, note), rate=other)
    passage = steady(replace(scene, render=again), note)
    if passage is None:
        return False
    size = 1 << (len(passage) - 1).bit_length()
    bins = levels(passage, size)
    place = stray[0] * size / other
    near = bins[max(0, int(place - NEAR_BINS)) : int(place + NEAR_BINS) + 2]
    return float(np.max(near) - np.max(bins)) < stray[1] - WEAKER_DB


def until(phrase: Phrase, note: Note) -> Phrase:
    """Return a phrase cut off where a note ends."""
    end = note.start + note.length
    return phrase.model_copy(update={"beats": end, "notes": tuple(one for one in phrase.notes if one.start < end)})


def longest_alone(scene: Scene) -> Note | None:
    """Return the longest note during which no other one sounds, in beats."""
    alone = [
        note
        for note in scene.phrase.notes
        if not any(
            other is not note and other.start < note.start + note.length and note.start < other.start + other.length
            for other in scene.phrase.notes
        )
    ]
    return max(alone, key=lambda note: note.length, default=None)


def common_fundamental_hz(scene: Scene, played: float) -> float | None:
    """Return the frequency in Hz of which all tones must be multiples, or nothing if they need not be."""
    modules = [module for module in scene.patch.modules if module.id in scene.heard]
    sources = [module for module in modules if module.declaration.pitched]
    if (
        any(FREE & module.declaration.traits for module in modules)
        or not sources
        or not all(is_steady(scene, s) for s in sources)
    ):
        return None
    hertz = [abs(played_hz(scene, module, played)) for module in sources]
    if min(hertz) < 1.0:
        return None
    ratios = [Fraction(one / hertz[0]).limit_denominator(LARGEST_DENOMINATOR) for one in hertz]
    if any(abs(float(ratio) * hertz[0] / one - 1.0) > RATIO_ERROR for ratio, one in zip(ratios, hertz, strict=True)):
        return None
    found = hertz[0] / math.lcm(*(ratio.denominator for ratio in ratios))
    return found if found >= LEAST_FUNDAMENTAL_HZ else None


def is_steady(scene: Scene, module: Module) -> bool:
    """Tell whether a source keeps its pitch while a key is down."""
    lines = steered_by(scene, module)
    return not lines or (follows_player(scene, module) and len(lines) == 1 and lines[0].source.name == "pitch")


def steady(scene: Scene, note: Note) -> Floats | None:
    """Return a steady passage of what is heard during a note, if it is long enough."""
    beat, rate = 60.0 / scene.phrase.tempo, scene.render.rate
    start, end = note.start * beat + SETTLED_SECONDS, (note.start + note.length) * beat
    seconds = min(MOST_SECONDS, end - start)
    if seconds < LEAST_SECONDS or scene.render.limited_db > 0.0:
        return None
    return scene.sound(round(start * rate), round((start + seconds) * rate))


def loudest_stray(passage: Floats, rate: float, fundamental_hz: float) -> tuple[float, float] | None:
    """Return the frequency in Hz and the level in dB, relative to the strongest, of the loudest stray tone."""
    size = 1 << (len(passage) - 1).bit_length()
    bins = levels(passage, size)
    width = rate / size
    frequencies = np.arange(len(bins)) * width
    away = np.abs(frequencies - fundamental_hz * np.round(frequencies / fundamental_hz))
    clear = max(CLEARANCE_BINS * rate / len(passage), CLEARANCE_SHARE * fundamental_hz)
    stray = (away > clear) & (frequencies > 0.5 * fundamental_hz) & (frequencies < HIGHEST_HZ)
    if not np.any(stray) or np.max(bins) < ALLOWED_DB:
        return None
    place = int(np.flatnonzero(stray)[np.argmax(bins[stray])])
    return float(frequencies[place]), float(bins[place] - np.max(bins))
