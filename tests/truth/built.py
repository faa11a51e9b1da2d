"""Makers of patches whose nature is known: each draws one by chance, and lets it play a phrase."""

import math
from collections.abc import Callable

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.response import ResponseView
from inner_tone.core.lens.look import taps_of
from inner_tone.core.lens.moment import WHOLE, Span, span_of
from inner_tone.core.lens.recipe import rendered
from inner_tone.core.lens.source import Played
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase
from inner_tone.core.units import frequency_of
from tests.support.patches import Line, module, patch, phrase
from tests.truth.known import Known, Truth, partials_of
from tests.truth.makers import BELL_RATIOS, ODD_RATIOS, Dice, drawn_hz, enveloped, levels_of, sidebands

ONE_NOTE_S = 1.6
FINEST = 40_000
BROAD, SHARP = 2.0 * math.cos(math.pi / 8.0), 2.0 * math.cos(3.0 * math.pi / 8.0)  # of a fourth-order Butterworth

Modules = list[dict[str, object]]


def known(name: str, built: Patch, notes: Phrase, tap: str, truth: Truth, span: Span | None = None) -> Known:
    """Return a patch that has played as what is known of its tap, in the moment that says most or in another."""
    graph, port = Graph(built), Port(tap)
    taps = {port} | taps_of(LevelView(taps=(port,)), graph) | taps_of(ResponseView(taps=(port,)), graph)
    sounds = rendered(built, notes, taps)
    return Known(name, sounds[tap].signal, truth, Played(graph, sounds, span or span_of(None, notes)), tap)


def keyed(modules: Modules, *lines: Line) -> Patch:
    """Return a patch whose oscillator follows the keys."""
    return patch([module("player", "player"), *modules], [("player.pitch", "osc.pitch"), *lines])


def held(note: float) -> Phrase:
    """Return one long note."""
    return phrase((0.0, ONE_NOTE_S, note), beats=ONE_NOTE_S)


def wave(dice: Dice) -> Known:
    """An oscillator that is played, perhaps a little out of tune."""
    kind = str(dice.choice(["sine", "saw", "square", "triangle"]))
    note, fine = float(dice.integers(24, 96)), float(dice.integers(-50, 51))
    hertz = frequency_of(note + 0.01 * fine)
    built = keyed([module("osc", "oscillator", wave=kind, fine=fine)])
    truth = Truth(pitch_hz=hertz, tones=partials_of(hertz, levels_of(kind, hertz, 0.6)), brightness="stays")
    return known(f"patch: {kind}, note {note:.0f}, {fine:.0f} cents", built, held(note), "osc.out", truth)


def fm(dice: Dice) -> Known:
    """A sine whose phase another one moves."""
    ratio = float(dice.choice([1.0, 2.0, 3.0, 4.0, 5.0, *ODD_RATIOS, *BELL_RATIOS]))
    note, index = float(dice.integers(40, 76)), float(dice.uniform(0.5, 4.0))
    built = keyed(
        [module("osc", "oscillator", wave="sine"), module("mod", "oscillator", wave="sine", ratio=ratio)],
        ("player.pitch", "mod.pitch"),
        ("mod.out", "osc.phase", index),
    )
    hertz = frequency_of(note)
    halves = ratio * 4.0
    common = hertz * math.gcd(4, round(halves)) / 4.0 if abs(halves - round(halves)) < 1e-9 else None
    truth = Truth(pitch_hz=common, tones=sidebands(hertz, ratio * hertz, index, 1.0), brightness="stays")
    return known(f"patch: FM of note {note:.0f}, 1:{ratio:.4f}, index {index:.2f}", built, held(note), "osc.out", truth)


def vibrato(dice: Dice) -> Known:
    """An LFO on the pitch of an oscillator."""
    kind = str(dice.choice(["sine", "saw", "square"]))
    note, rate = float(dice.integers(40, 80)), float(dice.uniform(2.0, 9.0))
    cents = float(np.exp(dice.uniform(np.log(4.0), np.log(150.0))))
    built = keyed(
        [module("osc", "oscillator", wave=kind), module("lfo", "lfo", rate=rate)],
        ("lfo.out", "osc.pitch", 0.01 * cents),
    )
    hertz = frequency_of(note)
    tones = partials_of(hertz, levels_of(kind, hertz * 2.0 ** (cents / 1200.0), 0.6))
    truth = Truth(pitch_hz=hertz, tones=tones, vibrato=(rate, cents), brightness="stays")
    name = f"patch: {kind}, note {note:.0f}, vibrato {rate:.2f} Hz ±{cents:.1f} cents"
    return known(name, built, phrase((0.0, 2.4, note), beats=2.4), "osc.out", truth)


