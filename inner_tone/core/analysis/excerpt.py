"""A sound between two moments, with what is known of it there: the pipeline of the analysis, stage by stage.

Each stage is a file of pure functions; here stands what it is given and what comes of it, found out once and only if it
is asked for. Where each stage draws its lines says `thresholds.py`.

    given ─ course of the pitch ─ window ─ straight ─ series ─ certain ─┬─ harmonics, shape, notes
                                                                        └─ strength ─ swings

What is known from elsewhere comes in at the stage that would have to guess it: when something is struck at `given`, the
passage that is looked at too; a course of the pitch that is known, and that the signal bears out, takes the place of
`track` (`followed.py`).
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from inner_tone.core.analysis import certain, course, followed, forming, held, spectrum, straightened, strength, swings
from inner_tone.core.analysis import envelope as envelopes
from inner_tone.core.analysis import passage as passages
from inner_tone.core.analysis import series as serial
from inner_tone.core.analysis import window as windows
from inner_tone.core.analysis.beating import Beating
from inner_tone.core.analysis.driven import pitch_track
from inner_tone.core.analysis.given import Given
from inner_tone.core.analysis.harmonics import Harmonics, harmonics_of
from inner_tone.core.analysis.melody import Held, Melody
from inner_tone.core.analysis.pitch import Repetition, repetition
from inner_tone.core.analysis.shape import Shape, shape_of
from inner_tone.core.analysis.stages import Stages
from inner_tone.core.analysis.sweep import USUAL_HIGH_HZ, USUAL_LOW_HZ, Sweep, sweep
from inner_tone.core.analysis.thresholds import HALF, LEAST_TURN_ST, MARGIN_S, MOVED_ST, OUTERMOST, TONAL
from inner_tone.core.analysis.tonal import tonal_share
from inner_tone.core.analysis.track import Track
from inner_tone.core.analysis.window import Window
from inner_tone.core.arrays import Floats
from inner_tone.core.units import frequency_of, midi_of


@dataclass(frozen=True)
class Excerpt(Given):
    """What is given, and what is found out of it."""

    def beside(self, other: "Excerpt") -> "Excerpt":
        """Return the same excerpt looked at in the passage of another one, where it lasts so long."""
        first, last = (round(at * self.rate / other.rate) for at in (other.window.first, other.window.last))
        return replace(self, looked=(first, last)) if last <= len(self.signal) else self

    # -- The course of the pitch -------------------------------------------------------------------------------------

    @cached_property
    def followed_hz(self) -> Floats | None:
        """The course of its pitch that is known and that it bears out, in Hz; nothing where it has to be found."""
        known = self.course_hz
        if known is None or self.is_silent or not followed.is_course(known, self.rate):
            return None
        return known if followed.is_borne_out(self.signal, known, self.rate) else None

    @cached_property
    def track(self) -> Track:
        """Its pitch over time, the times counted from its own beginning."""
        if self.followed_hz is not None:
            return followed.track_along(self.signal, self.followed_hz, self.rate)
        return pitch_track(self.signal, self.rate)

    @cached_property
    def melody(self) -> Melody:
        """What its pitch does."""
        if self.followed_hz is not None:
            return followed.melody_along(self.signal, self.followed_hz, self.rate)
        return course.melody_in(self, self.track)

    @property
    def is_driven(self) -> bool:
        """Whether a filter moves so much that the pitch of what drives it is told, and nothing of its partials."""
        return self.track.driven and bool(self.melody.held or self.melody.vibrato)

    def told(self, note: float) -> float:
        """Return a note as far as it can be told: the nearest there is, where a filter moves."""
        return float(round(note)) if self.is_driven else note

    @property
    def span(self) -> tuple[float, float]:
        """Between which notes nearly all of its track lies; the pitch of the passage where there is none."""
        notes = self.track.notes[np.isfinite(self.track.notes)]
        if len(notes) == 0:
            note = midi_of(self.fundamental_hz or 1.0)
            return note, note
        low, high = np.percentile(notes, OUTERMOST)
        return float(low), float(high)

    # -- The window --------------------------------------------------------------------------------------------------

    @cached_property
    def telling_window(self) -> Window:
        """The passage that says most."""
        is_known = self.followed_hz is not None  # then its track has not been led astray
        found = windows.telling_window(self, self.track, self.melody, sure=self.is_driven or is_known)
        return replace(found, moving=self.moved_st(found) > LEAST_TURN_ST) if is_known else found

    def moved_st(self, window: Window) -> float:
        """Return by how many semitones a known pitch moves within a window."""
        if self.followed_hz is None or window.last <= window.first:
            return 0.0
        return float(np.ptp(followed.notes_of(self.followed_hz[window.first : window.last])))

    @property
    def is_on_its_way(self) -> bool:
        """Whether its pitch moves so far within the window, and does not swing, that there is no one to tell."""
        if not self.window.moving or self.melody.vibrato is not None:
            return False
        return self.followed_hz is None or self.moved_st(self.window) > MOVED_ST

    @cached_property
    def window(self) -> Window:
        """The passage that is looked at: the one that says most, unless something else decides that."""
        return Window(*self.looked, self.telling_window.moving) if self.looked else self.telling_window

    @cached_property
    def passage(self) -> Floats:
        """The samples of the window."""
        return self.signal[self.window.first : self.window.last]

    @cached_property
    def note(self) -> float | None:
        """The pitch that the course has in the window, as a fractional MIDI note."""
        middle_s = 0.5 * (self.window.first + self.window.last) / self.rate
        return course.note_at(self.melody, self.is_driven, middle_s, MARGIN_S)

    @property
    def note_hz(self) -> float | None:
        """That pitch in Hz."""
        return frequency_of(self.note) if self.note is not None else None

    # -- Straight: the passage with its pitch made to stand still -----------------------------------------------------

    @cached_property
    def straight(self) -> Floats:
        """The passage with its pitch made to stand still, where it moves."""
        if not self.window.moving:
            return self.passage
        if self.followed_hz is not None:
            return straightened.read_at(self.passage, self.followed_hz[self.window.first : self.window.last])[0]
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

    # -- Series: what the partials form -------------------------------------------------------------------------------

    @cached_property
    def standing(self) -> forming.Straight:
        """What is known of the straight passage."""
        return forming.Straight(self.straight, self.rate, self.repetition, self.sinusoids, self.exactness)

    @property
    def is_blurred(self) -> bool:
        """Whether its level or the balance of its octaves moves within the passage."""
        return self.standing.is_blurred

    @cached_property
    def series(self) -> serial.Series:
        """What the partials form."""
        return forming.series_in(self.standing)

    @cached_property
    def is_unison(self) -> bool:
        """Whether several tones of nearly the same pitch sound together."""
        if self.followed_hz is not None:
            return False
        return forming.is_unison(self.series, self.sinusoids, self.repetition, moving=self.window.moving)

    # -- Certain: what is sure of pitch and noise ---------------------------------------------------------------------

    @cached_property
    def fundamental_hz(self) -> float | None:
        """The fundamental in Hz, if there is one that is sure; of tones that nearly agree, how often they repeat."""
        if self.is_driven:
            return self.note_hz
        if self.followed_hz is not None:
            return float(np.mean(self.followed_hz[self.window.first : self.window.last]))
        if self.series.fundamental_hz is not None:
            return self.series.fundamental_hz
        rough, swing = self.repetition, self.melody.vibrato
        return certain.repeated(rough, swing, unison=self.is_unison, moving=self.window.moving)

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
        if self.is_driven or self.followed_hz is not None:
            return True
        return self.fundamental_hz is not None and not self.is_noise and self.tonal_share > HALF

    @property
    def is_noise(self) -> bool:
        """Whether it is noise, and no tone in it stands out."""
        return not self.is_driven and certain.is_noise(self.tonal_share, self.harmonics)

    @property
    def is_tonal(self) -> bool:
        """Whether it is a tone, or several, and little else."""
        return self.tonal_share > TONAL

    @cached_property
    def slow_hz(self) -> float | None:
        """How often a second it repeats, where that is too slow for a pitch, and it has none."""
        return certain.slow_rate(self, self.melody, self.sinusoids) if self.fundamental_hz is None else None

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

    # -- Harmonics, shape and notes -----------------------------------------------------------------------------------

    @cached_property
    def partials(self) -> tuple[spectrum.Partial, ...]:
        """The partials of the passage, with their numbers where they have a fundamental."""
        if self.fundamental_hz is None or self.is_noise:
            return self.sinusoids
        known = forming.UNISON if self.is_unison else self.exactness
        return spectrum.numbered(self.sinusoids, self.fundamental_hz, known.of)

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
        found = held.audible(self, self.melody.held)
        if self.is_driven:
            return tuple(replace(one, note=self.told(one.note)) for one in found)
        if self.fundamental_hz is None or self.followed_hz is not None:
            return found
        return held.by_partials(self, found, self.window, self.fundamental_hz, self.pitch_of)

    def pitch_of(self, signal: Floats) -> float | None:
        """Return the fundamental in Hz of a stretch of it, where it has one and is no noise."""
        part = Excerpt(signal, self.rate)
        return None if part.fundamental_hz is None or part.is_noise else part.fundamental_hz

    @cached_property
    def usual_sweep(self) -> Sweep:
        """Its short-time spectra as the sweep lens shows them unless it is set otherwise."""
        return sweep(self.signal, self.rate, low_hz=USUAL_LOW_HZ, high_hz=USUAL_HIGH_HZ)

    # -- Strength -----------------------------------------------------------------------------------------------------

    @cached_property
    def is_course(self) -> bool:
        """Whether it is itself a course of strength, as that of an envelope is."""
        return strength.is_course(self)

    @cached_property
    def envelope(self) -> envelopes.Envelope:
        """How strong it is from moment to moment."""
        if self.is_course:
            return envelopes.plain(self.signal, self.rate)
        window = self.window
        steady = None if window.moving or self.is_changing else self.fundamental_hz
        return envelopes.envelope_of(self.signal, self.rate, window.first, window.last, steady or self.cycle_hz)

    @cached_property
    def stages(self) -> Stages | None:
        """The attack, decay, sustain and release of what is struck first."""
        return None if self.is_silent else strength.stages_in(self, self.envelope)

    # -- Swings -------------------------------------------------------------------------------------------------------

    @cached_property
    def beating(self) -> Beating | None:
        """Its regular swelling and fading, if it has any."""
        if self.is_silent or self.is_noise:
            return None
        closely = None if self.is_course or not self.envelope.exact else self.envelope
        return swings.swelling(self, swings.held_power(self, self.stages), closely, self.cycle_hz)

    @cached_property
    def parted(self) -> tuple[spectrum.Partial, ...]:
        """The partials of as long a stretch around the passage as it takes to part those that beat."""
        if self.beating is None or self.window.moving:
            return self.sinusoids
        return swings.parted(self, self.window, self.beating)
