"""Short ways to write patches and phrases, and to render them."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from inner_tone.core.engine.engine import Engine
from inner_tone.core.engine.events import Event
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase

RATE = 48_000.0

Line = tuple[str, str] | tuple[str, str, float] | tuple[str, str, float, str]


def module(name: str, kind: str, **settings: float | str) -> dict[str, Any]:
    return {"id": name, "type": kind, "settings": settings}


def line(from_: str, to: str, depth: float = 1.0, scaled_by: str | None = None) -> dict[str, Any]:
    found: dict[str, Any] = {"from": from_, "to": to, "depth": depth}
    return found | {"scaled_by": scaled_by} if scaled_by else found


def patch(modules: Sequence[dict[str, Any]], lines: Sequence[Line] = ()) -> Patch:
    return read_patch({"modules": list(modules), "connections": [line(*one) for one in lines]})


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
) -> Floats:
    """Return the signal of a tap, from the first sample on."""
    count = round(seconds * rate)
    engine = Engine(played, rate, count, [tap], measured=False)
    for sample, event in events:
        engine.advance(sample - engine.position)
        engine.apply(event)
    engine.advance(count - engine.position)
    return np.array(engine.tracks.signals[0])
