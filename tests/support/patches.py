"""Short ways to write patches and phrases, and to render them."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase

RATE = 48_000.0

Line = tuple[str, str] | tuple[str, str, float] | tuple[str, str, float, str]


def module(name: str, kind: str, **settings: float | str | Sequence[float]) -> dict[str, Any]:
    return {"id": name, "type": kind, "settings": settings}


def line(from_: str, to: str, depth: float = 1.0, scaled_by: str | None = None) -> dict[str, Any]:
    found: dict[str, Any] = {"from": from_, "to": to, "depth": depth}
    return found | {"scaled_by": scaled_by} if scaled_by else found


# What gives an impulse of one sample at the first note.
PULSE = [
    module("player", "player"),
    module("pulse", "envelope", stages="attack-decay", attack=0, decay=0, curve="linear"),
]
IMPULSE: Line = ("player.gate", "pulse.gate")


def sine(name: str, hertz: float) -> dict[str, Any]:
    """Return an oscillator that puts out a sine of a frequency, whatever is played."""
    octave = min(5, round(np.log2(hertz / MIDDLE_C_HZ)))
    return module(name, "oscillator", wave="sine", octave=octave, ratio=hertz / MIDDLE_C_HZ / 2.0**octave)


def patch(modules: Sequence[dict[str, Any]], lines: Sequence[Line] = (), voices: int = 1) -> Patch:
    return read_patch({"voices": voices, "modules": list(modules), "connections": [line(*one) for one in lines]})


def settled(patch: Patch) -> tuple[Any, ...]:
    """Return all that a patch is, in one way of writing; the order of its parts and how it is drawn do not count."""
    return (
        patch.voices,
        {module.id: (module.type, module.title, module.all_settings) for module in patch.modules},
        {line.ends: line for line in patch.connections},
        {section.id: (section.label, set(section.modules)) for section in patch.sections},
    )


def phrase(*notes: tuple[float, float, float], beats: float = 4.0, tempo: float = 60.0, **more: Any) -> Phrase:
    """Return a phrase of notes (start, length, pitch); at the tempo of 60 a beat is a second."""
    data = [{"start": start, "length": length, "pitch": pitch} for start, length, pitch in notes]
    return read_phrase({"tempo": tempo, "beats": beats, "notes": data, **more})


def listen(
    played: Patch,
    tap: str,
    seconds: float,
    events: Sequence[tuple[int, Event]] = (),
    rate: float = RATE,
    tempo: float = 120.0,
) -> Floats:
    """Return the signal of a tap, from the first sample on."""
    count = round(seconds * rate)
    engine = Playing(played, rate, Recorder(count, [tap], measured=False), tempo=tempo)
    for sample, event in events:
        engine.advance(sample - engine.position)
        engine.apply(event)
    engine.advance(count - engine.position)
    return np.array(engine.recorder.tracks.signals[0])
