"""Probes: one module alone, run with what it takes to see what it does, without a patch around it."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event, Move, NoteOff, NoteOn
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.modules import LEVER, PLAYER
from inner_tone.core.modules.envelope import CLICK
from inner_tone.core.modules.lever import spanning
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ, sine
from inner_tone.core.patch.model import Connection, Module, Patch, Setting
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import OF_LEVER

TONE, PULSE = "oscillator", "envelope"  # what sounds and what strikes
PROBE, HAND, KEYS, SOURCE = "probe", "hand", "keys", "source"


@dataclass(frozen=True)
class Rig:
    """What stands around the module that is looked at: other modules, lines to it, and what is listened to."""

    modules: tuple[Module, ...] = ()
    lines: tuple[Connection, ...] = ()
    taps: tuple[str, ...] = ()

    def run(self, module: Module, rate: float, *parts: tuple[Event | None, int]) -> list[Floats]:
        """Return what the taps and the module gave over some parts, each begun by an event and so many samples long."""
        probe = module.model_copy(update={"id": PROBE})
        patch = Patch(modules=(*self.modules, probe), connections=self.lines)
        main = probe.declaration.main
        assert main is not None, module.type
        recorder = Recorder(sum(count for _, count in parts), (*self.taps, Port.of(PROBE, main.name)), measured=False)
        playing = Playing(patch, rate, recorder)
        for event, count in parts:
            if event is not None:
                playing.apply(event)
            playing.advance(count)
        return list(recorder.tracks.signals)


def line(source: str, target: str, depth: float = 1.0) -> Connection:
    """Return a connection."""
    return Connection(source=Port(source), target=Port(target), depth=depth)


def with_settings(module: Module, settings: Mapping[str, Setting]) -> Module:
    """Return a module with those of some settings changed that it has."""
    fitting = {name: value for name, value in settings.items() if name in module.all_settings}
    return module.model_copy(update={"settings": {**module.settings, **fitting}})


def free(module: Module, rate: float, count: int) -> Floats:
    """Return what a module does by itself in `count` samples."""
    return Rig().run(module, rate, (None, count))[0]


def gated(module: Module, rate: float, closing: int, count: int) -> Floats:
    """Return what a module does whose gate opens at the first sample and closes at another."""
    rig = Rig((Module(id=KEYS, type=PLAYER),), (line(f"{KEYS}.gate", f"{PROBE}.gate"),))
    return rig.run(module, rate, (NoteOn(0.0, 1.0), closing), (NoteOff(0.0), count - closing))[0]


def struck(module: Module, rate: float, height: float, count: int) -> tuple[Floats, Floats]:
    """Return the impulse of a height that enters a module, and what comes out, shape (count,) each."""
    rig = Rig(
        (Module(id=KEYS, type=PLAYER), Module(id=SOURCE, type=PULSE, settings=CLICK)),
        (line(f"{KEYS}.gate", f"{SOURCE}.gate"), line(f"{SOURCE}.out", f"{PROBE}.in", height)),
        (f"{SOURCE}.out",),
    )
    given, answered = rig.run(module, rate, (NoteOn(0.0, 1.0), count))
    return height * given, answered


def led(module: Module, rate: float, count: int) -> tuple[Floats, Floats]:
    """Return values that go evenly from −1 to 1 into a module, and what comes out."""
    hand = Module(id=HAND, type=LEVER, settings=spanning(-1, 1))
    rig = Rig((hand,), (line(f"{HAND}.out", f"{PROBE}.in"),), (f"{HAND}.out",))
    given, answered = rig.run(module, rate, (Move(f"{OF_LEVER}{HAND}", 0.0, 1.0 / count), count))
    return given, answered


@dataclass(frozen=True)
class Path:
    """Modules that sound goes through, the lines between them, where it enters and where it leaves."""

    modules: tuple[Module, ...]
    lines: tuple[Connection, ...]
    into: tuple[Port, ...]
    out: Port


def swept(
    path: Path, rate: float, level: float, low_hz: float, high_hz: float, rising: int, count: int
) -> tuple[Floats, Floats]:
    """Return a sine whose frequency rises exponentially, then stands, on its way into a path, and what comes out.

    A. Farina, "Simultaneous measurement of impulse response and distortion with a swept-sine technique", AES 2000.
    """
    low, span = 12.0 * np.log2(low_hz / MIDDLE_C_HZ), 12.0 * np.log2(high_hz / low_hz)
    modules = (
        Module(id=HAND, type=LEVER, settings=spanning(0, 1)),
        Module(id=SOURCE, type=TONE, settings=sine(pitch=float(low))),
        *path.modules,
    )
    entering = [line(f"{SOURCE}.out", port, level) for port in path.into]
    lines = (line(f"{HAND}.out", f"{SOURCE}.pitch", float(span)), *entering, *path.lines)
    recorder = Recorder(count, (f"{SOURCE}.out", path.out), measured=False)
    playing = Playing(Patch(modules=modules, connections=lines), rate, recorder)
    playing.apply(Move(f"{OF_LEVER}{HAND}", 0.0, 1.0 / rising))
    playing.advance(count)
    given, answered = recorder.tracks.signals
    return level * given, answered


def toned(module: Module, plain: Mapping[str, Setting], rate: float, hertz: float, count: int) -> tuple[Floats, Floats]:
    """Return what a module makes of a sine of full scale with its plain settings, and with the settings that it has."""
    rig = Rig(
        (
            Module(id=SOURCE, type=TONE, settings=sine(ratio=hertz / MIDDLE_C_HZ)),
            Module(id="plain", type=module.type, settings=dict(plain)),
        ),
        (line(f"{SOURCE}.out", f"{PROBE}.in"), line(f"{SOURCE}.out", "plain.in")),
        ("plain.out",),
    )
    unbent, answered = rig.run(module, rate, (None, count))
    return unbent, answered
