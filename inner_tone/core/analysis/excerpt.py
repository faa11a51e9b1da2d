"""A sound between two moments, with what is known of it there; each thing is found out once.

All that is said of pitch and partials comes from one passage within it: a note that is held, or else what changes
least. It never reaches across two notes.
"""

from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from itertools import pairwise

import numpy as np
import scipy

from inner_tone.core.analysis import envelope as envelopes
from inner_tone.core.analysis import passage as passages
from inner_tone.core.analysis import series as serial
from inner_tone.core.analysis import spectrum, straightened
from inner_tone.core.analysis.beating import Beating, beating
from inner_tone.core.analysis.driven import pitch_track
from inner_tone.core.analysis.harmonics import Harmonics, harmonics_of
from inner_tone.core.analysis.melody import Glide, Held, Melody, Vibrato, bridged, melody_of, moves, voiced
from inner_tone.core.analysis.pitch import Repetition, repetition
from inner_tone.core.analysis.shape import Shape, shape_of
from inner_tone.core.analysis.stages import LEAST_RISE, Stages, first_stretch, stages_of
from inner_tone.core.analysis.sweep import USUAL_HIGH_HZ, USUAL_LOW_HZ, Sweep, sweep
from inner_tone.core.analysis.tonal import tonal_share
from inner_tone.core.analysis.track import Track
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of, midi_of

LONGEST_S = 1.0
LEAD_S = 0.02  # half a cycle of what is just heard, twice
LEAST_MOVED_CENTS = 2.0  # a pitch that moves less has partials as sharp as one that stands
MARGIN_S = 0.006  # a break is heard so long around it
LEAST_PITCHED = 0.5  # of the time
TONAL, NOISY, CROWDED_NOISY = 0.6, 0.15, 0.6
HALF = 0.5  # of the power: where noise has more, a pitch beneath it is not sure
SILENT = 1e-5
LEAST_STANDING_S, SAME_SHARE, WITHIN = 0.4, 5e-4, 0.25
EDGE_WINDOWS = 0.6  # of a look: so far from another note, a held one is sure to be alone
SAME_NOTE_ST, MOST_CHECKED = 0.5, 6
MULTIPLE_SHARE, UNHEARD_DB = 0.03, 30.0
LOWEST_HZ = 30.0  # lower, what swings or trembles is easily taken for a note
OUTERMOST = (5.0, 95.0)  # percent
SLOW_HZ = 16.0
COARSE = 8  # samples: a sixth of a millisecond
COURSE_BELOW = 1e-3
HUSHED, LEAST_SILENCE_S, SILENT_CYCLES = 0.005, 0.015, 1.3
CLEARLY, SURELY = 0.9, 0.99
SLOW_CLEARLY, SLOW_OFF_HZ, BLURRED_HZ = 0.95, 0.4, 6.0
LEAST_SLOW_PARTIALS = 8
UNISON_SHARE = 0.012
UNISON = serial.Exactness(1.2, UNISON_SHARE)  # tones that nearly agree
STRONG_FIRST = 0.1
SAME_RATE = 0.05
STRUCK_S = 0.04
WIDE_CENTS = 60.0  # a vibrato so wide may blur what its straightened partials form
DRIVEN_CENTS = 25.0
MOST_BEATEN_CENTS, FASTEST_BEAT_HZ, BEATEN_DB = 40.0, 15.0, 30.0
BEATEN_S, BEATEN_SHARE = 0.02, 0.04
BLUR_BINS = 0.4
SWUNG_HZ, SWUNG_SHARE, FIRST_SHARE = 5.0, 0.08, 0.02
PARTS, BLURRED = 12, 0.02
TURNS, LONGEST_PARTED_S = 3.0, 4.0
UNEXPLAINED, COMBED = 0.6, 0.8


@dataclass(frozen=True)
class Window:
    """The samples that are looked at, from one to before another, and whether the pitch moves meanwhile."""

    first: int
    last: int
    moving: bool = False