def analogue(x: Floats, mode: str, slope: int, resonance: float) -> Floats:
    """Return the gains of the analogue prototype at frequencies over its cutoff."""
    if slope == 6 and mode in ("lowpass", "highpass"):
        return np.asarray((x if mode == "highpass" else 1.0) / np.sqrt(1.0 + x**2))
    left = max(1.0 - resonance, 5e-4)
    if slope == 24:
        return section(x, BROAD, mode) * section(x, SHARP * left, mode)
    return section(x, math.sqrt(2.0) * left, mode)


def section(x: Floats, damping: float, mode: str) -> Floats:
    """Return the gains of a second-order section."""
    tops = {"lowpass": 1.0 + 0.0 * x, "highpass": x**2, "bandpass": damping * x, "notch": np.abs(1.0 - x**2)}
    return np.asarray(tops[mode] / np.sqrt((1.0 - x**2) ** 2 + (damping * x) ** 2))


def filtered(dice: Dice) -> Known:
    """A saw behind a low-pass."""
    note, slope = float(dice.integers(24, 60)), int(dice.choice([6, 12, 24]))
    resonance = float(dice.choice([0.0, 0.5, 0.8])) if slope == 12 else 0.0
    hertz = frequency_of(note)
    cutoff = float(np.exp(dice.uniform(np.log(10.0 * hertz), np.log(min(6000.0, 40.0 * hertz)))))
    built = keyed(
        [
            module("osc", "oscillator", wave="saw"),
            module("filter", "filter", cutoff=cutoff, slope=slope, resonance=resonance),
        ],
        ("osc.out", "filter.in"),
    )
    levels = levels_of("saw", hertz, 0.6)
    gains = analogue(np.arange(1.0, len(levels) + 1.0) * hertz / cutoff, "lowpass", slope, resonance)
    fine = np.geomspace(hertz, 20_000.0, FINEST)
    response = analogue(fine / cutoff, "lowpass", slope, resonance)
    lost = float(fine[np.flatnonzero(response > 10.0 ** (-3.0 / 20.0))[-1]])
    top = int(np.argmax(response))
    peak = (float(fine[top]), 20.0 * float(np.log10(response[top]))) if resonance else None
    truth = Truth(
        pitch_hz=hertz,
        tones=partials_of(hertz, levels * gains),
        cut=(lost, float(slope)),
        peak=peak,
        brightness="stays",
    )
    name = f"patch: saw, note {note:.0f}, low-pass {slope} dB at {cutoff:.1f} Hz, resonance {resonance}"
    return known(name, built, held(note), "filter.out", truth)


def struck(dice: Dice) -> Known:
    """A wave under an envelope of four stages."""
    kind, curve = str(dice.choice(["sine", "saw", "square"])), str(dice.choice(["linear", "curved"]))
    note = float(dice.integers(40, 84))
    attack, decay, release = (float(np.exp(dice.uniform(np.log(low), np.log(0.4)))) for low in (0.005, 0.05, 0.05))
    sustain = float(dice.choice([1.0, 0.8, 0.7, 0.5, 0.3]))
    length = attack + decay + 0.5
    stages: dict[str, float | str] = {"attack": attack, "decay": decay, "sustain": sustain, "release": release}
    built = keyed(
        [
            module("osc", "oscillator", wave=kind),
            module("env", "envelope", curve=curve, **stages),
            module("amp", "amplifier"),
        ],
        ("osc.out", "amp.in"),
        ("player.gate", "env.gate"),
        ("env.out", "amp.level"),
    )
    hertz = frequency_of(note)
    truth = enveloped(hertz, levels_of(kind, hertz, 0.6), (attack, decay, sustain, release))
    name = f"patch: {kind}, note {note:.0f}: {attack:.4f}, {decay:.3f}, {sustain}, {release:.3f} s, {curve}"
    return known(name, built, phrase((0.0, length, note), beats=length + 1.0), "amp.out", truth)


