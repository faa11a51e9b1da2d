"""The response lens: what a running module makes of what comes in, measured on the module alone.

A filter is led through all frequencies by a sine whose frequency rises exponentially (A. Farina, "Simultaneous
measurement of impulse response and distortion with a swept-sine technique", AES 2000); what comes out, divided by what
went in, is its response. A shaper is led from the lowest value to the highest by a slow sine; an envelope is
opened and closed.
"""

import math
from dataclasses import dataclass

import numpy as np
from scipy.signal import lfilter

from inner_tone.core.analysis import theory
from inner_tone.core.engine.engine import Engine
from inner_tone.core.engine.events import Move, NoteOff, NoteOn
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.modules.shaper import REST_HZ
from inner_tone.core.patch.model import Connection, Module, Patch

RATE = 48_000.0
SWEEP_SAMPLES = 1 << 17
REST_SAMPLES = 1 << 15
SWEEP_LOW_HZ, SWEEP_HIGH_HZ = 8.0, 23_000.0
QUIET = 0.001  # so that what bends the sound does not bend it yet
STEADY_RESONANCE = 0.995
LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
POINTS = 400
PROBE_HZ = 20.0
PROBE_SECONDS = 1.0
COURSE_SAMPLES = 6_000
HOLD_SHARE = 0.25
SHORTEST_S = 0.02


@dataclass(frozen=True)
class Response:
    """A filter's response at frequencies in Hz: gains in dB and phases in degrees, as measured and from theory."""

    frequencies_hz: Floats
    gains_db: Floats
    phases_deg: Floats
    theory_db: Floats
    theory_deg: Floats


@dataclass(frozen=True)
class Curve:
    """An output for each input, or a level for each time in s, as measured and from theory."""

    xs: Floats
    ys: Floats
    theory: Floats
    closing_s: float = 0.0


def steadied(module: Module) -> Module:
    """Return a filter that does not sing by itself."""
    resonance = min(theory.number(module, "resonance"), STEADY_RESONANCE)
    return module.model_copy(update={"settings": module.settings | {"resonance": resonance}})


def filter_response(module: Module) -> Response:
    """Return the response of a filter or a ladder with the settings that it has."""
    module = steadied(module)
    low = 12.0 * math.log2(SWEEP_LOW_HZ / MIDDLE_C_HZ)
    span = 12.0 * math.log2(SWEEP_HIGH_HZ / SWEEP_LOW_HZ)
    patch = Patch(
        modules=(
            Module(id="hand", type="lever", settings={"low": 0, "high": 1}),
            Module(id="tone", type="oscillator", settings={"wave": "sine", "pitch": low}),
            Module(id="probe", type=module.type, settings=module.settings),
        ),
        connections=(
            Connection(source="hand.out", target="tone.pitch", depth=span),
            Connection(source="tone.out", target="probe.in", depth=QUIET),
        ),
    )
    count = SWEEP_SAMPLES + REST_SAMPLES
    engine = Engine(patch, RATE, count, ("tone.out", "probe.out"), measured=False)
    engine.apply(Move("lever:hand", 0.0, 1.0 / SWEEP_SAMPLES))
    engine.advance(count)
    given, answered = (np.array(signal) for signal in engine.tracks.signals)
    fade = 0.5 - 0.5 * np.cos(np.pi * np.clip(np.arange(count)[::-1] / REST_SAMPLES, 0.0, 1.0))
    gains = np.fft.rfft(answered * fade) / (QUIET * np.fft.rfft(given * fade))
    frequencies = np.geomspace(LOWEST_HZ, HIGHEST_HZ, POINTS)
    found = between(gains, frequencies * count / RATE)
    expected = theory.RESPONSES[module.type](module, frequencies, RATE)
    return Response(frequencies, db(found), degrees(found), db(expected), degrees(expected))


