"""Slow regular movements: the one sinusoid that explains most of a course, even where it turns only once or twice."""

from dataclasses import dataclass

import numpy as np
import scipy

from inner_tone.core.arrays import Floats

FINER = 8  # times as many rates are tried as there are bins


@dataclass(frozen=True)
class Swing:
    """A movement: how often a second, its amplitude, how often it turns in all, and how much of the course it is."""

    rate_hz: float
    amplitude: float
    turns: float
    share: float


def strongest_swing(course: Floats, step_s: float, slowest_hz: float, fastest_hz: float) -> Swing | None:
    """Return the strongest movement of a course, shape (n,), between two rates, or None if it does not move at all.

    Least squares with a sinusoid, a constant and a slope, over a grid of rates and then between them: the periodogram
    of N. R. Lomb, "Least-squares frequency analysis of unequally spaced data", 1976, with a floating mean.
    """
    count = len(course)
    even = course - np.polyval(np.polyfit(np.arange(count), course, 1), np.arange(count))
    whole = float(np.sum(even**2))
    size = FINER * count
    rates = np.fft.rfftfreq(size, step_s)
    allowed = np.flatnonzero((rates >= slowest_hz) & (rates <= fastest_hz))
    if whole <= 0.0 or len(allowed) == 0:
        return None
    powers = np.abs(np.fft.rfft(even, size))[allowed]
    near = float(rates[allowed[np.argmax(powers)]])
    width = 1.0 / (count * step_s)
    bounds = (max(slowest_hz, near - 0.7 * width), min(fastest_hz, near + 0.7 * width))
    best = scipy.optimize.minimize_scalar(lambda rate: left(course, step_s, rate)[0], bounds=bounds, method="bounded")
    rest, amplitude = left(course, step_s, float(best.x))
    return Swing(float(best.x), amplitude, float(best.x) / width, 1.0 - rest / whole)


def left(course: Floats, step_s: float, rate_hz: float) -> tuple[float, float]:
    """Return the power that a sinusoid of a rate, a constant and a slope leave of a course, and its amplitude."""
    time = step_s * np.arange(len(course))
    turn = 2.0 * np.pi * rate_hz * time
    columns = np.stack([np.cos(turn), np.sin(turn), np.ones_like(time), time], axis=1)
    found = np.linalg.lstsq(columns, course, rcond=None)[0]
    return float(np.sum((course - columns @ found) ** 2)), float(np.hypot(found[0], found[1]))
