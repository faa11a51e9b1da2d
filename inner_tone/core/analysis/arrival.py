"""What is found out of a sound when it arrives to be played by samplers, and what is proposed for it.

A sound is kept in one channel at 48 kHz. Proposed are its root, where it begins and ends, and a loop, all at places
where nothing clicks: a loop goes back to where the sound goes on as it would have gone on.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.analysis.loudness import loudness_lufs
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules.sounds import RATE
from inner_tone.core.units import decibels, midi_of

MIDDLE_C = 60.0
QUIET_DB, GONE_DB = -50.0, -60.0  # beside the peak: before it begins, after it has ended
EDGE_SECONDS = 0.005
FADE_SECONDS = 0.002  # so long an end that is cut off takes to go to nothing
SILENT = 1e-4
CANCELLED = 0.5  # of the power of both channels: where less is left of it in their sum, one of them is taken
BLOCK_SECONDS = 0.01
SHORTEST_SECONDS, USUAL_SECONDS, LONGEST_SECONDS = 0.08, 0.8, 3.0  # of a loop
LEAST_SECONDS = 0.25  # of a sound that has a loop
LOOK_SECONDS, MOST_LOOK_SECONDS = 0.02, 0.08
STEPS = 32  # places that are tried for the beginning of a loop, and for its length
TRIED = 24
PER_DB = 0.04  # how much likeness a step of the level by 1 dB is worth
WIDE = 0.15  # of the loop, for the crossfade of what is alike nowhere
SURE = 0.97
PLACES = 6  # of a place as it is proposed: a sample of twenty seconds
SAME_ST = 0.5  # notes so near are one


@dataclass(frozen=True)
class Arrival:
    """What is known of a sound, and what is proposed for a sampler; places are parts of its length.

    Peak and loudness are in dBFS and LUFS, the pitch as a fractional MIDI note; without one there is no root. Where no
    loop was found both of its ends are 0. `alike` says how well its ends go on in one another, −1 to 1.
    """

    seconds: float
    peak_db: float
    loudness_lufs: float
    note: float | None
    start: float
    end: float
    loop_from: float
    loop_to: float
    crossfade_s: float
    alike: float

    @property
    def root(self) -> float:
        """Its root in semitones from middle C: 0 where it has no pitch."""
        return round(self.note - MIDDLE_C, 2) if self.note is not None else 0.0


def in_one_channel(channels: Floats) -> tuple[Floats, str]:
    """Return channels, shape (channels, n), as one, and in words what became of two."""
    if len(channels) == 1:
        return channels[0], ""
    power = np.sum(channels**2, axis=1)
    both = np.mean(channels, axis=0)
    if np.sum(both**2) >= CANCELLED * np.mean(power) / 2:
        return both, "Both channels were added to one."
    side = int(np.argmax(power))
    return channels[side], f"Added, its channels would cancel each other: the {('left', 'right')[side]} one is kept."


def at_usual_rate(signal: Floats, rate: float) -> Floats:
    """Return a signal, shape (n,), at 48 kHz: its spectrum on another grid (Shannon 1949), filled up to whole seconds.

    The rate is a whole number of hertz. What lies above half of the lower rate is gone, over a taper of a twentieth.
    """
    if rate == RATE:
        return signal
    seconds = math.ceil(len(signal) / rate + 0.1)
    spectrum = np.fft.rfft(signal, int(rate) * seconds)
    size = int(RATE) * seconds
    kept = min(len(spectrum), size // 2 + 1)
    highest = min(rate, RATE) / 2
    hertz = np.arange(kept) / seconds
    taper = np.clip((highest - hertz) / (0.05 * highest), 0.0, 1.0)
    whole = np.fft.irfft(spectrum[:kept] * taper, size) * (size / (rate * seconds))
    return np.asarray(whole[: max(1, round(len(signal) * RATE / rate))])


def arrived(channels: Floats, rate: float) -> tuple[Floats, str]:
    """Return a sound, shape (channels, n), as it is kept, shape (n,), at 48 kHz, and what became of it, in words.

    What is beyond full scale is turned down. Raises InnerToneError for what cannot be heard.
    """
    signal, words = in_one_channel(channels)
    signal = at_usual_rate(signal, rate)
    peak = float(np.max(np.abs(signal), initial=0.0))
    if peak < SILENT:
        raise InnerToneError("Nothing can be heard in it. Record it louder.")
    if peak > 1.0:
        words = f"{words} It was turned down by {decibels(peak):.1f} dB, since it went beyond full scale.".strip()
        signal = signal / peak
    return signal, words


def arrival_of(signal: Floats) -> Arrival:
    """Return what is known and proposed of a sound, shape (n,), at 48 kHz."""
    note = pitch_of(signal)
    first, last = edges(signal)
    period = RATE / (440.0 * 2.0 ** ((note - 69.0) / 12.0)) if note is not None else None
    begin, end, fade, likeness = loop_in(signal, first, last, period)
    size = len(signal)
    return Arrival(
        seconds=size / RATE,
        peak_db=decibels(float(np.max(np.abs(signal)))),
        loudness_lufs=loudness_lufs(signal, RATE),
        note=note if note is None else round(note, 2),
        start=round(first / size, PLACES),
        end=round(last / size, PLACES),
        loop_from=round(begin / size, PLACES),
        loop_to=round(end / size, PLACES),
        crossfade_s=fade,
        alike=likeness,
    )


def pitch_of(signal: Floats) -> float | None:
    """Return the pitch of a sound as a fractional MIDI note, if it has one and no other."""
    whole = Sound(np.asarray(signal, dtype=np.float64), RATE).whole
    notes = [one.note for one in whole.sure_notes]
    if not whole.has_pitch or whole.fundamental_hz is None or (notes and float(np.ptp(notes)) > SAME_ST):
        return None
    return float(midi_of(whole.fundamental_hz))


def edges(signal: Floats) -> tuple[int, int]:
    """Return where a sound begins and ends, in samples: at zeros, before and after what is heard of it."""
    level = np.abs(signal)
    peak = float(np.max(level))
    loud = np.flatnonzero(level > peak * 10.0 ** (QUIET_DB / 20.0))
    there = np.flatnonzero(level > peak * 10.0 ** (GONE_DB / 20.0))
    edge = round(EDGE_SECONDS * RATE)
    first, last = int(loud[0]), int(there[-1]) + 1
    zeros = np.flatnonzero(np.diff(np.signbit(signal)))
    before = zeros[(zeros < first) & (zeros >= first - edge)]
    after = zeros[(zeros >= last) & (zeros < last + edge)] + 1
    first = int(before[-1]) + 1 if len(before) else max(0, first - edge)
    last = int(after[0]) if len(after) else min(len(signal), last + edge)
    return (first if first > edge else 0), (last if last < len(signal) - edge else len(signal))


def loop_in(signal: Floats, first: int, last: int, period: float | None) -> tuple[float, float, float, float]:
    """Return the beginning and the end of a loop in samples, its crossfade in s, and how alike its ends are.

    Of many places in the part that is held, those are taken from which the sound goes on most alike: by the normalised
    correlation of what follows, less what the level differs by; the end is then moved until both fit best, between the
    samples too. All is 0 where there is no room for a loop.
    """
    nothing = (0.0, 0.0, 0.0, 0.0)
    if last - first < LEAST_SECONDS * RATE:
        return nothing
    look = round(RATE * min(MOST_LOOK_SECONDS, max(LOOK_SECONDS, 3.0 * (period or 0.0) / RATE)))
    held_from, held_to = held_part(signal[first:last])
    held_from, held_to = first + held_from, min(first + held_to, last - 2 * look)
    shortest = round(SHORTEST_SECONDS * RATE)
    if held_to - held_from < shortest + look:
        return nothing
    longest = min(held_to - held_from - look, round(LONGEST_SECONDS * RATE))
    begins = np.linspace(held_from, held_to - shortest, STEPS).astype(int)
    lengths = np.geomspace(shortest, max(shortest + 1, longest), STEPS).astype(int)
    pairs = np.array([(a, a + length) for a in begins for length in lengths if a + length <= held_to])
    levels = level_around(signal, look)
    steps = np.abs(20.0 * np.log10(levels[pairs[:, 0]] / levels[pairs[:, 1]]))
    usual = np.abs(np.log(np.diff(pairs, axis=1)[:, 0] / (USUAL_SECONDS * RATE)))
    promising = pairs[np.argsort(steps + 0.3 * usual)[:TRIED]]
    reach = round(min(look, max(0.6 * period if period else look, 8)))
    found = [fitted(signal, levels, int(a), int(b), look, reach) for a, b in promising]
    likeness, begin, end = max(found)
    sure = likeness > SURE
    fade = LOOK_SECONDS if sure else max(LOOK_SECONDS, WIDE * (end - begin) / RATE)
    fade = min(fade, (end - begin) / RATE / 2, (len(signal) - end) / RATE, begin / RATE)
    return float(begin), float(end), round(max(0.0, fade), 3), float(likeness)


def held_part(part: Floats) -> tuple[int, int]:
    """Return from where to where a sound is held, in samples: behind its attack, before it has sunk by half of it all.

    Of a sound that swells to its end all behind the middle is taken.
    """
    block = round(BLOCK_SECONDS * RATE)
    count = len(part) // block
    power = np.mean(part[: count * block].reshape(count, block) ** 2, axis=1) + 1e-12
    level = 10.0 * np.log10(np.convolve(power, np.ones(5) / 5, mode="same"))
    top = int(np.argmax(level > np.max(level) - 3.0)) + 4
    near = np.flatnonzero(level > np.max(level) - 20.0)
    end = max(int(near[-1]), top)
    return min(top, count // 2) * block, (end + 1) * block


def level_around(signal: Floats, look: int) -> Floats:
    """Return the level of what follows each sample, as an amplitude, shape (n,)."""
    power = np.concatenate([[0.0], np.cumsum(signal**2)])
    after = np.minimum(np.arange(len(signal)) + look, len(signal))
    mean = (power[after] - power[: len(signal)]) / look
    return np.asarray(np.sqrt(np.maximum(mean, 1e-14)))


def fitted(signal: Floats, levels: Floats, begin: int, end: int, look: int, reach: int) -> tuple[float, float, float]:
    """Return how alike the sound goes on from both ends of a loop, its beginning, and the end moved to fit best."""
    first = zero_near(signal, begin)
    wanted = signal[first : first + look]
    around = signal[end - reach : end + reach + look]
    energy = np.concatenate([[0.0], np.cumsum(around**2)])
    size = energy[look:] - energy[:-look]
    likeness = np.correlate(around, wanted, mode="valid") / np.sqrt(np.maximum(size * np.sum(wanted**2), 1e-14))
    place = int(np.argmax(likeness))
    shift = 0.0
    if 0 < place < len(likeness) - 1:
        before, here, after = likeness[place - 1 : place + 2]
        bend = before - 2.0 * here + after
        shift = float(0.5 * (before - after) / bend) if bend < 0.0 else 0.0
    last = end - reach + place
    step = abs(20.0 * math.log10(levels[first] / levels[last]))
    return float(likeness[place]) - PER_DB * step, float(first), last + shift


def zero_near(signal: Floats, place: int) -> int:
    """Return where a signal rises through zero next, if that is near."""
    part = signal[place : place + round(EDGE_SECONDS * RATE)]
    rises = np.flatnonzero((part[:-1] < 0.0) & (part[1:] >= 0.0))
    return place + int(rises[0]) + 1 if len(rises) else place


def ended(signal: Floats, rate: float) -> Floats:
    """Return a sound, shape (n,), that goes to nothing where it would have been cut off."""
    count = min(len(signal), round(FADE_SECONDS * rate))
    done: NDArray[np.float64] = signal.copy()
    done[len(done) - count :] *= np.linspace(1.0, 0.0, count)
    return done
