"""What the textbook says that a module does: the responses of filters, the curves of shapers, the shape of envelopes.

Nothing here runs a module; what is measured on the running one is in `response`.
"""

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.modules.envelope import BEND
from inner_tone.core.modules.filter import BUTTERWORTH_2, BUTTERWORTH_4_BROAD, BUTTERWORTH_4_SHARP, LEAST_DAMPING
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.ladder import EDGE_OF_SONG
from inner_tone.core.patch.model import Module

Complexes = NDArray[np.complex128]


def number(module: Module, name: str) -> float:
    """Return a setting that is a number."""
    value = module.all_settings[name]
    assert isinstance(value, int | float)
    return float(value)


def filter_response(module: Module, frequencies_hz: Floats, rate: float) -> Complexes:
    """Return the response of a filter at frequencies in Hz: complex, 1 lets all pass.

    Butterworth's where the resonance is 0 (S. Butterworth, "On the theory of filter amplifiers", 1930); resonance r
    leaves the sharpest section a damping 1/Q of (1 - r) times Butterworth's. Carried over to a sampling rate as
    M. Vicanek has it: "Matched second order digital filters", 2016.
    """
    turns = np.exp(-2j * np.pi * frequencies_hz / rate)
    angle = 2.0 * math.pi * number(module, "cutoff") / rate
    mode, slope = str(module.all_settings["mode"]), int(number(module, "slope"))
    if slope == 6 and mode in ("lowpass", "highpass"):
        return single_pole(turns, angle, mode)
    left = max(1.0 - number(module, "resonance"), LEAST_DAMPING)
    if slope == 24:
        return section(turns, angle, BUTTERWORTH_4_BROAD, mode) * section(
            turns, angle, BUTTERWORTH_4_SHARP * left, mode
        )
    return section(turns, angle, BUTTERWORTH_2 * left, mode)


def single_pole(turns: Complexes, angle: float, mode: str) -> Complexes:
    """Return the response of a first-order section at z⁻¹ = turns: right at 0 Hz and at the cutoff."""
    pole = math.exp(-angle)
    at_cutoff = abs(1.0 - pole * np.exp(-1j * angle)) ** 2 / 2.0
    sine2 = math.sin(angle / 2.0) ** 2
    if mode == "highpass":
        b0 = math.sqrt(at_cutoff / (4.0 * sine2))
        b1 = -b0
    else:
        at_top = math.sqrt(max(0.0, (at_cutoff - (1.0 - pole) ** 2 * (1.0 - sine2)) / sine2))
        b0 = 0.5 * (1.0 - pole + at_top)
        b1 = 1.0 - pole - b0
    found: Complexes = (b0 + b1 * turns) / (1.0 - pole * turns)
    return found


def section(turns: Complexes, angle: float, damping: float, mode: str) -> Complexes:
    """Return the response of a second-order section with a damping of 1/Q at z⁻¹ = turns.

    The poles are those of the analogue section, sampled; the zeros are set so that the magnitude is right at the cutoff
    and at the ends.
    """
    half = 0.5 * damping
    a1 = -2.0 * math.exp(-half * angle) * math.cos(math.sqrt(1.0 - half * half) * angle)
    a2 = math.exp(-2.0 * half * angle)
    big0, big1, big2 = (1.0 + a1 + a2) ** 2, (1.0 - a1 + a2) ** 2, -4.0 * a2
    phi1 = math.sin(angle / 2.0) ** 2
    phi0 = 1.0 - phi1
    phi2 = 4.0 * phi0 * phi1
    bottom = big0 * phi0 + big1 * phi1 + big2 * phi2
    if mode == "lowpass":
        at_dc = math.sqrt(big0)
        b0 = 0.5 * (at_dc + math.sqrt(max(0.0, (bottom / damping**2 - big0 * phi0) / phi1)))
        b = (b0, at_dc - b0, 0.0)
    elif mode == "highpass":
        b0 = math.sqrt(bottom) / (4.0 * phi1 * damping)
        b = (b0, -2.0 * b0, b0)
    elif mode == "bandpass":
        slope = -big0 + big1 + 4.0 * (phi0 - phi1) * big2
        top2 = (bottom - slope * phi1) / (4.0 * phi1 * phi1)
        b1 = -0.5 * math.sqrt(max(0.0, slope + 4.0 * (phi1 - phi0) * top2))
        b0 = 0.5 * (math.sqrt(max(0.0, top2 + b1 * b1)) - b1)
        b = (b0, b1, -b0 - b1)
    else:  # a notch: zeros on the circle at the cutoff, level at 0 Hz
        b0 = math.sqrt(big0) / (2.0 - 2.0 * math.cos(angle))
        b = (b0, -2.0 * b0 * math.cos(angle), b0)
    found: Complexes = (b[0] + b[1] * turns + b[2] * turns**2) / (1.0 + a1 * turns + a2 * turns**2)
    return found


