"""A sound whose pitch moves, straightened: read ever faster or slower, so that its pitch stands still.

What has a vibrato or glides has no sharp partials; read along its own pitch it has. The idea is that of B. Edler and
others, "A time-warped MDCT approach to speech transform coding", AES 126 (2009).
"""

import numpy as np
import scipy

from inner_tone.core.analysis.melody import Vibrato
from inner_tone.core.analysis.track import Track
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of

FINER = 4  # so that straight lines between the samples bend nothing that is heard
SMOOTHED_LOOKS = 1.0


def along_track(passage: Floats, rate: float, begin_s: float, found: Track) -> tuple[Floats, float]:
    """Return a passage that begins at a time in s read along its track, and the pitch in Hz that it has then."""
    known = np.isfinite(found.notes)
    notes = scipy.ndimage.gaussian_filter1d(found.notes[known], SMOOTHED_LOOKS, mode="nearest")
    times = np.arange(len(passage)) / rate + begin_s
    followed = scipy.interpolate.CubicSpline(found.times_s[known], notes, extrapolate=False)(
        np.clip(times, *found.times_s[known][[0, -1]])
    )
    return read_along(passage, np.asarray(followed))


def along_vibrato(passage: Floats, rate: float, begin_s: float, found: Track, swing: Vibrato) -> tuple[Floats, float]:
    """Return a passage that begins at a time in s read along its vibrato, and the pitch in Hz that it has then."""
    known = np.isfinite(found.notes)
    turn = 2.0 * np.pi * swing.rate_hz
    columns = np.stack(
        [np.cos(turn * found.times_s), np.sin(turn * found.times_s), np.ones(len(found.times_s))], axis=1
    )
    (cosine, sine, middle), *_ = np.linalg.lstsq(columns[known], found.notes[known], rcond=None)
    grown = 0.01 * swing.depth_cents / max(1e-9, float(np.hypot(cosine, sine)))
    times = np.arange(len(passage)) / rate + begin_s
    notes = middle + grown * (cosine * np.cos(turn * times) + sine * np.sin(turn * times))
    return read_along(passage, notes)


def read_along(passage: Floats, notes: Floats) -> tuple[Floats, float]:
    """Return a passage read so that a pitch of one note for each sample becomes the mean pitch, in Hz."""
    return read_at(passage, frequency_of(69.0) * 2.0 ** ((notes - 69.0) / 12.0))


def read_at(passage: Floats, hertz: Floats) -> tuple[Floats, float]:
    """Return a passage read so that a pitch of one frequency for each sample becomes the mean one, in Hz."""
    mean = float(np.mean(hertz))
    phase = np.concatenate([[0.0], np.cumsum(0.5 * (hertz[1:] + hertz[:-1]))]) / mean
    places = np.interp(np.arange(int(phase[-1]) + 1), phase, np.arange(len(passage)))
    fine = scipy.signal.resample_poly(passage, FINER, 1)
    return np.interp(places * FINER, np.arange(len(fine)), fine), mean
