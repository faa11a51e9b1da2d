"""What was played, as a phrase: the same notes and movements, to the sample."""

from collections.abc import Callable
from dataclasses import dataclass, field

from inner_tone.core.engine.events import NoteOff, NoteOn
from inner_tone.core.errors import InnerToneError
from inner_tone.core.phrase import LEAST_LENGTH, LONGEST_SECONDS, MOST_NOTES, MOST_POINTS, Gesture, Note, Phrase
from inner_tone.live.controls import Controls
from inner_tone.live.performer import MIDDLE

MOST_CONTROLS = 32


@dataclass(frozen=True)
class Sounded:
    """A note as it was played, from one sample to another, in semitones from middle C."""

    begin: int
    end: int
    pitch: float
    velocity: float


@dataclass
class Take:
    """What is written down since a sample."""

    movements: bool  # alone, over a phrase that plays
    held: dict[float, tuple[int, float]] = field(default_factory=dict)
    notes: list[Sounded] = field(default_factory=list)

    def note(self, event: NoteOn | NoteOff, at: int) -> None:
        """Write down a key that goes down or up."""
        if self.movements or len(self.notes) >= MOST_NOTES:
            return
        if isinstance(event, NoteOn):
            self.held[event.pitch] = at, event.velocity
        elif event.pitch in self.held:
            begin, velocity = self.held.pop(event.pitch)
            self.notes.append(Sounded(begin, max(begin + 1, at), event.pitch, velocity))

    def close(self, at: int) -> None:
        """End all notes that are still held."""
        for pitch in list(self.held):
            self.note(NoteOff(pitch), at)


def written_down(take: Take, controls: Controls, tempo: float, rate: float, end: int, grid: float) -> Phrase:
    """Return what was played as a phrase.

    Parameters
    ----------
    take, controls
        What was written down; all movements have arrived.
    tempo
        In beats per minute, the same all the while.
    rate
        The sampling rate in Hz.
    end
        The sample at which it ended; the phrase ends with the beat that it falls in.
    grid
        To the nearest multiple of so many beats notes are moved; 0 leaves them where they were played.

    Raises
    ------
    InnerToneError
        If nothing was played, or for longer than a phrase may be.
    """
    take.close(end)
    gestures = controls.lines
    if not take.notes and not any(len(corners) > 1 for corners in gestures.values()):
        raise InnerToneError("Nothing was played, so nothing was recorded.")
    seconds = end / rate
    if seconds > LONGEST_SECONDS:
        raise InnerToneError(
            f"It lasts {seconds:.0f} seconds, and a phrase at most {LONGEST_SECONDS:.0f}: record less of it at once."
        )
    if any(len(corners) > MOST_POINTS for corners in gestures.values()):
        raise InnerToneError("A control was moved more often than can be kept: record less of it at once.")

    def beat(sample: int) -> float:
        return sample * tempo / (60.0 * rate)

    longest = LONGEST_SECONDS * tempo / 60.0
    beats = min(longest, max(1.0, float(-(-end * tempo // (60.0 * rate)))))
    return Phrase(
        tempo=tempo,
        beats=beats,
        notes=tuple(sorted((placed(one, beat, grid, beats) for one in take.notes), key=lambda one: one.start)),
        gestures=tuple(
            Gesture(control=name, points=tuple((beat(at), value) for at, value in corners))
            for name, corners in list(gestures.items())[:MOST_CONTROLS]
        ),
    )


def over(phrase: Phrase, played: Phrase) -> Phrase:
    """Return a phrase with the movements that were made while it played, as far as it reaches."""
    moved = {one.control: one for one in played.gestures}
    cut = [
        one.model_copy(update={"points": tuple(point for point in one.points if point[0] <= phrase.beats)})
        for one in moved.values()
    ]
    kept = [one for one in phrase.gestures if one.control not in moved]
    return phrase.model_copy(update={"gestures": (*kept, *cut)[:MOST_CONTROLS]})


def placed(one: Sounded, beat: Callable[[int], float], grid: float, beats: float) -> Note:
    """Return a note in beats, moved to the grid if there is one; its length stays what it was played."""
    start, length = beat(one.begin), max(LEAST_LENGTH, beat(one.end) - beat(one.begin))
    if grid > 0.0:
        start = min(beats - grid, grid * round(start / grid))
    return Note(start=max(0.0, start), length=length, pitch=one.pitch + MIDDLE, velocity=one.velocity)
