"""Instruments outside of Inner Tone, simulated: what a learner who owns another one would record of a patch.

Each is one that a class may bring along: an old one whose tuning is off and drifts; a modern one whose filter and whose
envelopes are built otherwise; a worn one in a room, behind a noisy desk. They render any patch of the usual kind, and
begin when the player has found the button.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.render import RATE, render
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.otherwise import STEEPEST, curved_otherwise, is_steep, steep_otherwise, tuned
from inner_tone.core.patch.tuning import amount
from inner_tone.core.phrase import Phrase

CENTS_OFF, DRIFT_CENTS, DRIFT_HZ = 17.0, 6.0, 0.09
NOISE_DB, HUM_HZ = -50.0, 50.0
BENT = 0.7  # how hard the worn one drives its output
ROOM_S, ROOM_SHARE = 0.35, 0.12


@dataclass(frozen=True)
class Outside:
    """An instrument: its title, what it does otherwise, and how; `late_s` is when it begins to play."""

    title: str
    otherwise: str
    late_s: float
    built: Callable[[Patch], Patch]
    heard: Callable[[Floats, np.random.Generator], Floats]


def as_it_is(patch: Patch) -> Patch:
    """Return a patch built the same."""
    return patch


def clean(channels: Floats, chance: np.random.Generator) -> Floats:
    """Return what comes out as it is."""
    return channels


def off_tune(patch: Patch) -> Patch:
    """Return a patch whose tones are off."""
    return tuned(patch, CENTS_OFF)


def drifting(channels: Floats, chance: np.random.Generator) -> Floats:
    """Return what comes out a little faster and slower, by turns, so that all of it drifts up and down."""
    seconds = np.arange(channels.shape[1]) / RATE
    faster = 2.0 ** (DRIFT_CENTS * np.sin(2.0 * np.pi * DRIFT_HZ * seconds) / 1200.0)
    places = np.concatenate([[0.0], np.cumsum(faster[:-1])])
    return np.stack(
        [scipy.ndimage.map_coordinates(one, places[np.newaxis], order=3, mode="constant") for one in channels]
    )


def other_make(patch: Patch) -> Patch:
    """Return a patch with filters of another slope, and envelopes that are as straight as they were curved."""
    slopes = [amount(module, "slope") for module in patch.modules if is_steep(module)]
    return curved_otherwise(steep_otherwise(patch, -6 if STEEPEST in slopes else 6))


def worn(channels: Floats, chance: np.random.Generator) -> Floats:
    """Return what comes out bent a little, in a room, with hum and noise."""
    peak = float(np.max(np.abs(channels), initial=1e-9))
    bent = np.tanh(BENT * channels / peak) / np.tanh(BENT) * peak
    size = round(ROOM_S * RATE)
    decay = np.exp(-6.9 * np.arange(size) / size)
    echo = chance.standard_normal((2, size)) * decay
    echo *= ROOM_SHARE / np.sqrt(np.sum(echo**2, axis=1, keepdims=True))
    wide = np.concatenate([bent, np.zeros((2, size))], axis=1)
    room = wide + scipy.signal.fftconvolve(wide, echo, axes=1)[:, : wide.shape[1]]
    loud = float(np.sqrt(np.mean(bent**2)))
    noise = chance.standard_normal(room.shape)
    seconds = np.arange(room.shape[1]) / RATE
    hum = sum(np.sin(2.0 * np.pi * HUM_HZ * n * seconds) / n for n in (1, 2, 3))
    return np.asarray(room + loud * 10.0 ** (NOISE_DB / 20.0) * (0.7 * noise + hum))


INSTRUMENTS = {
    "drifting": Outside("An old one", f"It is {CENTS_OFF:g} cents sharp and drifts slowly.", 0.11, off_tune, drifting),
    "other-curves": Outside(
        "Another make",
        "Its filter falls 6 dB per octave otherwise, and its envelopes have other curves.",
        0.06,
        other_make,
        clean,
    ),
    "worn": Outside(
        "A worn one in a room", "It hums and hisses, bends a little, and stands in a small room.", 0.32, as_it_is, worn
    ),
}


def recorded(name: str, patch: Patch, phrase: Phrase, seed: int = 1) -> Floats:
    """Return what an outside instrument gives of a patch that plays a phrase, at 48 kHz, shape (2, n).

    Raises KeyError for a name that is not one of `INSTRUMENTS`.
    """
    instrument = INSTRUMENTS[name]
    done = render(instrument.built(patch), phrase)
    chance = np.random.default_rng(seed)
    channels = np.stack([done.left, done.right]).astype(np.float64)
    late = np.zeros((2, round(instrument.late_s * RATE)))
    return instrument.heard(np.concatenate([late, channels, np.zeros((2, round(0.2 * RATE)))], axis=1), chance)