def between(gains: theory.Complexes, places: Floats) -> theory.Complexes:
    """Return a response between its bins."""
    grid = np.arange(len(gains))
    found: theory.Complexes = np.interp(places, grid, gains.real) + 1j * np.interp(places, grid, gains.imag)
    return found


def db(gains: theory.Complexes) -> Floats:
    """Return magnitudes in dB."""
    return np.asarray(20.0 * np.log10(np.maximum(np.abs(gains), 1e-9)))


def degrees(gains: theory.Complexes) -> Floats:
    """Return phases in degrees, without jumps by whole turns."""
    return np.asarray(np.degrees(np.unwrap(np.angle(gains))))


def shaper_curve(module: Module) -> Curve:
    """Return a shaper's output for each input from −1 to 1, on the way of a slow sine from its trough to its crest.

    The input is what the same shaper lets through unbent, so that both have the same delay.
    """
    settings = {"mix": 0}
    patch = Patch(
        modules=(
            Module(id="tone", type="oscillator", settings={"wave": "sine", "ratio": PROBE_HZ / MIDDLE_C_HZ}),
            Module(id="probe", type=module.type, settings=module.settings),
            Module(id="unbent", type=module.type, settings=settings),
        ),
        connections=tuple(Connection(source="tone.out", target=f"{name}.in") for name in ("probe", "unbent")),
    )
    count = round(PROBE_SECONDS * RATE)
    engine = Engine(patch, RATE, count, ("unbent.out", "probe.out"), measured=False)
    engine.advance(count)
    given, answered = (np.array(signal) for signal in engine.tracks.signals)
    if module.all_settings["curve"] == "harmonic":
        answered = unrested(answered)
    trough = (
        count
        - 2 * round(RATE / PROBE_HZ)
        + int(np.argmin(given[-2 * round(RATE / PROBE_HZ) : -round(RATE / PROBE_HZ)]))
    )
    places = trough + np.linspace(0, round(0.5 * RATE / PROBE_HZ), POINTS).astype(int)
    xs = given[places]
    return Curve(xs, answered[places], theory.shaper_curve(module, xs))


def unrested(answered: Floats) -> Floats:
    """Return a harmonic without the slow high-pass behind its curve, whose ripple the curve does not have.

    Its inverse is an integrator, so it is only known up to a constant: the mean of a cycle is put at zero.
    """
    kept = math.exp(-2.0 * math.pi * REST_HZ / RATE)
    found = lfilter([1.0, -kept], [kept, -kept], answered)
    cycle = round(RATE / PROBE_HZ)
    return np.asarray(found - np.mean(found[-cycle:]))


def envelope_course(module: Module) -> Curve:
    """Return the course of an envelope whose gate stays open through attack, decay and a while of sustain."""
    attack, decay, release = (theory.number(module, name) for name in ("attack", "decay", "release"))
    stages = str(module.all_settings["stages"])
    rising = attack + (decay if stages != "attack-release" else 0.0)
    after = release if stages != "attack-decay" else 0.0
    closing = rising + max(SHORTEST_S, HOLD_SHARE * (rising + after))
    total = max(closing + after, SHORTEST_S) * 1.06
    rate = COURSE_SAMPLES / total
    patch = Patch(
        modules=(Module(id="player", type="player"), Module(id="probe", type=module.type, settings=module.settings)),
        connections=(Connection(source="player.gate", target="probe.gate"),),
    )
    engine = Engine(patch, rate, COURSE_SAMPLES, ("probe.out",), measured=False)
    engine.apply(NoteOn(0.0, 1.0))
    closes = min(COURSE_SAMPLES, round(closing * rate))
    engine.advance(closes)
    engine.apply(NoteOff(0.0))
    engine.advance(COURSE_SAMPLES - closes)
    places = np.linspace(0, COURSE_SAMPLES - 1, 2 * POINTS).astype(int)
    xs = places / rate
    ys = np.array(engine.tracks.signals[0])[places]
    return Curve(xs, ys, theory.envelope_course(module, xs, closes / rate), closes / rate)
