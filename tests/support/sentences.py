"""The table of sentences: what each lens says of signals whose nature is known."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from scipy.signal import butter, sosfilt

from inner_tone.core.arrays import Floats
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View
from inner_tone.core.units import frequency_of
from tests.support.patches import RATE
from tests.support.sounds import TAP, low_passed, noise, peaked, resonant, said, series, shaped, sines, swept, time

PAGE = Path(__file__).resolve().parents[2] / "docs" / "sentences.md"
HEAD = """# What the lenses say

Every lens says what it shows in a sentence computed from the signal: its text alternative, and the draft of a
caption. The signals of this table were made with NumPy and SciPy, not by our own oscillators;
`tests/core/test_sentences.py` holds each sentence against what is known of its signal.
`.venv/bin/python -m tests.support.sentences` writes this page anew.
"""

WAVE, PHRASE = WaveView(taps=(TAP,)), WaveView(taps=(TAP,), cycles=0)
SPECTRUM, SWEEP, LEVEL = SpectrumView(taps=(TAP,)), SweepView(taps=(TAP,)), LevelView(taps=(TAP,))


@dataclass(frozen=True)
class Case:
    """What a signal is, how it was made, through which lens it is seen, and the sentence that must be said, no more.

    A number in braces is the true one, and how far from it the sentence may be.
    """

    name: str
    made: str
    signal: Floats
    view: View
    sentence: str


def gap() -> Floats:
    return np.zeros(round(0.5 * RATE))


def opened() -> Floats:
    """Return a saw that a filter lets go."""
    part = np.interp(time(1.5), [0.6, 0.9], [0.0, 1.0])
    return (1.0 - part) * low_passed(SAW, 200.0, 4) + part * SAW


def wah() -> Floats:
    """Return a saw through a low-pass filter of four poles that moves four times a second, over three octaves."""
    saw, state = series(110.0, 0.5, seconds=2.0), np.zeros((2, 2))
    found: list[Floats] = []
    for part in np.array_split(saw, len(saw) // MOVED_EVERY):
        at = MOVED_EVERY * len(found) / RATE
        cutoff = 500.0 * 2.0 ** (1.5 * np.sin(2.0 * np.pi * 4.0 * at))
        through, state = sosfilt(butter(4, cutoff, output="sos", fs=RATE), part, zi=state)
        found.append(through)
    return np.concatenate(found)


def drops() -> Floats:
    """Return twelve seconds of notes between C5 and C6, each 40 ms long, with as much silence after it."""
    row = np.tile([72.0, 79.0, 76.0, 84.0, 74.0], 30)
    return np.concatenate(
        [np.pad(shaped(sines(0.034, (frequency_of(one), 0.4)), 0.003, 0.02, 0.011, 0.0), (0, 1920)) for one in row]
    )


MOVED_EVERY = 32
BLAST = sines(1.0, (100.0, 0.7))
SAW = series(110.0, 0.5)
A4_AND_NEAR = sines(4.0, (440.0, 0.4), (440.7, 0.3))


@cache
def table() -> tuple[Case, ...]:
    """Return all cases; their signals take some time to make."""
    return (
        Case(
            "single tone",
            "sine of 220 Hz, amplitude 0.5",
            sines(1.5, (220.0, 0.5)),
            SPECTRUM,
            "220 Hz (A3): a single partial, a sine.",
        ),
        Case(
            "saw",
            "Σ sin(nωt)/n, 110 Hz, all n below 20 kHz",
            SAW,
            SPECTRUM,
            "110 Hz (A2): all partials, falling 6 dB per octave.",
        ),
        Case(
            "odd partials",
            "Σ sin(nωt)/n over odd n, 110 Hz",
            series(110.0, 0.5, step=2),
            SPECTRUM,
            "110 Hz (A2): odd partials only, falling 6 dB per octave.",
        ),
        Case(
            "roll-off of 12 dB",
            "Σ sin(nωt)/n² over odd n, 110 Hz",
            series(110.0, 0.5, step=2, power=2.0),
            SPECTRUM,
            "110 Hz (A2): odd partials only, falling 12 dB per octave; nothing above {9588 ± 2 %} Hz.",
        ),
        Case(
            "roll-off of 3 dB",
            "Σ sin(nωt)/√n, 110 Hz, up to 20 kHz",
            series(110.0, 0.1, power=0.5),
            SPECTRUM,
            "110 Hz (A2): all partials, falling 3 dB per octave.",
        ),
        Case(
            "impulses",
            "Σ sin(nωt), 200 Hz, all n below 20 kHz",
            series(200.0, 0.02, power=0.0),
            SPECTRUM,
            "200 Hz (G3 +35 cents): all partials, all equally strong.",
        ),
        Case(
            "series that ends",
            "saw of 110 Hz, no partial above 2 kHz",
            series(110.0, 0.5, top=2000.0),
            SPECTRUM,
            "110 Hz (A2): all partials, falling 6 dB per octave; nothing above {1980 ± 1 %} Hz.",
        ),
        Case(
            "cut off, 24 dB",
            "saw of 110 Hz behind SciPy’s Butterworth low-pass, 1 kHz, order 4",
            low_passed(SAW, 1000.0, 4),
            SPECTRUM,
            "110 Hz (A2): all partials, falling 6 dB per octave; cut off above {1000 ± 2 %} Hz by {24 ± 3 %} dB per octave more.",
        ),
        Case(
            "cut off, 12 dB",
            "saw of 110 Hz behind SciPy’s Butterworth low-pass, 800 Hz, order 2",
            low_passed(SAW, 800.0, 2),
            SPECTRUM,
            "110 Hz (A2): all partials, falling 6 dB per octave; cut off above {800 ± 2 %} Hz by {12 ± 3 %} dB per octave more.",
        ),
        Case(
            "cut off and lifted",
            "saw of 55 Hz behind a resonant low-pass, 1 kHz, 12 dB per octave, Q 4",
            resonant(series(55.0, 0.5), 1000.0, 4.0),
            SPECTRUM,
            "55 Hz (A1): all partials, falling 6 dB per octave; lifted by {12.1 ± 3 %} dB around {984 ± 2 %} Hz; cut off above {1500 ± 8 %} Hz by {13 ± 10 %} dB per octave more.",
        ),
        Case(
            "resonance",
            "saw of 55 Hz, 4 times as strong at 880 Hz by SciPy’s resonator, Q 8",
            peaked(series(55.0, 0.5), 880.0, 8.0, 4.0),
            SPECTRUM,
            "55 Hz (A1): all partials, falling 6 dB per octave; lifted by {12.04 ± 3 %} dB around {880 ± 1 %} Hz.",
        ),
        Case(
            "inharmonic",
            "sines of 211, 583 and 1,137 Hz",
            sines(1.5, (211.0, 0.5), (583.0, 0.4), (1137.0, 0.3)),
            SPECTRUM,
            "Three tones, 211 Hz (G♯3 +28 cents), 583 Hz (D5 −13 cents) and 1,137 Hz (C♯6 +44 cents).",
        ),
        Case(
            "a few partials of a low fundamental",
            "sines of 220, 440, 528 and 880 Hz, as in a bell: 5, 10, 12 and 20 times 44 Hz",
            sines(1.5, (220.0, 0.2), (440.0, 0.2), (528.0, 0.2), (880.0, 0.2)),
            SPECTRUM,
            "{44 ± 1 %} Hz (F1 +{14 ± 20 %} cents), which itself is missing: partials 5, 10, 12 and 20 only, all equally strong; nothing above {889 ± 2 %} Hz.",
        ),
        Case(
            "two tones",
            "sines of 300 and 517.3 Hz",
            sines(1.5, (300.0, 0.5), (517.3, 0.4)),
            SPECTRUM,
            "Two tones, 300 Hz (D4 +37 cents) and 517.3 Hz (C5 −20 cents).",
        ),
        Case(
            "missing fundamental",
            "sines of 400, 600 and 800 Hz",
            sines(1.5, (400.0, 0.3), (600.0, 0.3), (800.0, 0.3)),
            SPECTRUM,
            "200 Hz (G3 +35 cents), which itself is missing: partials 2, 3 and 4 only; nothing above {805 ± 1 %} Hz.",
        ),
        Case(
            "white noise",
            "NumPy’s normal numbers",
            noise(0.0),
            SPECTRUM,
            "White noise, at −20 dB RMS: no pitch, as strong at every frequency.",
        ),
        Case(
            "pink noise",
            "the same, amplitude as 1/√f",
            noise(-0.5),
            SPECTRUM,
            "Pink noise, at −20 dB RMS: no pitch, falling 3 dB per octave.",
        ),
        Case(
            "brown noise",
            "the same, amplitude as 1/f",
            noise(-1.0),
            SPECTRUM,
            "Brown noise, at {−20 ± 12 %} dB RMS: no pitch, falling 6 dB per octave.",
        ),
        Case(
            "blue noise",
            "the same, amplitude as √f",
            noise(0.5),
            SPECTRUM,
            "Blue noise, at −20 dB RMS: no pitch, rising 3 dB per octave.",
        ),
        Case(
            "filtered noise",
            "white noise behind SciPy’s Butterworth low-pass, 500 Hz, order 4",
            low_passed(noise(0.0), 500.0, 4),
            SPECTRUM,
            "Noise without a pitch, at {−36.6 ± 2 %} dB RMS, strongest around {250 ± 80 %} Hz.",
        ),
        Case(
            "beating",
            "sines of 440 and 440.7 Hz, amplitudes 0.4 and 0.3, 4 s",
            A4_AND_NEAR,
            SPECTRUM,
            "{440.3 ± 0.1 %} Hz (A4 +1 cent): 2 tones within {0.7 ± 1 %} Hz; it beats {0.7 ± 1 %} times a second, by {16.9 ± 3 %} dB.",
        ),
        Case(
            "silence",
            "zeros",
            np.zeros(48_000),
            SPECTRUM,
            "Silence: no partial is heard.",
        ),
        Case(
            "sine",
            "sine of 100 Hz, amplitude 0.5",
            sines(1.0, (100.0, 0.5)),
            WAVE,
            "100 Hz (G2 +35 cents): one cycle takes 10 ms and swings between −0.5 and 0.5.",
        ),
        Case(
            "clipping",
            "sine of 100 Hz, amplitude 1.5, cut off at ±1",
            np.clip(sines(1.0, (100.0, 1.5)), -1.0, 1.0),
            WAVE,
            "100 Hz (G2 +35 cents): one cycle takes 10 ms and swings between −1 and 1; flat on both sides at 1, for {53.5 ± 3 %} % of the time: it is clipped.",
        ),
        Case(
            "filter that moves",
            "saw of 110 Hz, low-pass of four poles moved 4 times a second, ±18 semitones around 500 Hz",
            wah(),
            WAVE,
            "A2, about {110 ± 2 %} Hz: its wave changes, and swings between {−0.74 ± 5 %} and {0.9 ± 5 %}.",
        ),
        Case(
            "filter that moves",
            "the same",
            wah(),
            SPECTRUM,
            "A2, about {110 ± 2 %} Hz: its partials come and go.",
        ),
        Case(
            "filter that moves",
            "the same",
            wah(),
            SWEEP,
            "A2 throughout; its brightness swings {4 ± 1 %} times a second, its middle between {120 ± 5 %} and {179 ± 5 %} Hz.",
        ),
        Case(
            "drops",
            "notes of 34 ms between C5 and C6, 12 s of them",
            drops(),
            SWEEP,
            "Pitches between C5 and C6, each too brief to be told; its brightness moves, its middle between {499 ± 5 %} and {1000 ± 5 %} Hz.",
        ),
        Case(
            "clipping on one side",
            "sine of 100 Hz, amplitude 0.8, cut off at 0.5 above",
            np.minimum(sines(1.0, (100.0, 0.8)), 0.5),
            WAVE,
            "100 Hz (G2 +35 cents): one cycle takes 10 ms and swings between −0.8 and 0.5; flat on top at 0.5, for {28.5 ± 5 %} % of the time: it is clipped.",
        ),
        Case(
            "square, not clipped",
            "square of 110 Hz, ±0.5",
            0.5 * np.sign(sines(1.0, (110.0, 1.0)) + 1e-9),
            WAVE,
            "110 Hz (A2): one cycle takes 9.09 ms and swings between −0.5 and 0.5.",
        ),
        Case(
            "level line",
            "0.8 throughout",
            np.full(48_000, 0.8),
            WAVE,
            "A level line at 0.8: nothing moves.",
        ),
        Case(
            "noise",
            "white noise, RMS 0.1, kept between ±0.2",
            np.clip(noise(0.0), -0.2, 0.2),
            WAVE,
            "Nothing that repeats clearly; it moves between −0.2 and 0.2.",
        ),
        Case(
            "silence",
            "zeros",
            np.zeros(48_000),
            WAVE,
            "Silence: the line stays at zero.",
        ),
        Case(
            "two blasts",
            "twice a second of 100 Hz, half a second of nothing after each",
            np.concatenate([BLAST, gap(), BLAST, gap()]),
            PHRASE,
            "2 stretches from 0 s to {2.5 ± 1 %} s; peak 0.7.",
        ),
        Case(
            "drone",
            "sine of 100 Hz, amplitude 0.7, one second",
            BLAST,
            PHRASE,
            "Without a break from 0 s to 1 s, and it has not ended there; peak 0.7.",
        ),
        Case(
            "silence",
            "zeros",
            np.zeros(48_000),
            PHRASE,
            "Silence from beginning to end.",
        ),
        Case(
            "swell",
            "sine of 1 kHz, 0.2 s up, 0.6 s held, 0.4 s down",
            shaped(sines(2.0, (1000.0, 0.5)), 0.2, 0.6, 0.4),
            LEVEL,
            "{−10.4 ± 1 %} LUFS, peak −6.02 dB: attack {200 ± 3 %} ms, release {400 ± 3 %} ms.",
        ),
        Case(
            "drone",
            "sine of 1 kHz at −20 dB",
            sines(3.0, (1000.0, 0.1)),
            LEVEL,
            "{−23 ± 0.5 %} LUFS, peak −20 dB: there at once, and it does not end.",
        ),
        Case(
            "beating",
            "sines of 440 and 440.7 Hz, amplitudes 0.4 and 0.3, 4 s",
            A4_AND_NEAR,
            LEVEL,
            "{−10.1 ± 1 %} LUFS, peak −3.1 dB; it swells and fades {0.7 ± 1 %} times a second, by {16.9 ± 3 %} dB.",
        ),
        Case(
            "tremolo",
            "sine of 220 Hz, its level 1 ± 0.5 four times a second",
            (1 + 0.5 * np.sin(2 * np.pi * 4.0 * time(3.0))) * sines(3.0, (220.0, 0.4)),
            LEVEL,
            "{−11.4 ± 3 %} LUFS, peak −4.44 dB; it swells and fades {4 ± 1 %} times a second, by {9.54 ± 5 %} dB.",
        ),
        Case(
            "silence",
            "zeros",
            np.zeros(48_000),
            LEVEL,
            "Silence: nothing rises.",
        ),
        Case(
            "steady",
            "saw of 110 Hz",
            SAW,
            SWEEP,
            "A2 throughout; its brightness stays, its middle at {239 ± 10 %} Hz.",
        ),
        Case(
            "vibrato",
            "A3, ±30 cents 5.5 times a second",
            swept(57.0 + 0.3 * np.sin(2 * np.pi * 5.5 * time(2.0))),
            SWEEP,
            "A3 with a vibrato of {5.5 ± 1 %} Hz, ±{30 ± 3 %} cents; its brightness stays, its middle at {331 ± 10 %} Hz.",
        ),
        Case(
            "glide",
            "A2 to A3 in 400 ms, evenly in notes",
            swept(np.interp(time(2.0), [0.8, 1.2], [45.0, 57.0])),
            SWEEP,
            "Glides from A2 to A3 in {400 ± 4 %} ms; its brightness rises, its middle from {155 ± 10 %} to {333 ± 10 %} Hz.",
        ),
        Case(
            "opening",
            "saw of 110 Hz, crossfaded from a second behind a low-pass of 200 Hz to itself",
            opened(),
            SWEEP,
            "A2 throughout; its brightness rises, its middle from {120 ± 10 %} to {239 ± 10 %} Hz.",
        ),
        Case(
            "noise",
            "white noise",
            noise(0.0),
            SWEEP,
            "No pitch that can be followed; its brightness stays, its middle at {1270 ± 15 %} Hz.",
        ),
        Case(
            "silence",
            "zeros",
            np.zeros(48_000),
            SWEEP,
            "Silence: nothing moves.",
        ),
    )


@cache
def sentences() -> tuple[str, ...]:
    """Return what is said of each case."""
    return tuple(said(case.view, case.signal) for case in table())


def page() -> str:
    """Return docs/sentences.md."""
    lines = [HEAD]
    lens = ""
    for case, sentence in zip(table(), sentences(), strict=True):
        if case.view.kind != lens:
            lens = case.view.kind
            lines.append(f"\n## {lens.capitalize()}\n\n| signal | made from | sentence |\n|---|---|---|")
        lines.append(f"| {case.name} | {case.made} | {sentence} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(page())