def ladder_response(module: Module, frequencies_hz: Floats, rate: float) -> Complexes:
    """Return the response of a ladder to a small sound, at frequencies in Hz: poles in a row, the last led back.

    V. Zavalishin, "The art of VA filter design", 2012, chapter 5. The rungs are trapezoidal integrators, so s goes
    by the tangent of half the angle.
    """
    s = 1j * np.tan(np.pi * frequencies_hz / rate) / math.tan(math.pi * number(module, "cutoff") / rate)
    rung = 1.0 / (1.0 + s)
    feedback = EDGE_OF_SONG * number(module, "resonance")
    gain = 10.0 ** (number(module, "drive") / 20.0)
    found: Complexes = gain * rung ** int(number(module, "poles")) / (1.0 + feedback * rung**4)
    return found


RESPONSES: dict[str, Callable[[Module, Floats, float], Complexes]] = {
    "filter": filter_response,
    "ladder": ladder_response,
}


def shaper_curve(module: Module, values: Floats) -> Floats:
    """Return what a shaper's curve makes of each value, its bias and mix counted in."""
    bias = number(module, "bias")
    moved = 10.0 ** (number(module, "drive") / 20.0) * values + bias
    curve = str(module.all_settings["curve"])
    if curve == "harmonic":
        made = chebyshev(moved, number(module, "harmonic"))
        made = made - float(np.mean(chebyshev(moved_by_sine(module), number(module, "harmonic"))))
    else:
        made = bent(moved, curve) - bent(np.array([bias]), curve)[0]
    mix = number(module, "mix")
    return np.asarray((1.0 - mix) * values + mix * made)


def moved_by_sine(module: Module) -> Floats:
    """Return where a sine of full scale leads along the curve; what stands still on the way is not let through."""
    turns = 2.0 * np.pi * np.arange(1024) / 1024
    return np.asarray(10.0 ** (number(module, "drive") / 20.0) * np.sin(turns) + number(module, "bias"))


def chebyshev(values: Floats, order: float) -> Floats:
    """Return Chebyshev's polynomial of the first kind, which makes cos nφ of cos φ."""
    return np.asarray(np.cos(order * np.arccos(np.clip(values, -1.0, 1.0))))


def bent(values: Floats, curve: str) -> Floats:
    """Return the values of the soft curve, of the one with corners, or of the folded one."""
    if curve == "soft":
        return np.asarray(values / np.sqrt(1.0 + values**2))
    if curve == "hard":
        return np.clip(values, -1.0, 1.0)
    return np.asarray(2.0 / np.pi * np.arcsin(np.sin(0.5 * np.pi * values)))


def envelope_course(module: Module, times_s: Floats, closing_s: float) -> Floats:
    """Return the level of an envelope whose gate opens at 0 s and closes at `closing_s`, at times in s."""
    stages = str(module.all_settings["stages"])
    attack, decay, release = (max(number(module, name), 1e-9) for name in ("attack", "decay", "release"))
    foot = {"attack-decay": 0.0, "attack-release": 1.0}.get(stages, number(module, "sustain"))

    def opened(at: Floats) -> Floats:
        falling = foot + (1.0 - foot) * (1.0 - gone(module, (at - attack) / decay))
        return np.where(at < attack, gone(module, at / attack), falling)

    if stages == "attack-decay":
        return opened(times_s)
    left = float(opened(np.array([closing_s]))[0])
    return np.where(times_s < closing_s, opened(times_s), left * (1.0 - gone(module, (times_s - closing_s) / release)))


def gone(module: Module, progress: Floats) -> Floats:
    """Return how much of its way a stage has gone at a progress of 0 to 1: straight, or as a capacitor charges."""
    progress = np.clip(progress, 0.0, 1.0)
    if module.all_settings["curve"] == "linear":
        return progress
    return np.asarray((1.0 - np.exp(-BEND * progress)) / (1.0 - math.exp(-BEND)))
