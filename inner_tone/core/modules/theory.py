"""What the textbook can say of a type of module: a response, a curve or a course, as a function of its settings.

Each type that has one declares it in its own file. Nothing here runs a module; what is measured on the running one is
in `analysis.response`.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

LOWEST_CUTOFF_HZ, HIGHEST_CUTOFF_HZ = 5.0, 22_000.0

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
Settings = Mapping[str, Any]  # all settings of a module, defaults included


def cutoff_hz(settings: Settings) -> float:
    """Return where a filter with a cutoff begins to take away."""
    moved = float(settings["cutoff"]) + float(settings.get("linear", 0.0))
    return min(HIGHEST_CUTOFF_HZ, max(LOWEST_CUTOFF_HZ, moved))


@dataclass(frozen=True)
class ResponseTheory:
    """What a linear module makes of each frequency: of its settings, frequencies in Hz and the sampling rate in Hz.

    A complex gain, 1 lets all pass. People read it by a `landmark`, which lies at a frequency; `across` is the setting
    that moves it, if one does so by itself. `ring` is the setting by which it rings the longer, and `steady` how far it
    may go so that the ringing dies away while it is measured. Where the response is a row of teeth, `spacing_hz` says
    how far they stand apart. An output beside the main one responds as the module would with other settings: `beside`
    says which, by the output's name.
    """

    response: Callable[[Settings, Floats, float], Complexes]
    landmark: str = "cutoff"
    landmark_hz: Callable[[Settings], float] = cutoff_hz
    across: str | None = "cutoff"
    ring: str = "resonance"
    steady: float = 0.99
    spacing_hz: Callable[[Settings], float] | None = None
    beside: Mapping[str, Settings] = field(default_factory=dict)

    def response_at(self, output: str, settings: Settings, frequencies_hz: Floats, rate: float) -> Complexes:
        """Return the response at one of a module's outputs."""
        return self.response({**settings, **self.beside.get(output, {})}, frequencies_hz, rate)


@dataclass(frozen=True)
class CurveTheory:
    """What a memoryless module makes of each value, of its settings and the values.

    `rest_hz` says of the settings up to which frequency what stands still is taken from the output, 0 if it is not.
    `plain` are the settings with which it lets everything through unbent.
    """

    curve: Callable[[Settings, Floats], Floats]
    rest_hz: Callable[[Settings], float]
    plain: Settings


@dataclass(frozen=True)
class Stages:
    """The stages of a course as they are set: times in s, None for a stage that it does not go through.

    `level` is where it stays while the gate is open: 0 where it does not stay. Without a release it does not wait for
    the gate to close. Straight stages go evenly, others fast first.
    """

    attack_s: float
    decay_s: float | None
    level: float
    release_s: float | None
    straight: bool

    @property
    def rising_s(self) -> float:
        """How long it takes until it stays where it is."""
        return self.attack_s + (self.decay_s or 0.0)


@dataclass(frozen=True)
class CourseTheory:
    """How a module goes when its gate opens at 0 s and closes: of its settings, times in s, and the closing in s.

    `stages` says of its settings through which stages it goes; `gone` how much of its way a stage has gone at a
    progress of 0 to 1, straight or not.
    """

    course: Callable[[Settings, Floats, float], Floats]
    stages: Callable[[Settings], Stages]
    gone: Callable[[float, bool], float]


Theory = ResponseTheory | CurveTheory | CourseTheory


def analogue_turns(frequencies_hz: Floats, rate: float) -> Complexes:
    """Return z⁻¹ at frequencies in Hz."""
    found: Complexes = np.exp(-2j * np.pi * frequencies_hz / rate)
    return found


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
    and at the ends: M. Vicanek, "Matched second order digital filters", 2016.
    """
    half = 0.5 * damping
    a1 = -2.0 * math.exp(-half * angle) * math.cos(math.sqrt(1.0 - half * half) * angle)
    a2 = math.exp(-2.0 * half * angle)
    b = zeros(angle, damping, mode, a1, a2)
    found: Complexes = (b[0] + b[1] * turns + b[2] * turns**2) / (1.0 + a1 * turns + a2 * turns**2)
    return found


def zeros(angle: float, damping: float, mode: str, a1: float, a2: float) -> tuple[float, float, float]:
    """Return the numerator of a second-order section whose denominator is 1 + a1 z⁻¹ + a2 z⁻²."""
    big0, big1, big2 = (1.0 + a1 + a2) ** 2, (1.0 - a1 + a2) ** 2, -4.0 * a2
    phi1 = math.sin(angle / 2.0) ** 2
    phi0 = 1.0 - phi1
    bottom = big0 * phi0 + big1 * phi1 + big2 * 4.0 * phi0 * phi1
    if mode == "lowpass":
        at_dc = math.sqrt(big0)
        b0 = 0.5 * (at_dc + math.sqrt(max(0.0, (bottom / damping**2 - big0 * phi0) / phi1)))
        return b0, at_dc - b0, 0.0
    if mode == "highpass":
        b0 = math.sqrt(bottom) / (4.0 * phi1 * damping)
        return b0, -2.0 * b0, b0
    if mode == "bandpass":
        slope = -big0 + big1 + 4.0 * (phi0 - phi1) * big2
        top2 = (bottom - slope * phi1) / (4.0 * phi1 * phi1)
        b1 = -0.5 * math.sqrt(max(0.0, slope + 4.0 * (phi1 - phi0) * top2))
        b0 = 0.5 * (math.sqrt(max(0.0, top2 + b1 * b1)) - b1)
        return b0, b1, -b0 - b1
    b0 = math.sqrt(big0) / (2.0 - 2.0 * math.cos(angle))  # a notch: zeros on the circle at the cutoff, level at 0 Hz
    return b0, -2.0 * b0 * math.cos(angle), b0


def chebyshev(values: Floats, order: float) -> Floats:
    """Return Chebyshev's polynomial of the first kind, which makes cos nφ of cos φ."""
    return np.asarray(np.cos(order * np.arccos(np.clip(values, -1.0, 1.0))))
