"""How a cycle runs: the frequency at which an oscillator's phase really moves, and how far ahead of an even run it is.

Frequency modulation adds hertz to the frequency, phase modulation adds radians to the phase; both are heard through the
same thing, the instantaneous frequency: the phase's speed, f = (1/2π) dφ/dt (J. M. Chowning, "The synthesis of complex
audio spectra by means of frequency modulation", JAES 21, 1973). The wave alone does not show it.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.tuning import frequency_hz

NOTHING = np.zeros(0)


@dataclass(frozen=True)
class Running:
    """The run of a cycle at each sample, shapes (n,).

    `frequencies_hz` is the instantaneous frequency; `ahead_rad` is how far the phase is ahead of a cycle that runs
    evenly at `rest_hz`, which is the frequency that the pitch has in the middle, with nothing added.
    """

    frequencies_hz: Floats
    ahead_rad: Floats
    rest_hz: float


def has_cycle(module: Module | None) -> bool:
    """Tell whether a module repeats a cycle that can be moved in every way."""
    return module is not None and all(movers(module))


def movers(module: Module) -> tuple[str, str, str]:
    """Return the inputs that move a cycle: in semitones, in hertz, in radians; "" for one that is not there."""
    declared = module.declaration
    pitch = next((port.name for port in declared.inputs if port.part == "pitch"), "")
    return pitch, declared.named("hertz"), declared.named("phase")


def running(module: Module, signals: Mapping[str, Floats], rate: float, count: int) -> Running:
    """Return how a module's cycle runs.

    Parameters
    ----------
    module
        One that has a cycle.
    signals
        What comes in at those of its movers that are connected, in semitones, Hz and radians, shapes (count,).
    rate
        The sampling rate in Hz.
    count
        How many samples.
    """
    pitch, linear, turns = (
        signals[name] if name in signals else np.full(count, module.number(name)) for name in movers(module)
    )
    if count == 0:
        return Running(NOTHING, NOTHING, 0.0)
    rest_hz = frequency_hz(module, np.array([np.median(pitch)]))[0]
    turned_hz = np.diff(turns, append=turns[-1:]) * rate / (2.0 * np.pi)
    frequencies = frequency_hz(module, pitch) + linear + turned_hz
    steps = 2.0 * np.pi * (frequencies - rest_hz) / rate
    ahead = np.concatenate([[0.0], np.cumsum(steps[:-1])]) + turns[0]
    return Running(frequencies, ahead, float(rest_hz))


def centred(ahead_rad: Floats) -> Floats:
    """Return how far a phase swings to both sides of its middle, what grows steadily left out."""
    if len(ahead_rad) < 2:
        return ahead_rad
    places = np.linspace(-1.0, 1.0, len(ahead_rad))
    return np.asarray(ahead_rad - np.polyval(np.polyfit(places, ahead_rad, 1), places))
