"""Stages: the attack, decay, sustain and release that a sound or an envelope has gone through."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy

from inner_tone.core.analysis.envelope import Envelope, trembling
from inner_tone.core.arrays import Floats

TOP = 0.999  # of the greatest level, from which on it counts as the top
GONE = 0.001
SETTLED = 0.004  # of the greatest level: so near to where it stays, the decay is over
STEADY_SECONDS = 0.03
MOVES = 0.02  # of the level at the end, within that time: then it has not settled
FALLING = 1e-6  # of the greatest level, from one look to the next
JITTERS = 4.0
QUIET_SECONDS = 0.02
LEAST_LOOKS = 4
LEAST_RISING, FROM_SILENCE = 6, 0.25
LEAST_WAY = 0.02
LET_GO = 0.95
MUCH_LATER = 1.2
OWN_BEND = 4.0  # of our own envelopes
RESTING, ROUGHLY_RESTING = 0.04, 0.08  # of the level, so much lower in the second half of the rest
LEAST_REST = 0.02  # of the time from its top to where it is let go
WAVERS = 0.08
CALM_S = 0.02
UNLIKE, AS_GOOD = 0.04, 0.012  # of a stage's time, as the mean of what is left
SOUNDING = 0.35
LEAST_RISE, LEAST_FALL, LEAST_ROUGH_FALL = 0.15, 0.04, 0.3
ROUGH_MOVES = 0.2


@dataclass(frozen=True)
class Stages:
    """Times in s; the sustain level in dB below the top. A time that cannot be told is missing.

    It begins at `begin_s`, and at `closing_s` its release, or nothing where it does not close. `settles` tells whether
    its level stands still before that, `wavers` whether it goes up and down, `ended` whether it has fallen silent;
    where it is `held` to the last, how it ends is not known.
    Where it was `up` before the stretch begins, there is no attack in it.
    Times are told to within `look_s`, and to some of these where they are not `exact`.
    """

    begin_s: float
    attack_s: float | None
    decay_s: float
    sustain_db: float
    release_s: float | None
    closing_s: float | None
    settles: bool = True
    wavers: bool = False
    ended: bool = True
    held: bool = False
    up: bool = False
    look_s: float = 0.0
    exact: bool = True


def stages_of(found: Envelope, opens_s: float | None = None, closes_s: float | None = None) -> Stages | None:
    """Return the stages of a level that rises, falls to where it stays, and falls to zero; nothing for silence.

    Where it is known when the gate opens and closes, in s, that is taken; else the last fall is looked for. Rises and
    falls that noise or a rough tone could make count for nothing.
    """
    level, step, top = found.levels, found.step_s, found.top
    if top <= 0.0:
        return None
    first = min(len(level) - 1, round(opens_s / step)) if opens_s is not None else 0
    last_heard = int(np.flatnonzero(level > GONE * top)[-1]) + 1
    ended = last_heard < len(level) - 1
    width = max(1, round(max(CALM_S, 2.0 * found.look_s) / step))
    calm = scipy.ndimage.uniform_filter1d(level, width, mode="nearest")
    close = closing_of(level, calm, last_heard, ended, width) if closes_s is None else round(closes_s / step)
    close = max(first, min(len(level) - 1, close))
    still = close if closes_s is not None or not ended else max(first, close - width)  # surely before it is let go
    peak, jitter = peak_of(level, first, max(close, first + 1), found)
    begin = first if opens_s is not None else begin_of(level, peak, top)
    sounds_already = float(calm[begin]) > SOUNDING * top and begin == first
    peak = begin if sounds_already and not rises(calm[begin : close + 1]) else peak
    held = level[max(peak, still - max(round(STEADY_SECONDS / step), 2 * width)) : max(peak, still) + 1]
    sustain = float(np.median(held[len(held) // 2 :]))
    least, moves = (LEAST_FALL, MOVES) if found.exact else (LEAST_ROUGH_FALL, ROUGH_MOVES)
    tolerance = max(SETTLED * top, JITTERS * jitter)
    still_stands = abs(float(np.mean(held[: (len(held) + 1) // 2])) - sustain) < moves * top
    falls = sustain < (1.0 - least) * min(float(level[peak]), float(np.max(calm[begin : close + 1])))
    decay = decay_of(level[peak : close + 1], sustain, tolerance) if falls else 0.0
    # what it takes all the time for has not come to an end
    has_rest = len(held) > width and close - peak - decay > max(width, LEAST_REST * (close - peak))
    has_rest = has_rest and is_level(level[peak + round(decay) : close + 1], found.exact)
    return Stages(
        begin_s=begin * step,
        attack_s=attack_of(level[first : peak + 1], peak - begin, found),
        decay_s=decay * step,
        sustain_db=float(20.0 * np.log10(max(sustain, 1e-6) / top)) if falls else 0.0,
        release_s=release_of(level, max(peak, still), close, last_heard) * step if ended else None,
        closing_s=close * step if ended or closes_s is not None else None,
        settles=(has_rest and still_stands) or sustain < 2.0 * GONE * top,
        wavers=wavers(calm[peak + width : close + 1 - width], top) or wavers(-calm[begin : peak + 1], top),
        ended=ended,
        look_s=found.look_s,
        exact=found.exact,
    )


def closing_of(level: Floats, calm: Floats, last_heard: int, ended: bool, width: int) -> int:
    """Return where the last fall begins, as its form tells; the last look where it does not end."""
    if not ended:
        return last_heard - 1
    rough = fall_begins(calm, last_heard, float(np.max(calm)), max(1, width // 2))
    fall = level[rough : last_heard + 1]
    fitted = stage_fit(fall, float(level[rough]), 0.0)
    return rough + max(0, round(fitted.begin)) if fitted is not None else rough


def rises(level: Floats) -> bool:
    """Tell whether a level that sounds already goes on to rise, and by more than it trembles."""
    return float(np.max(level)) > (1.0 + LEAST_RISE) * float(level[0])


def attack_of(level: Floats, looks: int, found: Envelope) -> float | None:
    """Return how many s an attack takes, from the gate or from silence to the top; nothing where it cannot be told."""
    if looks <= 0:
        return 0.0
    fitted = stage_in(level, 0.0, float(level[-1]))
    if fitted is None and not found.exact:
        return None
    # within a cycle, what does not rise from silence in a known form may as well be a filter that is set swinging
    within = looks * found.step_s < found.cycle_s
    if within and (fitted is None or looks < LEAST_RISING or level[0] > FROM_SILENCE * level[-1]):
        return None
    return (fitted if fitted is not None else looks) * found.step_s


def is_level(rest: Floats, exact: bool) -> bool:
    """Tell whether what is left to the end of the gate goes down no further."""
    first, second = (float(np.mean(half)) for half in np.array_split(rest, 2))
    return first - second <= (RESTING if exact else ROUGHLY_RESTING) * second


def decay_of(level: Floats, sustain: float, tolerance: float) -> float:
    """Return how many looks it takes to fall from the first of them to where it stays.

    A form that would come near to where it stays much later than the fall does is not that of the fall; one that is
    bent more than our own envelopes could take as long as it likes.
    """
    settled = np.flatnonzero(level <= sustain + tolerance)
    there = float(settled[0]) if len(settled) else 0.0
    fitted = stage_fit(level, float(level[0]), sustain)
    if fitted is None:
        return there
    near = fitted.looks * progress_at(
        1.0 - min(1.0, tolerance / (float(level[0]) - sustain)), min(fitted.bend, OWN_BEND)
    )
    return fitted.looks if near < MUCH_LATER * there else there


def release_of(level: Floats, still: int, close: int, gone: int) -> float:
    """Return how many looks it takes to fall to nothing.

    Where its form is not known, from where it was last as strong as it was `still` until it is `gone`.
    """
    fitted = stage_in(level[close : gone + 1], float(level[close]), 0.0)
    if fitted is not None:
        return fitted
    strong = np.flatnonzero(level[still : gone + 1] >= LET_GO * level[still])
    return float(gone - still - (int(strong[-1]) if len(strong) else 0))


def stage_in(level: Floats, start: float, end: float) -> float | None:
    """Return how many looks a stage takes, if it has a form that is known."""
    fitted = stage_fit(level, start, end)
    return fitted.looks if fitted is not None else None


class StageFit(NamedTuple):
    """A form that a stage has: at which look it begins, how many it takes, and how much it is bent."""

    begin: float
    looks: float
    bend: float


def stage_fit(level: Floats, start: float, end: float) -> StageFit | None:
    """Return the form of a stage: straight, or bent as a capacitor charges.

    When it has gone which parts of its way tells how much it is bent, and so its whole time, by least squares. Of
    bends that fit about as well, straight and our own envelopes' are taken. None for another form.
    """
    if len(level) < LEAST_LOOKS or abs(end - start) <= LEAST_WAY * max(abs(start), abs(end)):
        return None
    gone = (level - start) / (end - start)
    times = [first_crossing(gone, part) for part in PARTS]
    if None in times:
        return None
    at = np.array(times, dtype=np.float64)
    middle = float(np.mean(at))
    at -= middle
    slopes = PROGRESS @ at / np.sum(PROGRESS**2, axis=1)
    left = np.sqrt(np.mean((at - slopes[:, np.newaxis] * PROGRESS) ** 2, axis=1)) / np.maximum(slopes, 1e-9)
    best = int(np.argmin(left))
    if left[best] > UNLIKE or slopes[best] <= 0.0:
        return None
    usual = min(USUAL, key=lambda place: left[place])
    taken = usual if left[usual] < left[best] + AS_GOOD else best
    return StageFit(middle - float(slopes[taken] * MEAN_PROGRESS[taken]), float(slopes[taken]), float(BENDS[taken]))


def first_crossing(gone: Floats, part: float) -> float | None:
    """Return at which look, with fractions, a part of the way has been gone."""
    there = np.flatnonzero(gone >= part)
    if len(there) == 0:
        return None
    at = int(there[0])
    if at == 0:
        return 0.0
    low, high = float(gone[at - 1]), float(gone[at])
    return at - 1 + (part - low) / (high - low)


def progress_at(way: float, bend: float) -> float:
    """Return after which part of its time a stage with a bend has gone a part of its way; 0 is straight."""
    if abs(bend) < 1e-6:
        return way
    return float(-np.log(1.0 - way * (1.0 - np.exp(-bend))) / bend)


PARTS = np.linspace(0.1, 0.95, 18)
BENDS = np.linspace(-1.0, 8.0, 46)
USUAL = (int(np.argmin(np.abs(BENDS))), int(np.argmin(np.abs(BENDS - OWN_BEND))))  # straight, and our own
PROGRESS = np.array([[progress_at(float(part), float(bend)) for part in PARTS] for bend in BENDS])
MEAN_PROGRESS = np.mean(PROGRESS, axis=1)
PROGRESS -= MEAN_PROGRESS[:, np.newaxis]


def peak_of(level: Floats, first: int, close: int, found: Envelope) -> tuple[int, float]:
    """Return where the top is first reached, and by how much the level trembles there."""
    rising = level[first : close + 1]
    top = float(np.max(rising))
    around = rising[np.argmax(rising) :][: max(8, round(STEADY_SECONDS / found.step_s))]
    jitter = trembling(around)
    return first + int(np.flatnonzero(rising >= min(TOP * top, top - jitter))[0]), jitter


def wavers(levels: Floats, top: float) -> bool:
    """Tell whether a level that is held goes up and down, so that there is no telling its stages."""
    if len(levels) < LEAST_LOOKS:
        return False
    lowest = np.minimum.accumulate(levels)
    return bool(np.max(levels - lowest) > WAVERS * top)


def begin_of(level: Floats, peak: int, top: float) -> int:
    """Return where it begins to rise: where it was last silent before its peak."""
    before = np.flatnonzero(level[: peak + 1] <= GONE * top)
    return int(before[-1]) if len(before) else 0


def fall_begins(level: Floats, end: int, top: float, stride: int) -> int:
    """Return where the last fall begins: going back from the end, where the level no longer rises towards the past."""
    here = end - 1
    while here - stride >= 0 and level[here - stride] > level[here] + FALLING * top:
        here -= stride
    return here


def first_stretch(level: Floats, step_s: float) -> Floats:
    """Return a level up to where it has fallen silent for the first time, with the rest at zero."""
    heard = np.flatnonzero(level > GONE * np.max(level, initial=0.0))
    gaps = np.flatnonzero(np.diff(heard) > QUIET_SECONDS / step_s)
    if len(gaps) == 0:
        return level
    found = level.copy()
    found[heard[gaps[0]] + 1 :] = 0.0
    return found