def melody(dice: Dice) -> Known:
    """Notes that touch, each of which opens the amplifier anew."""
    notes = [float(dice.integers(40, 80))]
    for _ in range(int(dice.integers(1, 5))):
        notes.append(float(dice.choice([one for one in range(40, 80) if one != notes[-1]])))
    each = float(dice.uniform(0.25, 0.5))
    kind = str(dice.choice(["saw", "square", "triangle"]))
    built = keyed(
        [
            module("osc", "oscillator", wave=kind),
            module("env", "envelope", attack=0.003, decay=0.0, sustain=1, release=0.01),
            module("amp", "amplifier"),
        ],
        ("osc.out", "amp.in"),
        ("player.gate", "env.gate"),
        ("env.out", "amp.level"),
    )
    written = phrase(*((each * n, each, one) for n, one in enumerate(notes)), beats=each * len(notes))
    truth = Truth(melody=tuple(notes), wavers=True, ends=True)
    return known(f"patch: {kind}, notes {notes}, {each:.2f} s each", built, written, "amp.out", truth, WHOLE)


def response(dice: Dice) -> Known:
    """A filter whose response is looked at, perhaps while a lever holds its cutoff elsewhere."""
    mode, slope = str(dice.choice(["lowpass", "highpass", "bandpass", "notch"])), int(dice.choice([6, 12, 24]))
    resonance = float(dice.choice([0.0, 0.0, 0.5, 0.8])) if slope != 6 and mode in ("lowpass", "highpass") else 0.0
    base, places = drawn_hz(dice, 120.0, 2500.0), float(dice.choice([0, 0, 12, 19, -7]))
    cutoff = base * 2.0 ** (places / 12.0)
    lines: list[Line] = [("osc.out", "filter.in")]
    lines += [("hand.out", "filter.cutoff", places)] if places else []
    modules = [
        module("osc", "oscillator"),
        module("filter", "filter", mode=mode, slope=slope, cutoff=base, resonance=resonance),
        *([module("hand", "lever", value=1)] if places else []),
    ]
    fine = np.geomspace(10.0, 20_000.0, FINEST)
    gains = 20.0 * np.log10(np.maximum(analogue(fine / cutoff, mode, slope, resonance), 1e-9))
    top = int(np.argmax(gains))
    passing = fine[gains > (gains[0] if mode == "lowpass" else gains[-1]) - 3.0103]
    edge = {"lowpass": float(passing[-1]), "highpass": float(passing[0])}.get(mode)
    truth = Truth(
        passes={"lowpass": "lows", "highpass": "highs", "bandpass": "band", "notch": "notch"}[mode],
        corner_hz=edge,
        fall_db=float(slope) if edge else None,
        lift=(float(fine[top]), float(gains[top])) if resonance else None,
        middle_hz=None if edge else cutoff,
        steered=bool(places),
    )
    name = f"patch: {mode} {slope} dB, {base:.1f} Hz moved by {places:.0f} st, resonance {resonance}"
    return known(name, keyed(modules, *lines), held(57.0), "filter.out", truth)


def plucked(dice: Dice) -> Known:
    """A bass line whose filter is struck open by each note, and may resonate on the way."""
    count, each = int(dice.integers(3, 7)), float(dice.uniform(0.2, 0.5))
    notes = [float(one) for one in dice.choice(np.arange(28, 53), count, replace=False)]
    resonance, opens = float(dice.choice([0.0, 0.3, 0.6])), float(dice.uniform(18.0, 48.0))
    decay, cutoff = float(dice.uniform(0.05, 0.3)), drawn_hz(dice, 90.0, 400.0)
    kind = str(dice.choice(["saw", "square"]))
    built = keyed(
        [
            module("osc", "oscillator", wave=kind),
            module("filter", "filter", slope=24, cutoff=cutoff, resonance=resonance),
            module("flash", "envelope", attack=0.002, decay=decay, sustain=0, release=decay),
            module("env", "envelope", attack=0.003, decay=0.3, sustain=0.6, release=0.03),
            module("amp", "amplifier"),
        ],
        ("osc.out", "filter.in"),
        ("player.gate", "flash.gate"),
        ("flash.out", "filter.cutoff", opens),
        ("filter.out", "amp.in"),
        ("player.gate", "env.gate"),
        ("env.out", "amp.level"),
    )
    written = phrase(*((each * n, 0.8 * each, one) for n, one in enumerate(notes)), beats=each * count)
    truth = Truth(melody=tuple(notes), wavers=True, ends=True)
    name = f"patch: {kind}, notes {notes}, {each:.2f} s each, cutoff {cutoff:.0f} Hz, opened by {opens:.0f} st"
    return known(f"{name} for {decay:.2f} s, resonance {resonance}", built, written, "amp.out", truth, WHOLE)