@dataclass(frozen=True)
class Excerpt:
    """A part of a signal, shape (n,), that begins at a time in s.

    `gates_s` are the times, in s, from when to when something is known to be struck and held: no passage reaches across
    them. `looked` are the samples to be looked at, from one to before another, where something else decides that.
    `lead` are the last LEAD_S before it, as far as there is anything before it.
    """

    signal: Floats
    rate: float
    begin_s: float = 0.0
    gates_s: tuple[tuple[float, float], ...] = ()
    looked: tuple[int, int] | None = None
    lead: Floats = field(default_factory=partial(np.zeros, 0))

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return len(self.signal) / self.rate

    @cached_property
    def peak(self) -> float:
        """The greatest distance from zero."""
        return float(np.max(np.abs(self.signal), initial=0.0))

    @property
    def is_silent(self) -> bool:
        """Whether nothing is there."""
        return self.peak < SILENT

    @cached_property
    def track(self) -> Track:
        """Its pitch over time, the times counted from its own beginning."""
        return pitch_track(self.signal, self.rate)

    @cached_property
    def melody(self) -> Melody:
        """What its pitch does."""
        found = melody_of(self.track)
        if found.glides and self.gates_s:
            found = replace(found, glides=tuple(one for one in found.glides if not self.is_struck_on_way(one)))
        swing = found.vibrato
        # behind a filter that moves, as much may be its doing
        unsure = swing is not None and self.track.driven and swing.depth_cents < DRIVEN_CENTS
        if swing is not None and (unsure or (swing.depth_cents < MOST_BEATEN_CENTS and self.is_beaten(swing))):
            return Melody((Held(swing.begin_s, swing.end_s, swing.note),), (), None, found.share)
        return found

    @property
    def is_driven(self) -> bool:
        """Whether a filter moves so much that the pitch of what drives it is told, and nothing of its partials."""
        return self.track.driven and bool(self.melody.held or self.melody.vibrato)

    def told(self, note: float) -> float:
        """Return a note as far as it can be told: the nearest there is, where a filter moves."""
        return float(round(note)) if self.is_driven else note

    def is_struck_on_way(self, one: Glide) -> bool:
        """Tell whether something is struck on the way of what looks like a glide: before that there was no pitch."""
        begin_s = self.begin_s + one.begin_s
        end_s = begin_s + one.seconds
        # what glides is struck where that begins, if at all; behind a filter that opens, its pitch is not clear at once
        least_s = STRUCK_S if self.track.driven else max(STRUCK_S, self.track.window_s)
        first_s = min(begin_s + least_s, end_s - STRUCK_S)
        return any(first_s < opens < end_s + STRUCK_S for opens, _ in self.gates_s)

    def is_beaten(self, swing: Vibrato) -> bool:
        """Tell whether two tones side by side make a pitch tremble: then there are just these two."""
        first, last = (round(at * self.rate) for at in (swing.begin_s, swing.end_s))
        middle, half = (first + last) // 2, round(0.5 * LONGEST_S * self.rate)
        found = spectrum.partials_of(self.signal[max(first, middle - half) : min(last, middle + half)], self.rate)
        near = [one for one in found if abs(one.frequency_hz - frequency_of(swing.note)) < 1.5 * FASTEST_BEAT_HZ]
        top = max((one.level_db for one in near), default=0.0)
        levels = np.sqrt(np.mean(in_blocks(self.signal[first:last] ** 2), axis=1))
        levels = scipy.ndimage.uniform_filter1d(levels, max(1, round(BEATEN_S * self.rate / COARSE)))
        swells = float(np.std(levels)) > BEATEN_SHARE * float(np.mean(levels))
        return swells and sum(one.level_db > top - BEATEN_DB for one in near) == 2

    def beside(self, other: "Excerpt") -> "Excerpt":
        """Return the same excerpt looked at in the passage of another one, where it lasts so long."""
        first, last = (round(at * self.rate / other.rate) for at in (other.window.first, other.window.last))
        return replace(self, looked=(first, last)) if last <= len(self.signal) else self

    @cached_property
    def window(self) -> Window:
        """The passage that is looked at: the one that says most, unless something else decides that."""
        return Window(*self.looked, self.telling_window.moving) if self.looked else self.telling_window

    @cached_property
    def telling_window(self) -> Window:
        """The passage that says most: a held note, a vibrato or a glide, or what changes least."""
        found = self.melody
        if found.vibrato is None and self.is_restless and not self.is_driven:
            steady = self.calmest_of_all
            if self.stands(steady):
                return steady
        if found.held:
            return self.held_window(found.held)
        if found.vibrato and found.vibrato.depth_cents > LEAST_MOVED_CENTS:
            return self.calmest(found.vibrato.begin_s, found.vibrato.end_s, moving=True)
        runs = voiced(self.track)
        if runs and found.share > LEAST_PITCHED and not found.vibrato:
            first, last = max(runs, key=lambda run: run[1] - run[0])
            if moves(bridged(self.track.notes[first:last])):
                return self.calmest(float(self.track.times_s[first]), float(self.track.times_s[last - 1]), moving=True)
        return self.calmest_of_all

    @property
    def is_restless(self) -> bool:
        """Whether the track of its pitch does not hold one note: then it may have been led astray."""
        held = self.melody.held
        return not held or float(np.ptp([one.note for one in held])) > SAME_NOTE_ST

    def stands(self, window: Window) -> bool:
        """Tell whether both halves of a passage have partials of one and the same fundamental: its pitch stands."""
        part = self.signal[window.first : window.last]
        if len(part) < LEAST_STANDING_S * self.rate or not passages.is_calm(part, self.rate):
            return False
        found = [self.fundamental_in(half) for half in np.array_split(part, 2)]
        return found[0] is not None and found[1] is not None and abs(found[0] / found[1] - 1.0) < SAME_SHARE

    def fundamental_in(self, part: Floats) -> float | None:
        """Return the fundamental of which all partials of a stretch are exact multiples, if there is one."""
        rough = repetition(part, self.rate)
        known = serial.exactness(self.rate / len(part), False)
        found = serial.series_of(spectrum.partials_of(part, self.rate), known, rough.hertz if rough else None)
        return found.fundamental_hz

    def held_window(self, held: tuple[Held, ...]) -> Window:
        """Return the passage within the longest and loudest of some held notes."""
        edge_s = EDGE_WINDOWS * self.track.window_s if len(held) > 1 else 0.0
        trimmed = [(one.begin_s + edge_s, one.end_s - edge_s) for one in held if one.seconds > 4.0 * edge_s]
        parts = [part for one in trimmed or [(one.begin_s, one.end_s) for one in held] for part in self.unbroken(*one)]
        return self.calmest(*max(parts, key=self.worth))

    @property
    def calmest_of_all(self) -> Window:
        """The passage in which least changes of the stretch that is worth most."""
        return self.calmest(*max(self.unbroken(0.0, self.seconds), key=self.worth))

    def worth(self, part: tuple[float, float]) -> float:
        """Return how much there is to be heard between two times in s: its RMS by its time."""
        first, last = (max(0, round(at * self.rate)) for at in part)
        samples = self.signal[first:last]
        rms = float(np.sqrt(np.mean(samples**2))) if len(samples) else 0.0
        return rms * min(LONGEST_S, part[1] - part[0])

    def calmest(self, begin_s: float, end_s: float, *, moving: bool = False) -> Window:
        """Return the passage between two times in which least changes."""
        first, last = (max(0, min(len(self.signal), round(at * self.rate))) for at in (begin_s, end_s))
        start, size = passages.calmest(self.signal[first:last], self.rate)
        return Window(first + start, first + start + size, moving)

    def unbroken(self, begin_s: float, end_s: float) -> list[tuple[float, float]]:
        """Return the parts of a time between which something begins or ends."""
        known = {at - self.begin_s for gate in self.gates_s for at in gate}
        cuts = [at for at in sorted({*known, *self.silence_edges_s}) if begin_s < at < end_s]
        edges = [begin_s, *cuts, end_s]
        parts = [
            (early + (MARGIN_S if n else 0.0), late - (MARGIN_S if n < len(cuts) else 0.0))
            for n, (early, late) in enumerate(pairwise(edges))
        ]
        return [part for part in parts if part[1] > part[0]] or [(begin_s, end_s)]

    @cached_property
    def silence_edges_s(self) -> tuple[float, ...]:
        """Where the sound stops and begins again, for longer than one of its cycles could be silent."""
        heard = np.flatnonzero(np.max(in_blocks(np.abs(self.signal)), axis=1) > HUSHED * self.peak)
        notes = [one.note for one in self.melody.held]
        longest_s = max(LEAST_SILENCE_S, SILENT_CYCLES / frequency_of(min(notes)) if notes else 0.0)
        gaps = np.flatnonzero(np.diff(heard) * COARSE > longest_s * self.rate)
        edges = np.concatenate([heard[gaps] + 1, heard[gaps + 1]]) if len(gaps) else np.zeros(0)
        return tuple(sorted(float(at * COARSE / self.rate) for at in edges))

    @cached_property
    def passage(self) -> Floats:
        """The samples of the window."""
        return self.signal[self.window.first : self.window.last]

    @cached_property
    def straight(self) -> Floats:
        """The passage with its pitch made to stand still, where it moves."""
        if not self.window.moving:
            return self.passage
        begin_s = self.window.first / self.rate
        swing = self.melody.vibrato
        if swing is not None:
            return straightened.along_vibrato(self.passage, self.rate, begin_s, self.track, swing)[0]
        return straightened.along_track(self.passage, self.rate, begin_s, self.track)[0]

    @cached_property
    def repetition(self) -> Repetition | None:
        """How often a second the passage repeats, and how clearly."""
        return repetition(self.straight, self.rate)

    @cached_property
    def exactness(self) -> serial.Exactness:
        """How exactly the frequencies of its partials are known."""
        return serial.exactness(self.rate / max(1, len(self.straight)), self.window.moving)

    @cached_property
    def sinusoids(self) -> tuple[spectrum.Partial, ...]:
        """The partials of the passage, without numbers."""
        return spectrum.partials_of(self.straight, self.rate)

    @cached_property
    def parted(self) -> tuple[spectrum.Partial, ...]:
        """The partials of as long a stretch around the passage as it takes to part those that beat."""
        beats = self.beating
        if beats is None or self.window.moving:
            return self.sinusoids
        wanted = min(LONGEST_PARTED_S, TURNS / beats.rate_hz)
        more = max(0, round(0.5 * (wanted * self.rate - len(self.passage))))
        first, last = max(0, self.window.first - more), min(len(self.signal), self.window.last + more)
        return spectrum.partials_of(self.signal[first:last], self.rate)

    @cached_property
    def series(self) -> serial.Series:
        """What the partials form.

        Those of a tone whose level or brightness swings are blurred, each as much as any other: that is borne, where it
        clearly repeats.
        """
        rough = self.repetition
        found = serial.series_of(self.sinusoids, self.exactness, rough.hertz if rough else None)
        if rough is None or rough.clarity < CLEARLY or not self.is_blurred:
            return found
        explained = tonal_share(self.straight, self.rate, self.sinusoids)
        if found.fundamental_hz is not None and explained > UNEXPLAINED:
            return found
        judged = serial.dominant(self.sinusoids, rough.hertz)
        width_hz = self.rate / len(self.straight)
        bearable = [(BLUR_BINS * width_hz, False)] if judged else []
        if self.has_first(judged, rough.hertz):
            bearable.append((min(SWUNG_HZ, SWUNG_SHARE * rough.hertz), True))
        for hertz, is_swung in bearable:
            blurred = serial.Exactness(hertz, self.exactness.share)
            again = serial.fundamental_of(*serial.arrays(judged), blurred, rough.hertz)
            taken = rough.hertz if is_swung and again is not None else again
            if taken is not None and self.is_combed(taken):
                return serial.Series(taken)
        if explained < UNEXPLAINED and self.is_combed(rough.hertz):
            return serial.Series(rough.hertz)
        return found

    def is_combed(self, hertz: float) -> bool:
        """Tell whether nearly all of the passage lies around the multiples of a fundamental."""
        comb = harmonics_of(self.straight, self.rate, hertz)
        return comb is not None and comb.tonal_share > COMBED

    def has_first(self, judged: list[spectrum.Partial], hertz: float) -> bool:
        """Tell whether the first partial of a fundamental is there, and strong."""
        if not judged:
            return False
        frequencies, weights = serial.arrays(judged)
        first = weights[np.abs(frequencies / hertz - 1.0) < FIRST_SHARE]
        return len(first) > 0 and bool(np.max(first) > STRONG_FIRST * np.max(weights))

    @cached_property
    def is_blurred(self) -> bool:
        """Whether its level or the balance of its octaves moves within the passage."""
        parts = np.array_split(self.straight, PARTS)
        levels = np.array([np.sqrt(np.mean(part**2)) if len(part) else 0.0 for part in parts])
        moves = float(np.std(levels)) > BLURRED * float(np.mean(levels))
        cycle_s = 1.0 / self.repetition.hertz if self.repetition else 0.0
        return moves or passages.is_changing(self.straight, self.rate, cycle_s)

    @cached_property
    def is_unison(self) -> bool:
        """Whether several tones of nearly the same pitch sound together."""
        found, rough = self.series, self.repetition
        if (
            self.window.moving
            or found.fundamental_hz is not None
            or found.notes_hz
            or rough is None
            or rough.clarity < CLEARLY
        ):
            return False
        judged = serial.dominant(self.sinusoids, rough.hertz)
        if not self.has_first(judged, rough.hertz):
            return False
        frequencies, weights = serial.arrays(judged)
        return serial.fundamental_of(frequencies, weights, UNISON, rough.hertz) is not None

    @cached_property
    def fundamental_hz(self) -> float | None:
        """The fundamental in Hz, if there is one that is sure; of tones that nearly agree, how often they repeat."""
        if self.is_driven:
            return self.note_hz
        if self.series.fundamental_hz is not None:
            return self.series.fundamental_hz
        swing = self.melody.vibrato
        swings = self.window.moving and swing is not None and swing.is_sure
        least = CLEARLY if swing is not None and swing.depth_cents > WIDE_CENTS else SURELY
        is_clear = self.repetition is not None and self.repetition.clarity > least
        return self.repetition.hertz if self.repetition and (self.is_unison or (swings and is_clear)) else None

    @cached_property
    def partials(self) -> tuple[spectrum.Partial, ...]:
        """The partials of the passage, with their numbers where they have a fundamental."""
        if self.fundamental_hz is None or self.is_noise:
            return self.sinusoids
        known = UNISON if self.is_unison else self.exactness
        return spectrum.numbered(self.sinusoids, self.fundamental_hz, known.of)

    @cached_property
    def harmonics(self) -> Harmonics | None:
        """The levels of its harmonics, where it has a fundamental and enough cycles to tell them."""
        if self.fundamental_hz is None:
            return None
        return harmonics_of(self.straight, self.rate, self.fundamental_hz, self.window.moving)

    @cached_property
    def tonal_share(self) -> float:
        """How much of the passage's power is tone, 0 to 1."""
        if self.harmonics is not None and not self.is_unison:
            return self.harmonics.tonal_share
        return tonal_share(self.straight, self.rate, self.sinusoids)

    @property
    def has_pitch(self) -> bool:
        """Whether it has one pitch that its partials bear out."""
        return self.is_driven or (self.fundamental_hz is not None and not self.is_noise and self.tonal_share > HALF)

    @property
    def is_noise(self) -> bool:
        """Whether it is noise, and no tone in it stands out."""
        if self.is_driven:
            return False
        is_roomy = self.harmonics is None or self.harmonics.roomy
        return self.tonal_share < (NOISY if is_roomy else CROWDED_NOISY)

    @property
    def is_tonal(self) -> bool:
        """Whether it is a tone, or several, and little else."""
        return self.tonal_share > TONAL

    @cached_property
    def slow_hz(self) -> float | None:
        """How often a second it repeats, where that is too slow for a pitch, and it has none."""
        if self.fundamental_hz is not None or self.melody.held:
            return None
        found = repetition(self.signal, self.rate)
        if found is None or found.hertz > SLOW_HZ or found.clarity < SLOW_CLEARLY:
            return None
        frequencies, _ = serial.arrays(serial.dominant(self.sinusoids, found.hertz))
        if 0 < len(frequencies) < LEAST_SLOW_PARTIALS:
            return None
        if found.hertz < BLURRED_HZ:  # its partials lie too near to one another to be told apart
            return found.hertz
        off = np.abs(frequencies - found.hertz * np.round(frequencies / found.hertz))
        return found.hertz if np.all(off < SLOW_OFF_HZ) else None

    @cached_property
    def is_changing(self) -> bool:
        """Whether the balance of its octaves changes within the passage."""
        cycle_s = 1.0 / self.fundamental_hz if self.fundamental_hz else 0.0
        return passages.is_changing(self.straight, self.rate, cycle_s)

    @cached_property
    def shape(self) -> Shape:
        """How its harmonics fall, where they are cut off and where they are lifted; empty where it changes."""
        if self.harmonics is None or self.is_changing or self.is_unison:
            return Shape()
        return shape_of(self.harmonics)

    @cached_property
    def sure_notes(self) -> tuple[Held, ...]:
        """The notes that are held one after the other, each in the octave of its partials rather than of its cycles."""
        held = self.melody.held
        if any(frequency_of(one.note) > LOWEST_HZ for one in held):
            held = tuple(one for one in held if frequency_of(one.note) > LOWEST_HZ or self.has_own(one))
        if self.is_driven:
            return tuple(replace(one, note=self.told(one.note)) for one in held)
        if self.fundamental_hz is None:
            return held
        if not held or self.reaches_across(held):
            note = midi_of(self.fundamental_hz)
            return (Held(self.window.first / self.rate, self.window.last / self.rate, note),)
        if np.ptp([one.note for one in held]) < SAME_NOTE_ST:
            return tuple(replace(one, note=midi_of(self.fundamental_hz)) for one in held)
        held = tuple(
            one for n, one in enumerate(held) if not (0 < n < len(held) - 1 and self.is_common(*held[n - 1 : n + 2]))
        )
        return tuple(self.octave_of(one) for one in held) if len(held) <= MOST_CHECKED else held

    def is_common(self, early: Held, one: Held, late: Held) -> bool:
        """Tell whether a note is none, but how often two that sound together for a while repeat."""
        own = frequency_of(one.note)
        times = [frequency_of(other.note) / own for other in (early, late)]
        if any(round(n) < 2 or abs(n / round(n) - 1.0) > MULTIPLE_SHARE for n in times):
            return False
        return not self.has_own(one)

    def has_own(self, one: Held) -> bool:
        """Tell whether a held note has a partial of its own frequency, rather than only a cycle that is as long."""
        first, last = (round(at * self.rate) for at in (one.begin_s, one.end_s))
        found = spectrum.partials_of(self.signal[max(0, first) : last], self.rate)
        own = frequency_of(one.note)
        firsts = [part.level_db for part in found if abs(part.frequency_hz / own - 1.0) < MULTIPLE_SHARE]
        return max(firsts, default=-np.inf) > max((part.level_db for part in found), default=0.0) - UNHEARD_DB

    @property
    def span(self) -> tuple[float, float]:
        """Between which notes nearly all of its track lies; the pitch of the passage where there is none."""
        notes = self.track.notes[np.isfinite(self.track.notes)]
        if len(notes) == 0:
            note = midi_of(self.fundamental_hz or 1.0)
            return note, note
        low, high = np.percentile(notes, OUTERMOST)
        return float(low), float(high)

    def reaches_across(self, held: tuple[Held, ...]) -> bool:
        """Tell whether the window takes in several notes: they are none then, for its partials form one series."""
        first, last = self.window.first / self.rate, self.window.last / self.rate
        least_s = WITHIN * (last - first)
        within = [one.note for one in held if min(last, one.end_s) - max(first, one.begin_s) > least_s]
        return len(within) > 1 and float(np.ptp(within)) > SAME_NOTE_ST

    def octave_of(self, one: Held) -> Held:
        """Return a held note with the pitch that its partials bear out: lower by whole multiples, where there are more.

        What repeats in a cycle has no fundamental above it, however weak its lower partials are.
        """
        first, last = (round(at * self.rate) for at in (one.begin_s, one.end_s))
        part = Excerpt(self.signal[max(0, first) : last], self.rate)
        if part.fundamental_hz is None or part.is_noise:
            return one
        times = frequency_of(one.note) / part.fundamental_hz
        fits = round(times) >= 1 and abs(times / round(times) - 1.0) < MULTIPLE_SHARE
        return replace(one, note=midi_of(part.fundamental_hz)) if fits else one

    @cached_property
    def note(self) -> float | None:
        """The pitch that a track gives the window, as a fractional MIDI note: what moves has its middle."""
        swing = self.melody.vibrato
        if swing is not None:
            return swing.note
        middle = 0.5 * (self.window.first + self.window.last) / self.rate
        near = [one for one in self.melody.held if one.begin_s - MARGIN_S <= middle <= one.end_s + MARGIN_S]
        if not near and self.is_driven:
            near = [min(self.melody.held, key=lambda one: abs(0.5 * (one.begin_s + one.end_s) - middle))]
        return near[0].note if near else None

    @property
    def note_hz(self) -> float | None:
        """That pitch in Hz."""
        return frequency_of(self.note) if self.note is not None else None

    @cached_property
    def usual_sweep(self) -> Sweep:
        """Its short-time spectra as the sweep lens shows them unless it is set otherwise."""
        return sweep(self.signal, self.rate, low_hz=USUAL_LOW_HZ, high_hz=USUAL_HIGH_HZ)

    @cached_property
    def is_course(self) -> bool:
        """Whether it is itself a course of strength, as that of an envelope is: never below zero, and slow."""
        return bool(np.min(self.signal, initial=0.0) > -COURSE_BELOW)

    @cached_property
    def envelope(self) -> envelopes.Envelope:
        """How strong it is from moment to moment."""
        if self.is_course:
            return envelopes.plain(self.signal, self.rate)
        window = self.window
        steady = None if window.moving or self.is_changing else self.fundamental_hz
        return envelopes.envelope_of(self.signal, self.rate, window.first, window.last, steady or self.cycle_hz)

    @property
    def wave_hz(self) -> float | None:
        """How often a second its wave comes back at the passage, or nothing where that is not clear."""
        if (self.window.moving or self.is_driven) and self.note_hz and self.has_pitch:
            return self.note_hz
        return self.slow_hz or (self.fundamental_hz if self.has_pitch else None)

    @property
    def cycle_hz(self) -> float | None:
        """How often a second its wave comes back, as far as that is known."""
        return self.fundamental_hz or self.note_hz or (self.repetition.hertz if self.repetition else None)

    @cached_property
    def stages(self) -> Stages | None:
        """The attack, decay, sustain and release of what is struck first."""
        if self.is_silent:
            return None
        gate = self.gates_s[0] if self.gates_s else None
        found = self.envelope
        if gate is not None and len(self.gates_s) > 1:
            found = replace(found, levels=found.part(0.0, self.gates_s[1][0] - self.begin_s))
        elif gate is None:
            found = replace(found, levels=first_stretch(found.levels, found.step_s))
        if gate is None:
            return stages_of(found)
        opens, closes = (at - self.begin_s for at in gate)
        stages = stages_of(found, max(0.0, opens), closes if closes < self.seconds else None)
        # where the next one begins before this one has died away, how it ends is not heard
        held = closes >= self.seconds or len(self.gates_s) > 1
        if stages and stages.attack_s == 0.0 and self.is_up_already:
            stages = replace(stages, attack_s=None, up=True)
        return replace(stages, held=held) if stages else None

    @property
    def is_up_already(self) -> bool:
        """Tell whether it was about as strong all through its lead as it is at its beginning."""
        count = round(LEAD_S * self.rate)
        if len(self.lead) < count:
            return False
        start = float(np.max(np.abs(self.signal[:count]), initial=0.0))
        before = min(float(np.max(np.abs(half))) for half in np.array_split(self.lead, 2))
        return before * (1.0 + LEAST_RISE) > start

    @cached_property
    def held_power(self) -> Floats:
        """The course of the power, in steps of COARSE samples, from the end of the first attack until it is let go."""
        power = np.asarray(np.mean(in_blocks(self.signal**2), axis=1))
        coarse = self.rate / COARSE
        if self.stages is None:
            return power[:0]
        begin = self.stages.begin_s + (0.0 if self.stages.wavers else self.stages.attack_s or 0.0)
        closing = self.stages.closing_s
        return power[round(begin * coarse) : len(power) if closing is None else round(closing * coarse)]

    @cached_property
    def beating(self) -> Beating | None:
        """Its regular swelling and fading, if it has any."""
        if self.is_silent or self.is_noise:
            return None
        found = beating(self.held_power, self.rate / COARSE, self.cycle_hz)
        if found is None or self.is_course or not self.envelope.exact:
            return found
        # how deep it is, the envelope tells better
        closely = beating(self.envelope.levels**2, 1.0 / self.envelope.step_s, None)
        is_same = closely is not None and abs(closely.rate_hz / found.rate_hz - 1.0) < SAME_RATE
        return closely if is_same else found


def in_blocks(values: Floats) -> Floats:
    """Return values in blocks that the coarse rate takes for one, shape (blocks, COARSE); the last is filled up."""
    return np.pad(values, (0, -len(values) % COARSE)).reshape(-1, COARSE)
