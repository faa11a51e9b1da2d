"""The response lens: what a running module makes of what comes in, measured on the module alone.

A filter is led through all frequencies by a sine whose frequency rises exponentially (A. Farina, "Simultaneous
measurement of impulse response and distortion with a swept-sine technique", AES 2000); what comes out, divided by what
went in, is its response. A shaper is led from the lowest value to the highest by a slow sine; an envelope is
opened and closed.
"""

import math
from dataclasses import dataclass, replace

import numpy as np
import scipy

from inner_tone.core.arrays import Floats
from inner_tone.core.engine import probe
from inner_tone.core.engine.probe import Path
from inner_tone.core.modules.theory import Complexes, CourseTheory, CurveTheory, ResponseTheory
from inner_tone.core.patch.model import Module
from inner_tone.core.patch.port import Port

RATE = 48_000.0
SWEEP_SAMPLES = 1 << 17
REST_SAMPLES = 1 << 15
SWEEP_LOW_HZ, SWEEP_HIGH_HZ = 8.0, 23_000.0
QUIET = 0.001  # so that what bends the sound does not bend it yet
LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
POINTS = 400
PROBE_HZ = 20.0
PROBE_SECONDS = 1.0
COURSE_SAMPLES = 6_000
HOLD_SHARE = 0.25
SHORTEST_S = 0.02


@dataclass(frozen=True)
class Response:
    """A response at frequencies in Hz: gains in dB and phases in degrees, as measured; from theory, if there is one."""

    frequencies_hz: Floats
    gains_db: Floats
    phases_deg: Floats
    theory_db: Floats | None
    theory_deg: Floats | None


@dataclass(frozen=True)
class Curve:
    """An output for each input, or a level for each time in s, as measured and from theory."""

    xs: Floats
    ys: Floats
    theory: Floats
    closing_s: float = 0.0


def steadied(module: Module, theory: ResponseTheory) -> Module:
    """Return a filter that does not sing by itself, nor ring for longer than can be waited for."""
    ring = max(-theory.steady, min(theory.steady, module.number(theory.ring)))
    return probe.with_settings(module, {theory.ring: ring})


def filter_response(module: Module, output: str = "out") -> Response:
    """Return the response at an output of a filter with the settings that it has, beside its theory."""
    theory = module.declaration.theory
    assert isinstance(theory, ResponseTheory), module.type
    steady = steadied(module, theory)
    ways = tuple(Port.of(module.id, port.name) for port in module.declaration.ways)
    found = path_response(Path((steady,), (), ways, Port.of(module.id, output)))
    expected = theory.response_at(output, steady.all_settings, found.frequencies_hz, RATE)
    return replace(found, theory_db=db(expected), theory_deg=degrees(expected))


def path_response(path: Path) -> Response:
    """Return the response of a path of modules from where sound enters to where it leaves."""
    modules = tuple(
        steadied(one, one.declaration.theory) if isinstance(one.declaration.theory, ResponseTheory) else one
        for one in path.modules
    )
    count = SWEEP_SAMPLES + REST_SAMPLES
    steady = replace(path, modules=modules)
    given, answered = probe.swept(steady, RATE, QUIET, SWEEP_LOW_HZ, SWEEP_HIGH_HZ, SWEEP_SAMPLES, count)
    fade = 0.5 - 0.5 * np.cos(np.pi * np.clip(np.arange(count)[::-1] / REST_SAMPLES, 0.0, 1.0))
    gains = np.fft.rfft(answered * fade) / np.fft.rfft(given * fade)
    frequencies = np.geomspace(LOWEST_HZ, HIGHEST_HZ, POINTS)
    found = between(gains, frequencies * count / RATE)
    return Response(frequencies, db(found), degrees(found), None, None)


def between(gains: Complexes, places: Floats) -> Complexes:
    """Return a response between its bins."""
    grid = np.arange(len(gains))
    found: Complexes = np.interp(places, grid, gains.real) + 1j * np.interp(places, grid, gains.imag)
    return found


def db(gains: Complexes) -> Floats:
    """Return magnitudes in dB."""
    return np.asarray(20.0 * np.log10(np.maximum(np.abs(gains), 1e-9)))


def degrees(gains: Complexes) -> Floats:
    """Return phases in degrees, without jumps by whole turns."""
    return np.asarray(np.degrees(np.unwrap(np.angle(gains))))


def shaper_curve(module: Module) -> Curve:
    """Return a shaper's output for each input from −1 to 1, on the way of a slow sine from its trough to its crest.

    The input is what the same shaper lets through unbent, so that both have the same delay.
    """
    theory = module.declaration.theory
    assert isinstance(theory, CurveTheory), module.type
    count, cycle = round(PROBE_SECONDS * RATE), round(RATE / PROBE_HZ)
    given, answered = probe.toned(module, theory.plain, RATE, PROBE_HZ, count)
    rest_hz = theory.rest_hz(module.all_settings)
    if rest_hz:
        answered = unrested(answered, rest_hz)
    trough = count - 2 * cycle + int(np.argmin(given[-2 * cycle : -cycle]))
    places = trough + np.linspace(0, round(0.5 * RATE / PROBE_HZ), POINTS).astype(int)
    xs = given[places]
    return Curve(xs, answered[places], theory.curve(module.all_settings, xs))


def unrested(answered: Floats, rest_hz: float) -> Floats:
    """Return a harmonic without the slow high-pass behind its curve, whose ripple the curve does not have.

    Its inverse is an integrator, so it is only known up to a constant: the mean of a cycle is put at zero.
    """
    kept = math.exp(-2.0 * math.pi * rest_hz / RATE)
    found = scipy.signal.lfilter([1.0, -kept], [kept, -kept], answered)
    cycle = round(RATE / PROBE_HZ)
    return np.asarray(found - np.mean(found[-cycle:]))


def envelope_course(module: Module) -> Curve:
    """Return the course of an envelope whose gate stays open through attack, decay and a while of sustain."""
    theory = module.declaration.theory
    assert isinstance(theory, CourseTheory), module.type
    stages = theory.stages(module.all_settings)
    rising, after = stages.rising_s, stages.release_s or 0.0
    closing = rising + max(SHORTEST_S, HOLD_SHARE * (rising + after))
    total = max(closing + after, SHORTEST_S) * 1.06
    rate = COURSE_SAMPLES / total
    closes = min(COURSE_SAMPLES, round(closing * rate))
    course = probe.gated(module, rate, closes, COURSE_SAMPLES)
    places = np.linspace(0, COURSE_SAMPLES - 1, 2 * POINTS).astype(int)
    xs = places / rate
    return Curve(xs, course[places], theory.course(module.all_settings, xs, closes / rate), closes / rate)
