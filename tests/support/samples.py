"""A patch that plays an own sound, and sounds to be sent as files."""

import io
from hashlib import sha256
from typing import Any

import numpy as np
import soundfile

from inner_tone.core.arrays import Floats
from inner_tone.core.modules.stock import bring
from inner_tone.core.patch.model import Patch
from tests.support.patches import RATE, module, patch, phrase


def tone(hertz: float = 220.0, seconds: float = 1.0) -> Floats:
    """Return a tone with five partials that begins and ends softly."""
    time = np.arange(round(seconds * RATE)) / RATE
    edges = np.minimum(1.0, np.minimum(time, seconds - time) / 0.02)
    return np.asarray(edges * sum(np.sin(2 * np.pi * hertz * n * time) / n for n in range(1, 6)) * 0.3)


def own(samples: Any, name: str = "Rope") -> str:
    """Return what a sampler is set to so that it plays some samples, which are in the stock then."""
    kept = np.asarray(samples, dtype=np.float32)
    key = sha256(kept.tobytes()).hexdigest()
    bring({key: kept})
    return f"{key} {name}"


def above_db(sound: Floats, hertz: float) -> float:
    """Return the greatest excursion above a frequency beside the greatest of all: a click has all frequencies."""
    spectrum = np.fft.rfft(sound * np.hanning(len(sound)))
    spectrum[np.fft.rfftfreq(len(sound), 1 / RATE) < hertz] = 0.0
    return float(20 * np.log10(np.max(np.abs(np.fft.irfft(spectrum, len(sound)))) / np.max(np.abs(sound))))


def file_of(samples: Any, rate: int = 48_000, kind: str = "WAV", subtype: str = "PCM_24") -> bytes:
    """Return samples, shape (n,) or (n, channels), as a sound file."""
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, rate, format=kind, subtype=subtype)
    return buffer.getvalue()


def playing(sound: str, **settings: Any) -> Patch:
    """Return a patch that plays what a sampler is set to, through an amplifier that the gate opens."""
    return patch(
        [
            module("player", "player"),
            module("rope", "sampler", sound=sound, **settings),
            module("amp", "amplifier"),
            module("out", "output"),
        ],
        [
            ("player.pitch", "rope.pitch"),
            ("player.gate", "rope.gate"),
            ("player.gate", "amp.level"),
            ("rope.out", "amp.in"),
            ("amp.out", "out.left"),
            ("amp.out", "out.right"),
        ],
    )


ONE_NOTE = phrase((0, 1, 60), beats=2)
