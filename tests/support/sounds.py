"""Signals made with NumPy and SciPy, a second road beside our own oscillators, and scenes that have them at a tap."""

import numpy as np
from scipy.signal import bilinear, butter, iirpeak, lfilter, sosfilt

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.look import View, look
from inner_tone.core.lens.moment import WHOLE, Span
from inner_tone.core.lens.source import Against, Played
from inner_tone.core.patch.graph import Graph
from tests.support.patches import RATE, module, patch

TAP = "tone.out"


def time(seconds: float) -> Floats:
    return np.arange(round(seconds * RATE)) / RATE


def sines(seconds: float, *parts: tuple[float, float]) -> Floats:
    """Return a sum of sines, each (Hz, amplitude)."""
    return np.asarray(sum(a * np.sin(2 * np.pi * f * time(seconds)) for f, a in parts), dtype=np.float64)


def series(
    fundamental: float,
    amplitude: float = 1.0,
    step: int = 1,
    power: float = 1.0,
    top: float = 20_000.0,
    seconds: float = 1.5,
) -> Floats:
    """Return a harmonic series whose partials fall as 1/n to a power: a saw, with step 2 a square, and so on."""
    parts = [(k * fundamental, amplitude / k**power) for k in range(1, int(top / fundamental) + 1, step)]
    return sines(seconds, *parts)


def low_passed(signal: Floats, cutoff: float, order: int) -> Floats:
    """Return a signal behind SciPy's Butterworth low-pass."""
    return np.asarray(sosfilt(butter(order, cutoff, fs=RATE, output="sos"), signal))


def resonant(signal: Floats, cutoff: float, quality: float) -> Floats:
    """Return a signal behind an analogue resonant low-pass of 12 dB per octave, carried over by SciPy."""
    angle = 2.0 * RATE * np.tan(np.pi * cutoff / RATE)
    b, a = bilinear([angle**2], [1.0, angle / quality, angle**2], RATE)
    return np.asarray(lfilter(b, a, signal))


def peaked(signal: Floats, hertz: float, quality: float, height: float) -> Floats:
    """Return a signal with SciPy's resonator added, so that it is so many times stronger at one frequency."""
    b, a = iirpeak(hertz, quality, RATE)
    return np.asarray(signal + (height - 1.0) * lfilter(b, a, signal))


def noise(exponent: float, seconds: float = 2.0, amplitude: float = 0.1) -> Floats:
    """Return noise whose amplitude goes as frequency to an exponent: 0 is white, -0.5 pink, -1 brown, 0.5 blue."""
    count = round(seconds * RATE)
    bins = np.fft.rfft(np.random.default_rng(7).standard_normal(count))
    places = np.maximum(np.arange(len(bins)), 1)
    found = np.fft.irfft(bins * places**exponent, count)
    return np.asarray(amplitude * found / np.std(found))


def swept(notes: Floats, harmonics: int = 6) -> Floats:
    """Return a tone whose pitch follows MIDI notes, one for each sample."""
    phase = 2.0 * np.pi * np.cumsum(440.0 * 2.0 ** ((notes - 69.0) / 12.0)) / RATE
    return np.asarray(sum(0.4 / k * np.sin(k * phase) for k in range(1, harmonics + 1)))


def shaped(signal: Floats, attack: float, hold: float, release: float, rest: float = 0.3) -> Floats:
    """Return a signal under a straight rise, a hold and a straight fall, then silence."""
    level = np.interp(
        time(attack + hold + release + rest), [0, attack, attack + hold, attack + hold + release], [0, 1, 1, 0]
    )
    return np.resize(signal, len(level)) * level


def scene(signal: Floats, span: Span = WHOLE) -> Played:
    """Return a scene with a signal at the tap of its only module."""
    # begun anew by something, so that its patch does not pretend to know the signal's pitch
    stand_in = patch([module("tone", "oscillator"), module("again", "lfo")], [("again.out", "tone.reset")])
    return Played(Graph(stand_in), {TAP: Sound(signal, RATE)}, span)


def said(view: View, signal: Floats) -> str:
    """Return what a lens says of a signal."""
    return look(view, scene(signal)).sentence


def compared(view: View, signal: Floats, other: Floats) -> str:
    """Return what a lens says of the difference from another signal."""
    return look(view, scene(signal), Against("the other", scene(other))).difference
