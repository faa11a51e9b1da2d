"""Small pictures of what a module does by itself: made by running its own kernel, so they cannot be wrong.

An envelope is opened and closed, a filter is struck by an impulse, an oscillator goes through one cycle, a shaper
is led from −1 to 1. Handles are the points by which settings can be dragged.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from inner_tone.core.engine.engine import Engine
from inner_tone.core.engine.events import Move, NoteOff, NoteOn
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.units import trimmed, with_unit

POINTS = 240
RATE = 48_000.0
CYCLE_HZ = 100.0
ENVELOPE_SAMPLES = 4_000
HOLD_SHARE = 0.2
SHORTEST_S = 0.02
IMPULSE_SAMPLES = 1 << 13
IMPULSE = 0.01  # small, so that what bends the sound does not bend it yet
STEADY_RESONANCE = 0.99
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

    kind: str = ""
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
    return PICTURES[module.type](module) if module.type in PICTURES else Picture()


def number(module: Module, name: str) -> float:
    """Return a setting that is a number."""
    value = module.all_settings[name]
    assert isinstance(value, int | float)
    return float(value)


def thinned(xs: Floats, ys: Floats) -> tuple[Floats, Floats]:
    """Return as many points of a curve as a small picture can show, evenly spread."""
    places = np.unique(np.linspace(0, len(xs) - 1, min(len(xs), 2 * POINTS)).astype(int))
    return xs[places], ys[places]


def envelope(module: Module) -> Picture:
    """Return the course of an envelope whose gate is open through attack, decay and a while of sustain."""
    attack, decay, release = (number(module, name) for name in ("attack", "decay", "release"))
    sustain = number(module, "sustain")
    stages = str(module.all_settings["stages"])
    falls = stages != "attack-release"
    rising = attack + (decay if falls else 0.0)
    hold = max(SHORTEST_S, HOLD_SHARE * (rising + release)) if stages != "attack-decay" else 0.0
    after = release if stages != "attack-decay" else 0.0
    total = max(rising + hold + after, SHORTEST_S) * 1.04
    rate = ENVELOPE_SAMPLES / total
    patch = Patch(
        modules=(Module(id="player", type="player"), module),
        connections=(Connection(source="player.gate", target=f"{module.id}.gate"),),
    )
    engine = Engine(patch, rate, ENVELOPE_SAMPLES, (f"{module.id}.out",), measured=False)
    engine.apply(NoteOn(0.0, 1.0))
    closing = min(ENVELOPE_SAMPLES, round((rising + hold) * rate))
    engine.advance(closing)
    engine.apply(NoteOff(0.0))
    engine.advance(ENVELOPE_SAMPLES - closing)
    xs, ys = thinned(np.arange(ENVELOPE_SAMPLES) / rate, np.array(engine.tracks.signals[0]))
    level = sustain if stages == "attack-decay-sustain-release" else 0.0 if stages == "attack-decay" else 1.0
    handles = [Handle(attack, 1.0, "attack", words="End of the attack")]
    if falls:
        moves = "sustain" if stages == "attack-decay-sustain-release" else None
        handles.append(Handle(rising, level, "decay", moves, attack, "End of the decay"))
    if after:
        handles.append(Handle(rising + hold + release, 0.0, "release", None, rising + hold, "End of the release"))
    said = f"Rises in {with_unit(attack, 's')}"
    said += f", falls to {trimmed(level)} in {with_unit(decay, 's')}" if falls else ""
    said += f", and to zero in {with_unit(release, 's')} when the gate closes." if after else "."
    return Picture("envelope", said, 0.0, total, False, -0.04, 1.08, xs, ys, tuple(handles))


def response(module: Module) -> Picture:
    """Return the response in dB of a filter that is struck by a small impulse."""
    steadied = module.settings | {"resonance": min(number(module, "resonance"), STEADY_RESONANCE)}
    struck = module.model_copy(update={"settings": steadied})
    pulse = Module(
        id="impulse", type="envelope", settings={"stages": "attack-decay", "attack": 0, "decay": 0, "curve": "linear"}
    )
    patch = Patch(
        modules=(Module(id="player", type="player"), pulse, struck),
        connections=(
            Connection(source="player.gate", target="impulse.gate"),
            Connection(source="impulse.out", target=f"{module.id}.in", depth=IMPULSE),
        ),
    )
    engine = Engine(patch, RATE, IMPULSE_SAMPLES, ("impulse.out", f"{module.id}.out"), measured=False)
    engine.apply(NoteOn(0.0, 1.0))
    engine.advance(IMPULSE_SAMPLES)
    given, answered = (np.abs(np.fft.rfft(signal)) for signal in engine.tracks.signals)
    frequencies = np.fft.rfftfreq(IMPULSE_SAMPLES, 1.0 / RATE)
    xs = np.geomspace(LOWEST_HZ, HIGHEST_HZ, POINTS)
    gains = np.interp(xs, frequencies, answered / np.maximum(IMPULSE * given, 1e-12))
    ys = np.clip(20.0 * np.log10(np.maximum(gains, 1e-9)), LOWEST_DB, HIGHEST_DB)
    cutoff = number(module, "cutoff")
    level = float(np.interp(cutoff, xs, ys))
    said = f"{trimmed(level, 2)} dB at the cutoff of {with_unit(cutoff, 'Hz')}."
    handle = Handle(cutoff, level, "cutoff", "resonance", words="Cutoff and resonance")
    return Picture("response", said, LOWEST_HZ, HIGHEST_HZ, True, LOWEST_DB, HIGHEST_DB, xs, ys, (handle,))


def cycle(module: Module) -> Picture:
    """Return one cycle of a source, as it is at a low pitch."""
    plain = {"octave": 0, "semitone": 0, "fine": 0, "pitch": 0, "linear": 0, "offset": 0}
    settings = {**module.settings, **{name: value for name, value in plain.items() if name in module.all_settings}}
    if module.type == "oscillator":
        settings["ratio"] = CYCLE_HZ / MIDDLE_C_HZ
    else:
        settings["pitch"] = 12.0 * math.log2(CYCLE_HZ / MIDDLE_C_HZ)
    count = round(RATE / CYCLE_HZ) + 1
    patch = Patch(modules=(module.model_copy(update={"settings": settings}),))
    engine = Engine(patch, RATE, count, (f"{module.id}.out",), measured=False)
    engine.advance(count)
    ys = np.array(engine.tracks.signals[0])
    top = max(1.0, float(np.max(np.abs(ys)))) * 1.05
    wave = str(module.all_settings.get("wave", ""))
    handles = (Handle(number(module, "width"), 0.0, "width", words="Width of the pulse"),) if wave == "square" else ()
    said = f"One cycle of {'the ' + wave if wave else 'the harmonics together'}."
    return Picture("cycle", said, 0.0, 1.0, False, -top, top, np.linspace(0.0, 1.0, count), ys, handles)


def movement(module: Module) -> Picture:
    """Return two movements of an LFO, or eight of a random one."""
    random = "random" in str(module.all_settings["wave"])
    count = 8 if random else 2
    settings = {**module.settings, "rate": 1.0, "lock": "free"}
    rate = ENVELOPE_SAMPLES / count
    patch = Patch(modules=(module.model_copy(update={"settings": settings}),))
    engine = Engine(patch, rate, ENVELOPE_SAMPLES, (f"{module.id}.out",), measured=False)
    engine.advance(ENVELOPE_SAMPLES)
    xs, ys = thinned(np.arange(ENVELOPE_SAMPLES) / rate, np.array(engine.tracks.signals[0]))
    said = f"{count} movements, from {trimmed(float(np.min(ys)), 2)} to {trimmed(float(np.max(ys)), 2)}."
    return Picture("movement", said, 0.0, float(count), False, -1.08, 1.08, xs, ys)


def bending(module: Module) -> Picture:
    """Return a shaper's output for each input from −1 to 1."""
    hand = Module(id="hand", type="lever", settings={"low": -1, "high": 1})
    settings = {**module.settings, "mix": 1} if "mix" in module.all_settings else module.settings
    patch = Patch(
        modules=(hand, module.model_copy(update={"settings": settings})),
        connections=(Connection(source="hand.out", target=f"{module.id}.in"),),
    )
    engine = Engine(patch, RATE, SWEEP_SAMPLES, ("hand.out", f"{module.id}.out"), measured=False)
    engine.apply(Move("lever:hand", 0.0, 1.0 / SWEEP_SAMPLES))
    engine.advance(SWEEP_SAMPLES)
    settled = SWEEP_SAMPLES // 50
    xs, ys = thinned(*(np.array(signal)[settled:] for signal in engine.tracks.signals))
    top = max(1.0, float(np.max(np.abs(ys)))) * 1.08
    middle = float(np.interp(0.5, xs, ys))
    said = f"An input of 0.5 comes out as {trimmed(middle, 2)}, one of 1 as {trimmed(float(ys[-1]), 2)}."
    handle = Handle(0.5, middle, None, "drive", words="Drive")
    return Picture("bending", said, -1.0, 1.0, False, -top, top, xs, ys, (handle,))


PICTURES: dict[str, Callable[[Module], Picture]] = {
    "envelope": envelope,
    "filter": response,
    "ladder": response,
    "oscillator": cycle,
    "harmonics": cycle,
    "lfo": movement,
    "shaper": bending,
}
