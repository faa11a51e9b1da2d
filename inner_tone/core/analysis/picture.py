"""Small pictures of what a module does by itself: made by running its own kernel, so they cannot be wrong.

An envelope is opened and closed, a filter is struck by an impulse, an oscillator goes through one cycle, a shaper
is led from −1 to 1. Handles are the points by which settings can be dragged.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from inner_tone.core.analysis.response import steadied
from inner_tone.core.arrays import Floats
from inner_tone.core.engine import probe
from inner_tone.core.modules.declaration import PictureKind
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.modules.theory import ResponseTheory
from inner_tone.core.patch.model import Module, Setting
from inner_tone.core.patch.tuning import pitch_of, stages_of
from inner_tone.core.units import trimmed, with_unit

POINTS = 240
RATE = 48_000.0
CYCLE_HZ = 100.0
ENVELOPE_SAMPLES = 4_000
HOLD_SHARE = 0.2
SHORTEST_S = 0.02
IMPULSE_SAMPLES = 1 << 13
IMPULSE = 0.01  # small, so that what bends the sound does not bend it yet
LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0
LOWEST_DB, HIGHEST_DB = -42.0, 24.0
SWEEP_SAMPLES = 9_600


@dataclass(frozen=True)
class Handle:
    """A point that can be dragged.

    `moves_x` is the setting whose value is the distance on the x axis from `origin_x`; `moves_y` the one that
    moves along its own ruler as the point is dragged up and down.
    """

    x: float
    y: float
    moves_x: str | None = None
    moves_y: str | None = None
    origin_x: float = 0.0
    words: str = ""


@dataclass(frozen=True)
class Picture:
    """A curve with its axes and handles; `kind` is empty where a type has no picture."""

    kind: PictureKind = ""
    sentence: str = ""
    x_low: float = 0.0
    x_high: float = 1.0
    x_log: bool = False
    y_low: float = -1.0
    y_high: float = 1.0
    xs: Floats = field(default_factory=lambda: np.zeros(0))
    ys: Floats = field(default_factory=lambda: np.zeros(0))
    handles: tuple[Handle, ...] = ()


def picture(module: Module) -> Picture:
    """Return the small picture of a module, with the settings that it has."""
    kind = module.declaration.picture
    return PICTURES[kind](module) if kind else Picture()


def thinned(xs: Floats, ys: Floats) -> tuple[Floats, Floats]:
    """Return as many points of a curve as a small picture can show, evenly spread."""
    places = np.unique(np.linspace(0, len(xs) - 1, min(len(xs), 2 * POINTS)).astype(int))
    return xs[places], ys[places]


def course(module: Module) -> Picture:
    """Return the course of an envelope whose gate is open through attack, decay and a while of sustain."""
    declared, stages = module.declaration, stages_of(module)
    rising, after = stages.rising_s, stages.release_s or 0.0
    hold = max(SHORTEST_S, HOLD_SHARE * (rising + after)) if stages.release_s is not None else 0.0
    total = max(rising + hold + after, SHORTEST_S) * 1.04
    rate = ENVELOPE_SAMPLES / total
    closing = min(ENVELOPE_SAMPLES, round((rising + hold) * rate))
    xs, ys = thinned(np.arange(ENVELOPE_SAMPLES) / rate, probe.gated(module, rate, closing, ENVELOPE_SAMPLES))
    handles = [Handle(stages.attack_s, 1.0, declared.named("attack"), words="End of the attack")]
    said = f"Rises in {with_unit(stages.attack_s, 's')}"
    if stages.decay_s is not None:
        moves = declared.named("sustain") if stages.release_s is not None else None
        end = Handle(rising, stages.level, declared.named("decay"), moves, stages.attack_s, "End of the decay")
        handles.append(end)
        said += f", falls to {trimmed(stages.level)} in {with_unit(stages.decay_s, 's')}"
    if after:
        closes = rising + hold
        handles.append(Handle(closes + after, 0.0, declared.named("release"), None, closes, "End of the release"))
    said += f", and to zero in {with_unit(after, 's')} when the gate closes." if after else "."
    return Picture("course", said, 0.0, total, False, -0.04, 1.08, xs, ys, tuple(handles))


def response(module: Module) -> Picture:
    """Return the response in dB of a filter that is struck by a small impulse."""
    theory = module.declaration.theory
    assert isinstance(theory, ResponseTheory), module.type
    signals = probe.struck(steadied(module, theory), RATE, IMPULSE, IMPULSE_SAMPLES)
    given, answered = (np.abs(np.fft.rfft(signal)) for signal in signals)
    frequencies = np.fft.rfftfreq(IMPULSE_SAMPLES, 1.0 / RATE)
    xs = np.geomspace(LOWEST_HZ, HIGHEST_HZ, POINTS)
    gains = np.interp(xs, frequencies, answered / np.maximum(given, 1e-12))
    ys = np.clip(20.0 * np.log10(np.maximum(gains, 1e-9)), LOWEST_DB, HIGHEST_DB)
    landmark = theory.landmark_hz(module.all_settings)
    level = float(np.interp(landmark, xs, ys))
    said = f"{trimmed(level, 2)} dB at the {theory.landmark} of {with_unit(landmark, 'Hz')}."
    words = f"{theory.landmark.capitalize()} and {theory.ring}"
    handle = Handle(landmark, level, theory.across, theory.ring, words=words)
    return Picture("response", said, LOWEST_HZ, HIGHEST_HZ, True, LOWEST_DB, HIGHEST_DB, xs, ys, (handle,))


def cycle(module: Module) -> Picture:
    """Return one cycle of a source, as it is at a low pitch."""
    declared = module.declaration
    plain = dict.fromkeys([*declared.tunings, declared.named("hertz"), declared.named("offset")], 0.0)
    if declared.named("ratio"):
        low = {declared.named("ratio"): CYCLE_HZ / MIDDLE_C_HZ}
    else:
        low = {pitch_of(module).name: 12.0 * math.log2(CYCLE_HZ / MIDDLE_C_HZ)}
    count = round(RATE / CYCLE_HZ) + 1
    ys = probe.free(probe.with_settings(module, plain | low), RATE, count)
    top = max(1.0, float(np.max(np.abs(ys)))) * 1.05
    wave = str(module.all_settings.get(declared.named("wave"), ""))
    width = declared.inputs_by_name.get(declared.named("width"))
    handles: tuple[Handle, ...] = ()
    if width is not None and declared.works(width, module.all_settings):
        handles = (Handle(module.number(width.name), 0.0, width.name, words="Width of the pulse"),)
    said = f"One cycle of {'the ' + wave if wave else 'the harmonics together'}."
    return Picture("cycle", said, 0.0, 1.0, False, -top, top, np.linspace(0.0, 1.0, count), ys, handles)


def movement(module: Module) -> Picture:
    """Return two movements of an LFO, or eight of a random one."""
    declared = module.declaration
    wave, rate, lock = (declared.named(role) for role in ("wave", "rate", "lock"))
    random = module.all_settings[wave] in declared.choices[wave].by_chance
    count = 8 if random else 2
    sampled = ENVELOPE_SAMPLES / count
    settings: dict[str, Setting] = {rate: 1.0, lock: declared.choices[lock].default}
    moved = probe.free(probe.with_settings(module, settings), sampled, ENVELOPE_SAMPLES)
    xs, ys = thinned(np.arange(ENVELOPE_SAMPLES) / sampled, moved)
    said = f"{count} movements, from {trimmed(float(np.min(ys)), 2)} to {trimmed(float(np.max(ys)), 2)}."
    return Picture("movement", said, 0.0, float(count), False, -1.08, 1.08, xs, ys)


def curve(module: Module) -> Picture:
    """Return a shaper's output for each input from −1 to 1."""
    signals = probe.led(probe.with_settings(module, {module.declaration.named("mix"): 1}), RATE, SWEEP_SAMPLES)
    settled = SWEEP_SAMPLES // 50
    xs, ys = thinned(*(signal[settled:] for signal in signals))
    top = max(1.0, float(np.max(np.abs(ys)))) * 1.08
    middle = float(np.interp(0.5, xs, ys))
    said = f"An input of 0.5 comes out as {trimmed(middle, 2)}, one of 1 as {trimmed(float(ys[-1]), 2)}."
    handle = Handle(0.5, middle, None, module.declaration.named("drive"), words="Drive")
    return Picture("curve", said, -1.0, 1.0, False, -top, top, xs, ys, (handle,))


PICTURES: dict[PictureKind, Callable[[Module], Picture]] = {
    "course": course,
    "response": response,
    "cycle": cycle,
    "movement": movement,
    "curve": curve,
}
