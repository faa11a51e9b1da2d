"""What a pitch does over time: it holds notes, steps or glides from one to the next, or moves to and fro.

A note is *held* where the track stays within a narrow band for a while. Between two held notes the pitch has stepped if
it took no longer than a look of the track is wide, and glided otherwise. What moves to and fro regularly is a vibrato.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import scipy
from numpy.typing import NDArray

from inner_tone.core.analysis.swing import Swing, strongest_swing
from inner_tone.core.analysis.track import Track
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of

SMOOTHED_LOOKS = 5
STILL_ST = 0.15  # a note is held while the pitch stays within so much
STILL_SLOPE = 0.8  # and while it moves by no more semitones a second
STILL_SECONDS = 0.04
SLOPE_SECONDS = 0.06
SAME_ST = 0.25  # two held notes that are nearer are one
STANDING = 3  # looks
MOST_OF_WAY = 0.35
LEAST_SEEN, BLURRED_ST = 0.3, 1.5
SETTLED = 0.03  # of a glide's way, at either end
BLUR_LOOKS = 3
LEAST_BEATS = 5.0
GAP_LOOKS = 3
LONGEST_GAP_S = 0.5  # through which a sound goes on while its pitch is not clear: it moves too fast
LEAST_VIBRATO_CENTS = 1.5
LEAST_GLIDE_ST = 0.5
LEAST_STRAIGHT_ST, STRAIGHT_ST = 1.0, 0.12
SLOWEST_HZ, FASTEST_HZ = 0.7, 15.0
SLOW_SECONDS, SLOWEST_EVENED_HZ, MANY_TURNS, LEAST_EVENED, HEARD_CENTS = 0.4, 3.0, 5.0, 0.4, 8.0
LEAST_TURNS = 1.7
LEAST_SHARE = 0.93  # a trill, which steps between two notes, has 0.81
LEAST_NOISY_SHARE, NOISY_TURNS, NOISY_TIMES, STEPPED = 0.3, 2.5, 6.0, 0.22
LEAST_SWUNG = 0.5  # of the time in which there is a pitch
LEAST_LOOKS = 24
MOVED_ST, LEAP_ST = 0.08, 0.4
SEEN_AT_ALL, SEEN_WELL = 0.6, 0.85  # of a swing must be left by the looks, for its depth to be told


@dataclass(frozen=True)
class Held:
    """A note that is held: from when to when in s, and the fractional MIDI note."""

    begin_s: float
    end_s: float
    note: float

    @property
    def seconds(self) -> float:
        """How long it is held."""
        return self.end_s - self.begin_s


@dataclass(frozen=True)
class Vibrato:
    """A regular movement of the pitch: how often a second, how far to each side in cents, and around which note.

    Of one that is too fast for so low a tone the depth is not sure. One that grows or fades says from how many cents to
    how many, and `depth_cents` is the greater; one that gets quicker or slower says from which rate to which.
    """

    rate_hz: float
    depth_cents: float
    note: float
    begin_s: float
    end_s: float
    is_sure: bool = True
    grows_cents: tuple[float, float] | None = None
    rates_hz: tuple[float, float] | None = None


@dataclass(frozen=True)
class Trill:
    """How often a second a pitch leaps from one note to another and back, and which notes these are."""

    rate_hz: float
    low: float
    high: float


@dataclass(frozen=True)
class Glide:
    """A movement from one note to another, as fractional MIDI notes, with its time in s."""

    begin_s: float
    seconds: float
    from_note: float
    to_note: float


@dataclass(frozen=True)
class Melody:
    """What a pitch does: notes that it holds, glides between them, a vibrato or a trill."""

    held: tuple[Held, ...] = ()
    glides: tuple[Glide, ...] = ()
    vibrato: Vibrato | None = None
    share: float = 0.0  # of the time, there is a pitch
    trill: Trill | None = None


def melody_of(found: Track) -> Melody:
    """Return what the pitch of a track does."""
    parts = [found.part(first, last) for first, last in voiced(found)]
    swings = [one for part in parts if (one := vibrato(part))]
    widest = max(swings, key=lambda one: one.end_s - one.begin_s, default=None)
    heard_s = sum(len(part.notes) for part in parts) * found.hop_s
    if widest and widest.end_s - widest.begin_s > LEAST_SWUNG * heard_s:
        return Melody(vibrato=widest, share=found.share)
    held: list[Held] = []
    glides: list[Glide] = []
    for part in map(evened, parts):
        notes = at_rest(part, still(part))
        glides += glides_of(part, notes)
        held += notes
    return Melody(tuple(held), tuple(glides), None, found.share)


def voiced(found: Track) -> list[tuple[int, int]]:
    """Return the stretches of a track that have a pitch, as looks from one to before another, across short gaps."""
    here = np.flatnonzero(np.isfinite(found.notes))
    if len(here) == 0:
        return []
    short, long = GAP_LOOKS + found.window_s / found.hop_s, LONGEST_GAP_S / found.hop_s
    sounding = np.cumsum(found.loud)
    gaps = np.diff(here)
    all_loud: NDArray[np.bool_] = sounding[here[1:]] - sounding[here[:-1]] == gaps
    cuts = np.flatnonzero((gaps > short) & ~(all_loud & (gaps < long))) + 1
    return [(int(part[0]), int(part[-1]) + 1) for part in np.split(here, cuts)]


def evened(part: Track) -> Track:
    """Return a stretch of a track without a swing that goes on through its notes: each look is the mean of a turn."""
    if len(part.notes) < LEAST_LOOKS:
        return part
    notes = bridged(part.notes)
    swung = 100.0 * (
        notes - scipy.ndimage.median_filter(notes, odd(SLOW_SECONDS / part.hop_s, len(notes)), mode="nearest")
    )
    swing = strongest_swing(swung, part.hop_s, SLOWEST_EVENED_HZ, FASTEST_HZ)
    if swing is None or swing.turns < MANY_TURNS or swing.share < LEAST_EVENED or swing.amplitude < HEARD_CENTS:
        return part
    _, first, second, third = turned(swung, part.hop_s, swing.rate_hz, 3)
    if np.hypot(second, third) > STEPPED * first:
        return part
    means = scipy.ndimage.uniform_filter1d(notes, max(1, round(1.0 / (swing.rate_hz * part.hop_s))), mode="nearest")
    notes = np.where(np.isfinite(part.notes), means, np.nan)
    return replace(part, notes=notes, window_s=part.window_s + 1.0 / swing.rate_hz)


def moves(notes: Floats) -> bool:
    """Tell whether a pitch moves, and does so steadily rather than by leaps, as one that is guessed does."""
    return float(np.ptp(notes)) > MOVED_ST and float(np.percentile(np.abs(np.diff(notes)), 98.0)) < LEAP_ST


def bridged(notes: Floats) -> Floats:
    """Return notes with what is missing put in by straight lines."""
    known = np.isfinite(notes)
    return np.interp(np.arange(len(notes)), np.flatnonzero(known), notes[known])


def still(part: Track) -> list[Held]:
    """Return the notes that are held in a stretch that has a pitch throughout."""
    if len(part.notes) < SMOOTHED_LOOKS:
        return []
    notes = scipy.ndimage.median_filter(bridged(part.notes), SMOOTHED_LOOKS, mode="nearest")
    reach = max(SMOOTHED_LOOKS, round(STILL_SECONDS / part.hop_s))
    low = scipy.ndimage.minimum_filter1d(notes, reach, mode="nearest")
    high = scipy.ndimage.maximum_filter1d(notes, reach, mode="nearest")
    slopes = scipy.signal.savgol_filter(
        notes, odd(SLOPE_SECONDS / part.hop_s, len(notes)), 1, deriv=1, delta=part.hop_s
    )
    flat = np.flatnonzero((high - low < STILL_ST) & (np.abs(slopes) < STILL_SLOPE))
    if len(flat) == 0:
        return []
    found: list[Held] = []
    half_s = 0.45 * part.window_s  # the first and the last look take in so much before and after
    for run in np.split(flat, np.flatnonzero(np.diff(flat) > 1) + 1):
        first, last = max(0, int(run[0]) - reach // 2), min(len(notes), int(run[-1]) + 1 + reach // 2)
        begin_s = float(part.times_s[first]) - (half_s if first == 0 else 0.0)
        end_s = float(part.times_s[last - 1]) + (half_s if last == len(notes) else 0.0)
        one = Held(begin_s, end_s, float(np.median(notes[run])))
        if found and abs(found[-1].note - one.note) < SAME_ST and one.begin_s - found[-1].end_s < 2 * STILL_SECONDS:
            one = Held(found[-1].begin_s, one.end_s, longest_of(found.pop(), one).note)
        found.append(one)
    return [one for one in found if one.seconds >= STILL_SECONDS]


def at_rest(part: Track, held: list[Held]) -> list[Held]:
    """Return the held notes without those that only seem to be: the pitch goes straight through them, on its way."""
    first = 0
    while first < len(held) - 2:
        ways = range(len(held) - 1, first + 1, -1)
        last = next((late for late in ways if straight_way(part, held[first], held[late])), first + 1)
        held = [*held[: first + 1], *held[last:]]
        first += 1
    return held


def straight_way(part: Track, early: Held, late: Held) -> Glide | None:
    """Return the glide if the pitch goes in a straight line from the end of one held note to the beginning of another.

    Stairs of a semitone are 0.29 semitones beside it.
    """
    way = (part.times_s >= early.end_s) & (part.times_s <= late.begin_s) & np.isfinite(part.notes)
    if abs(late.note - early.note) < LEAST_STRAIGHT_ST or np.count_nonzero(way) < LEAST_LOOKS:
        return None
    times, notes = part.times_s[way], part.notes[way]
    slope, offset = np.polyfit(times, notes, 1)
    if float(np.std(notes - slope * times - offset)) > STRAIGHT_ST or slope * (late.note - early.note) <= 0.0:
        return None
    seconds = float((late.note - early.note) / slope)
    return Glide(float((early.note - offset) / slope), seconds, early.note, late.note)


def odd(looks: float, most: int) -> int:
    """Return about so many looks as an odd number, no more than there are."""
    wanted = 2 * max(1, round(0.5 * looks)) + 1
    return min(wanted, most - 1 + most % 2)


def longest_of(first: Held, second: Held) -> Held:
    """Return the one of two held notes that lasts longer."""
    return first if first.seconds > second.seconds else second


def glides_of(part: Track, held: list[Held]) -> list[Glide]:
    """Return how the pitch goes from one held note to the next, where it does not step."""
    found = []
    notes = (
        scipy.ndimage.median_filter(bridged(part.notes), SMOOTHED_LOOKS, mode="nearest")
        if len(part.notes)
        else part.notes
    )
    for early, late in pairwise(held):
        if abs(late.note - early.note) < LEAST_GLIDE_ST:
            continue
        between = (part.times_s > 0.5 * (early.begin_s + early.end_s)) & (
            part.times_s < 0.5 * (late.begin_s + late.end_s)
        )
        one = glide_in(part.times_s[between], notes[between], early.note, late.note)
        one = one or straight_way(part, early, late)
        if steps_between(part.notes[between], early.note, late.note):
            continue
        if one and not is_there(part, one):
            continue
        blurred = part.window_s + BLUR_LOOKS * part.hop_s
        apart_hz = abs(frequency_of(late.note) - frequency_of(early.note))
        # so fast, one tone that gives way to another looks like a glide
        if one and one.seconds > max(blurred, LEAST_BEATS / apart_hz):
            found.append(one)
    return found


def is_there(part: Track, one: Glide) -> bool:
    """Tell whether the pitch was seen on its way, or would be too fast for that; else a line was drawn across a gap."""
    on_way = part.notes[(part.times_s > one.begin_s) & (part.times_s < one.begin_s + one.seconds)]
    seen = len(on_way) > 0 and float(np.mean(np.isfinite(on_way))) > LEAST_SEEN
    return seen or abs(one.to_note - one.from_note) / one.seconds * part.window_s > BLURRED_ST


def steps_between(notes: Floats, low: float, high: float) -> bool:
    """Tell whether a pitch leaps a great part of its way and stands on it: a note too short to count as held."""
    seen = notes[np.isfinite(notes)]
    way = abs(high - low)
    away = np.minimum(np.abs(seen - low), np.abs(seen - high)) > LEAST_GLIDE_ST
    leaps = len(seen) > 1 and float(np.max(np.abs(np.diff(seen)))) > MOST_OF_WAY * way
    stands = any(
        bool(np.all(away[at : at + STANDING])) and float(np.ptp(seen[at : at + STANDING])) < STILL_ST
        for at in range(len(seen) - STANDING + 1)
    )
    return leaps and stands


def glide_in(times: Floats, notes: Floats, low: float, high: float) -> Glide | None:
    """Return the glide from one note to another within some looks: from where it leaves to where it has arrived."""
    gone = (notes - low) / (high - low)
    away, there = np.flatnonzero(gone <= SETTLED), np.flatnonzero(gone >= 1.0 - SETTLED)
    there = there[there > away[-1]] if len(away) else there
    if len(away) == 0 or len(there) == 0:
        return None
    seconds = float(times[there[0]] - times[away[-1]])
    return Glide(float(times[away[-1]]) - SETTLED * seconds, seconds / (1.0 - 2.0 * SETTLED), low, high)


def vibrato(part: Track) -> Vibrato | None:
    """Return the vibrato of a stretch that has a pitch throughout, or None if that does not move regularly.

    Each look is a mean over its window less a cycle, of cycles that are themselves means; a mean over w seconds weakens
    what moves at a rate r by sin(πrw) / πrw, and that is made good.
    """
    if len(part.notes) < LEAST_LOOKS:
        return None
    notes = bridged(part.notes)
    swing = strongest_swing(100.0 * notes, part.hop_s, SLOWEST_HZ, FASTEST_HZ)
    if swing is None or swing.turns < LEAST_TURNS or not is_smooth(100.0 * notes, part.hop_s, swing):
        return None
    cycle = 1.0 / frequency_of(float(np.median(notes)))
    weakened = np.sinc(swing.rate_hz * (part.window_s - cycle)) * np.sinc(swing.rate_hz * cycle)
    depth = swing.amplitude / float(weakened)
    middle = float(turned(notes, part.hop_s, swing.rate_hz, 1)[0])
    if depth < LEAST_VIBRATO_CENTS or float(weakened) < SEEN_AT_ALL:
        return None
    return Vibrato(
        swing.rate_hz, depth, middle, float(part.times_s[0]), float(part.times_s[-1]), float(weakened) > SEEN_WELL
    )


def turned(course: Floats, step_s: float, rate_hz: float, most: int) -> Floats:
    """Return the mean of a course and the amplitudes at a rate and its multiples, by least squares."""
    turn = 2.0 * np.pi * rate_hz * step_s * np.arange(len(course))
    waves = [wave(n * turn) for n in range(1, most + 1) for wave in (np.cos, np.sin)]
    found = np.linalg.lstsq(np.stack([np.ones(len(turn)), *waves], axis=1), course, rcond=None)[0]
    return np.array([found[0], *np.hypot(found[1::2], found[2::2])])


def is_smooth(cents: Floats, step_s: float, swing: Swing) -> bool:
    """Tell whether a swing is one indeed: nearly all that moves, or far more than noise makes, and not in steps.

    What steps between two notes, as a trill does, moves at three times the rate too.
    """
    if swing.share > LEAST_SHARE:
        return True
    _, first, second, third = turned(cents, step_s, swing.rate_hz, 3)
    noise = float(np.std(cents)) * np.sqrt(max(0.0, 1.0 - swing.share)) * np.sqrt(2.0 / len(cents))
    rough = float(np.hypot(second, third))
    return (
        swing.share > LEAST_NOISY_SHARE
        and swing.turns > NOISY_TURNS
        and first > NOISY_TIMES * noise
        and rough < STEPPED * first
    )