def whirring(dice: Dice) -> Known:
    """A held tone whose filter is moved to and fro."""
    note, rate = float(dice.integers(28, 65)), float(np.exp(dice.uniform(np.log(0.5), np.log(16.0))))
    resonance, depth = float(dice.choice([0.0, 0.3, 0.6])), float(dice.uniform(6.0, 30.0))
    cutoff = frequency_of(note) * float(dice.uniform(1.0, 6.0))
    kind, shape = str(dice.choice(["saw", "square"])), str(dice.choice(["sine", "triangle"]))
    built = keyed(
        [
            module("osc", "oscillator", wave=kind),
            module("lfo", "lfo", wave=shape, rate=rate),
            module("filter", "filter", slope=24, cutoff=cutoff, resonance=resonance),
        ],
        ("osc.out", "filter.in"),
        ("lfo.out", "filter.cutoff", depth),
    )
    truth = Truth(pitch_hz=frequency_of(note), wavers=True)
    name = f"patch: {kind}, note {note:.0f}, cutoff {cutoff:.0f} Hz moved {rate:.2f} times a second by {depth:.0f} st"
    return known(f"{name}, resonance {resonance}", built, phrase((0.0, 3.0, note), beats=3.0), "filter.out", truth)


def crossed(dice: Dice) -> Known:
    """One tone gives way to another, by a crossfade: nothing glides."""
    first = float(dice.integers(40, 65))
    other = first + float(dice.choice([5, 7, 11, 12, 19, 24, 29.31, 36]))
    over = float(dice.choice([0.02, 0.06, 0.15, 0.4]))
    kind = str(dice.choice(["sine", "triangle"]))
    built = patch(
        [
            module("low", "oscillator", wave=kind, pitch=first - 60.0),
            module("high", "oscillator", wave=kind, pitch=other - 60.0),
            module("hand", "lever"),
            module("cross", "crossfade", position=0),
        ],
        [
            ("low.out", "cross.a"),
            ("high.out", "cross.b"),
            ("hand.out", "cross.position"),
        ],
    )
    moved = {"control": "lever:hand", "points": [(0.0, 0.0), (1.2, 0.0), (1.2 + over, 1.0)]}
    written = phrase(beats=2.4 + over, gestures=[moved])
    truth = Truth(melody=(first, other), wavers=True)
    return known(f"patch: {kind}, {first} gives way to {other} in {over} s", built, written, "cross.out", truth, WHOLE)


def swung(dice: Dice) -> Known:
    """A vibrato within a filter that is moved slowly, so that now one partial is the strongest and now another."""
    note, rate, cents = float(dice.integers(33, 65)), float(dice.uniform(4.5, 7.0)), float(dice.uniform(15.0, 60.0))
    built = keyed(
        [
            module("osc", "oscillator", wave="saw"),
            module("vibrato", "lfo", rate=rate),
            module("slow", "lfo", rate=float(dice.uniform(0.3, 1.2))),
            module(
                "filter", "filter", slope=24, cutoff=1.6 * frequency_of(note), resonance=float(dice.uniform(0.2, 0.7))
            ),
        ],
        ("vibrato.out", "osc.pitch", 0.01 * cents),
        ("osc.out", "filter.in"),
        ("slow.out", "filter.cutoff", float(dice.uniform(4.0, 10.0))),
    )
    hertz = frequency_of(note)
    truth = Truth(pitch_hz=hertz, vibrato=(rate, cents), wavers=True)
    name = f"patch: saw, note {note:.0f}, vibrato {rate:.2f} Hz ±{cents:.1f} cents, filter moved"
    return known(name, built, phrase((0.0, 2.4, note), beats=2.4), "filter.out", truth)


BUILT: dict[str, Callable[[Dice], Known]] = {
    "patch: wave": wave,
    "patch: FM": fm,
    "patch: vibrato": vibrato,
    "patch: filtered": filtered,
    "patch: struck": struck,
    "patch: melody": melody,
    "patch: response": response,
    "patch: plucked": plucked,
    "patch: whirring": whirring,
    "patch: crossed": crossed,
    "patch: swung": swung,
}
