"""Patches as lessons have them whose sound changes, drawn by chance, with their truth from the parameters alone.

Each maker builds a patch and a phrase by the moves of a lesson and says beside them which pitch sounds when, by its own
arithmetic: no function of the analysis, and none of the engine, has a part in that. What is said of them judges
`courses.py`.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Phrase
from tests.support.patches import Line, module, patch, phrase

Dice = np.random.Generator
Modules = list[dict[str, object]]
Course = Callable[[Floats], Floats]
NEARLY = 4.605170185988092  # a curved way has gone 99 of a hundred parts when its time is up: ln 100
WAVES = ("saw", "square", "triangle")
LEAST_ST = 1.0


@dataclass(frozen=True)
class Taught:
    """A patch that plays a phrase, which note sounds at each time in s at its tap, and what is to be said of that.

    `note_at` gives fractional MIDI notes; `until_s` is until when something sounds that is heard well; of `main` any
    code is the one main fact.
    """

    name: str
    patch: Patch
    phrase: Phrase
    tap: str
    note_at: Course
    until_s: float
    main: tuple[str, ...]


def drawn(dice: Dice, low: float, high: float) -> float:
    """Return a number, evenly drawn over the ratios."""
    return float(np.exp(dice.uniform(np.log(low), np.log(high))))


def voice(dice: Dice, modules: Modules, *lines: Line) -> tuple[Patch, str]:
    """Return an oscillator, bare, behind a still filter, behind one that an envelope opens, or behind an amplifier."""
    wave = str(dice.choice(WAVES))
    made: Modules = [module("player", "player"), module("osc", "oscillator", wave=wave), *modules]
    found = list(lines)
    if not any(line[1] == "osc.pitch" and line[0] in ("player.pitch", "slew.out") for line in lines):
        found.append(("player.pitch", "osc.pitch"))
    behind = str(dice.choice(["bare", "filter", "opening", "amplifier"]))
    if behind == "bare":
        return patch(made, found), "osc.out"
    if behind == "amplifier":
        made += [module("shape", "envelope", attack=0.01, decay=0.3, sustain=0.7, release=0.05)]
        made += [module("amp", "amplifier", level=0)]
        found += [("osc.out", "amp.in"), ("player.gate", "shape.gate"), ("shape.out", "amp.level")]
        return patch(made, found), "amp.out"
    made.append(module("filter", "filter", cutoff=drawn(dice, 600, 6000), resonance=float(dice.uniform(0.0, 0.6))))
    found.append(("osc.out", "filter.in"))
    if behind == "opening":
        made.append(module("opens", "envelope", attack=0.01, decay=drawn(dice, 0.2, 1.5), sustain=0.1))
        found += [("player.gate", "opens.gate"), ("opens.out", "filter.cutoff", float(dice.uniform(6.0, 36.0)))]
    return patch(made, found), "filter.out"


def held(name: str, voiced: tuple[Patch, str], note: float, seconds: float, note_at: Course, main: str) -> Taught:
    """Return a voice that holds one key for a time, with the course of its pitch and the one main fact."""
    built, tap = voiced
    return Taught(name, built, phrase((0.0, seconds, note), beats=seconds), tap, note_at, seconds, (main,))


def still(dice: Dice) -> Taught:
    """One held note, whatever its filter does."""
    note, seconds = float(dice.integers(33, 80)), float(dice.uniform(0.8, 3.0))
    voiced = voice(dice, [])
    return held(
        f"note {note:.0f} for {seconds:.2f} s", voiced, note, seconds, lambda at: np.full(len(at), note), "note"
    )


def slid(dice: Dice) -> Taught:
    """Two notes that touch, and a slew between the keys and the oscillator."""
    first = float(dice.integers(36, 72))
    last = first + float(dice.choice([-12, -7, -5, -3, 3, 4, 7, 9, 12, 19]))
    seconds, curved = drawn(dice, 0.08, 0.8), bool(dice.integers(2))
    built, tap = voice(
        dice,
        [module("slew", "slew", rise=seconds, fall=seconds, shape="curved" if curved else "linear")],
        ("player.pitch", "slew.in"),
        ("slew.out", "osc.pitch"),
    )
    way = abs(last - first)
    taken = seconds if curved else seconds * way  # a straight one has a speed: a semitone in its time
    taken = min(taken, 2.5)
    length = 0.8
    rest = (taken if curved else min(taken, seconds * way)) + 0.8

    def note_at(at: Floats) -> Floats:
        since = np.maximum(at - length, 0.0)
        if curved:
            return np.asarray(last + (first - last) * np.exp(-NEARLY * since / seconds))
        return np.asarray(first + np.sign(last - first) * np.minimum(since / seconds, way))

    return Taught(
        f"{'curved' if curved else 'straight'} slew of {seconds:.3f} s from {first:.0f} to {last:.0f}",
        built,
        phrase((0.0, length, first), (length, rest, last), beats=length + rest),
        tap,
        note_at,
        length + rest,
        ("glide", "moving on"),
    )


def bent(dice: Dice) -> Taught:
    """A note that an envelope bends at its beginning, down or up to where it stays."""
    note, by = float(dice.integers(40, 76)), float(dice.choice([-12, -7, -5, 5, 7, 12, 24]))
    decay = drawn(dice, 0.1, 1.0)
    voiced = voice(
        dice,
        [module("bend", "envelope", stages="attack-decay", attack=0, decay=decay, curve="linear")],
        ("player.gate", "bend.gate"),
        ("bend.out", "osc.pitch", by),
    )
    seconds = decay + float(dice.uniform(0.5, 1.5))
    return held(
        f"an envelope of {decay:.3f} s bends note {note:.0f} by {by:.0f} semitones",
        voiced,
        note,
        seconds,
        lambda at: np.asarray(note + by * np.clip(1.0 - at / decay, 0.0, 1.0)),
        "glide",
    )


def trembling(dice: Dice) -> Taught:
    """A vibrato that stays as it is."""
    note, rate, cents = float(dice.integers(40, 80)), float(dice.uniform(3.0, 8.0)), drawn(dice, 8.0, 120.0)
    voiced = voice(dice, [module("lfo", "lfo", rate=rate)], ("lfo.out", "osc.pitch", 0.01 * cents))
    seconds = float(dice.uniform(1.5, 3.0))
    return held(
        f"vibrato of {rate:.2f} Hz, ±{cents:.1f} cents, of note {note:.0f}",
        voiced,
        note,
        seconds,
        lambda at: note + 0.01 * cents * np.sin(2.0 * np.pi * rate * at),
        "vibrato",
    )


def growing(dice: Dice) -> Taught:
    """A vibrato that an envelope brings in, and that stays then."""
    note, rate, cents = float(dice.integers(45, 78)), float(dice.uniform(4.0, 7.0)), drawn(dice, 25.0, 120.0)
    attack = float(dice.uniform(0.5, 1.5))
    voiced = voice(
        dice,
        [
            module("lfo", "lfo", rate=rate),
            module("grows", "envelope", stages="attack-release", attack=attack, release=0.1, curve="linear"),
        ],
        ("player.gate", "grows.gate"),
        ("lfo.out", "osc.pitch", 0.01 * cents, "grows.out"),
    )
    seconds = attack + float(dice.uniform(0.6, 1.5))
    return held(
        f"vibrato of {rate:.2f} Hz that grows to ±{cents:.1f} cents in {attack:.2f} s, of note {note:.0f}",
        voiced,
        note,
        seconds,
        lambda at: note + 0.01 * cents * np.clip(at / attack, 0.0, 1.0) * np.sin(2.0 * np.pi * rate * at),
        "growing vibrato",
    )


def quickening(dice: Dice) -> Taught:
    """A vibrato whose rate an envelope lets fall from quick to slow, or the other way."""
    note, cents = float(dice.integers(45, 78)), drawn(dice, 30.0, 150.0)
    rate, octaves, decay = float(dice.uniform(2.0, 4.0)), float(dice.uniform(0.8, 1.8)), float(dice.uniform(1.5, 3.0))
    voiced = voice(
        dice,
        [
            module("lfo", "lfo", rate=rate),
            module("hurry", "envelope", stages="attack-decay", attack=0, decay=decay, curve="linear"),
        ],
        ("player.gate", "hurry.gate"),
        ("hurry.out", "lfo.rate", octaves),
        ("lfo.out", "osc.pitch", 0.01 * cents),
    )

    def note_at(at: Floats) -> Floats:
        fine = np.arange(0.0, float(np.max(at, initial=0.0)) + 1e-3, 1e-4)
        turns = np.cumsum(rate * 2.0 ** (octaves * np.clip(1.0 - fine / decay, 0.0, 1.0))) * 1e-4
        return note + 0.01 * cents * np.sin(2.0 * np.pi * np.interp(at, fine, turns))

    return held(
        f"vibrato of ±{cents:.1f} cents that slows from {rate * 2**octaves:.2f} to {rate:.2f} Hz in {decay:.2f} s",
        voiced,
        note,
        decay,
        note_at,
        "changing rate",
    )


def trilled(dice: Dice) -> Taught:
    """A square LFO that lets the pitch leap between two notes."""
    note, rate = float(dice.integers(45, 76)), float(dice.uniform(1.0, 6.0))
    apart = float(dice.choice([1, 2, 3, 4, 5, 7, 12]))
    voiced = voice(
        dice, [module("lfo", "lfo", wave="square", range="positive", rate=rate)], ("lfo.out", "osc.pitch", apart)
    )
    seconds = float(dice.uniform(1.5, 3.0))
    return held(
        f"a trill of {rate:.2f} Hz between note {note:.0f} and {apart:.0f} semitones above",
        voiced,
        note,
        seconds,
        lambda at: np.asarray(note + apart * (np.mod(rate * at, 1.0) < 0.5)),
        "trill",
    )


def wailing(dice: Dice) -> Taught:
    """A slow, wide LFO on the pitch: a siren."""
    note, rate, wide = float(dice.integers(48, 76)), float(dice.uniform(0.25, 1.2)), float(dice.uniform(1.5, 7.0))
    wave = str(dice.choice(["sine", "triangle"]))
    voiced = voice(dice, [module("lfo", "lfo", wave=wave, rate=rate)], ("lfo.out", "osc.pitch", wide))
    seconds = float(dice.uniform(2.2, 3.5)) / rate

    def note_at(at: Floats) -> Floats:
        turn = np.mod(rate * at, 1.0)
        up = np.sin(2.0 * np.pi * turn) if wave == "sine" else 1.0 - 4.0 * np.abs(np.mod(turn + 0.25, 1.0) - 0.5)
        return np.asarray(note + wide * up)

    return held(
        f"a siren, {wave}, {rate:.2f} Hz, ±{wide:.2f} semitones around {note:.0f}",
        voiced,
        note,
        seconds,
        note_at,
        "vibrato",
    )


def tune(dice: Dice) -> Taught:
    """Notes that touch, each at its pitch at once."""
    count = int(dice.integers(3, 7))
    pitches = 60.0 + np.cumsum(dice.choice([-5, -4, -3, -2, 2, 3, 4, 5], count))
    lengths = dice.choice([0.25, 0.5, 0.75], count)
    starts = np.concatenate([[0.0], np.cumsum(lengths)[:-1]])
    built, tap = voice(dice, [])
    notes = [(float(a), float(b), float(c)) for a, b, c in zip(starts, lengths, pitches, strict=True)]
    return Taught(
        f"the notes {', '.join(f'{one:.0f}' for one in pitches)}",
        built,
        phrase(*notes, beats=float(np.sum(lengths))),
        tap,
        lambda at: pitches[np.clip(np.searchsorted(starts, at, side="right") - 1, 0, count - 1)],
        float(np.sum(lengths)),
        ("notes",),
    )


TAUGHT: dict[str, Callable[[Dice], Taught]] = {
    "still": still,
    "slid": slid,
    "bent": bent,
    "trembling": trembling,
    "growing": growing,
    "quickening": quickening,
    "trilled": trilled,
    "wailing": wailing,
    "tune": tune,
}
