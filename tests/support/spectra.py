"""Measures spectra by a road of its own: SciPy's windows and sums over sinusoids, not the product's lenses."""

from collections.abc import Iterable
from functools import lru_cache

import numpy as np
from scipy.signal import windows

from inner_tone.core.arrays import Floats

KAISER = 24.0
MAIN_LOBE_BINS = 9.0


@lru_cache(maxsize=8)
def window(size: int) -> Floats:
    """Return a window whose side lobes lie below -170 dB."""
    return np.asarray(windows.kaiser(size, KAISER, sym=False), dtype=np.float64)


def amplitude(signal: Floats, rate: float, frequency_hz: float) -> float:
    """Return the amplitude of a sinusoid of known frequency within a signal."""
    weights = window(len(signal))
    turns = np.exp(-2j * np.pi * frequency_hz / rate * np.arange(len(signal)))
    return float(2.0 * np.abs(np.dot(signal * weights, turns)) / np.sum(weights))


def level_db(signal: Floats, rate: float, frequency_hz: float) -> float:
    """Return the level of a sinusoid of known frequency, 0 dB for an amplitude of 1."""
    return float(20.0 * np.log10(max(amplitude(signal, rate, frequency_hz), 1e-15)))


def residue_db(signal: Floats, rate: float, partials_hz: Iterable[float], low: float, high: float) -> float:
    """Return the level of the strongest line between two frequencies that is none of the partials."""
    weights = window(len(signal))
    bins = np.abs(np.fft.rfft(signal * weights)) * 2.0 / np.sum(weights)
    width = rate / len(signal)
    frequencies = np.arange(len(bins)) * width
    counted = (frequencies >= low) & (frequencies <= high)
    for partial in partials_hz:
        counted &= np.abs(frequencies - partial) > MAIN_LOBE_BINS * width
    return float(20.0 * np.log10(np.max(bins[counted])))


def phase_slope_hz(signal: Floats, rate: float, near_hz: float) -> float:
    """Return a sinusoid's frequency from the turn of its phase between the first and the last half second."""
    span = round(0.5 * rate)
    first = turned(signal[:span], rate, near_hz, 0)
    last = turned(signal[-span:], rate, near_hz, len(signal) - span)
    seconds = (len(signal) - span) / rate
    turn = (np.angle(last) - np.angle(first) + np.pi) % (2.0 * np.pi) - np.pi
    return float(near_hz + turn / (2.0 * np.pi * seconds))


def turned(passage: Floats, rate: float, frequency_hz: float, start: int) -> complex:
    """Return the complex amplitude of a passage against a sinusoid that began at sample 0."""
    weights = window(len(passage))
    turns = np.exp(-2j * np.pi * frequency_hz / rate * (start + np.arange(len(passage))))
    return complex(np.dot(passage * weights, turns))
