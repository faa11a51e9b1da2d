"""Which of the held keys sound, in which voice, and what the player puts out for them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event, Move, NoteOff, NoteOn
from inner_tone.core.modules.declaration import Value
from inner_tone.core.modules.player import (
    BEND,
    BEND_SLOPE,
    GATE,
    LAST_GATE,
    LOW,
    PITCH,
    STRIKE,
    VELOCITY,
    VELOCITY_LEFT,
    VELOCITY_SLOPE,
    WHEEL,
    WHEEL_SLOPE,
)

CONTROLS = {"wheel": (WHEEL, WHEEL_SLOPE), "bend": (BEND, BEND_SLOPE)}
VELOCITY_SAMPLES = 48.0  # a voice that is taken over goes to the new velocity in this time, so that it cannot click


@dataclass(eq=False)
class Voice:
    """One voice: the player's state in the engine, which events write to, and the key that it sounds for."""

    state: Floats
    note: NoteOn | None = None
    pitch: float | None = None  # of its latest note
    released: int = -1  # when its latest note ended, as a count of releases


@dataclass
class Keys:
    """The keyboard of a patch: the held keys of highest priority sound, as many as there are voices."""

    voices: list[Voice]
    priority: str = "last"
    legato: bool = False
    held: list[NoteOn] = field(default_factory=list)
    releases: int = 0

    def set_to(self, settings: Mapping[str, Value]) -> None:
        """Take over the player's settings; held keys stay held."""
        self.priority, self.legato = str(settings["priority"]), settings["legato"] == "on"

    def bind(self, states: Sequence[Floats]) -> None:
        """Let the voices write to other states, which hold what the old ones did; there may be more or fewer."""
        for voice, state in zip(self.voices, states, strict=False):
            voice.state = state
        self.voices = self.voices[: len(states)] + [Voice(state) for state in states[len(self.voices) :]]
        for voice in self.voices[1:]:
            for value, slope in CONTROLS.values():
                voice.state[value], voice.state[slope] = self.voices[0].state[value], self.voices[0].state[slope]

    def apply(self, event: Event) -> int | None:
        """Let an event act, at the sample that the engine will compute next; returns the voice that a note takes."""
        if isinstance(event, NoteOn):
            return self.press(event)
        if isinstance(event, NoteOff):
            self.release(event.pitch, event.also)
        elif isinstance(event, Move) and event.control in CONTROLS:
            value, slope = CONTROLS[event.control]
            for voice in self.voices:
                voice.state[value] = event.value
                voice.state[slope] = event.slope
        return None

    def press(self, note: NoteOn) -> int | None:
        """A key goes down; with legato, the gate of a voice that it takes over stays open."""
        self.held = [other for other in self.held if other.pitch != note.pitch] + [note]
        if note not in self.chosen():
            return None
        voice = self.voice_for(note)
        joined = voice.note is not None or voice.state[LAST_GATE] > 0.0
        play(voice, note)
        if not (joined and self.legato):
            # one sample of closed gate, so that envelopes begin anew, also where the key before came up just now
            voice.state[LOW] = voice.state[LAST_GATE]
            voice.state[STRIKE] = 1.0
        voice.state[GATE] = 1.0
        return self.voices.index(voice)

    def release(self, pitch: float, also: tuple[float, ...] = ()) -> None:
        """A key goes up; a key that had to wait takes its voice, unless it goes up as well, else the gate closes."""
        self.held = [other for other in self.held if other.pitch != pitch and other.pitch not in also]
        for voice in self.voices:
            if voice.note and voice.note.pitch == pitch:
                sounding = [other.note for other in self.voices]
                waiting = [note for note in self.chosen() if note not in sounding]
                if waiting:
                    play(voice, waiting[0])
                else:
                    voice.note = None
                    voice.state[GATE] = 0.0
                    self.releases += 1
                    voice.released = self.releases

    def chosen(self) -> list[NoteOn]:
        """Return the held notes that have priority, as many as there are voices."""
        if self.priority == "last":
            return self.held[-len(self.voices) :]
        return sorted(self.held, key=lambda note: note.pitch, reverse=self.priority == "high")[: len(self.voices)]

    def voice_for(self, note: NoteOn) -> Voice:
        """Return the voice that a new note takes.

        The one that sounds the same key; else of the free ones the latest of that key, or the one that has been
        free for longest; else the one whose note has lost its priority.
        """
        same = [voice for voice in self.voices if voice.note and voice.note.pitch == note.pitch]
        free = [voice for voice in self.voices if voice.note is None]
        if same:
            return same[0]
        if free:
            return min(free, key=lambda voice: (voice.pitch != note.pitch, voice.released))
        chosen = self.chosen()
        return next(voice for voice in self.voices if voice.note not in chosen)


def play(voice: Voice, note: NoteOn) -> None:
    """Let a voice put out a note's pitch and velocity."""
    if voice.note is not None:
        voice.state[VELOCITY_LEFT] = VELOCITY_SAMPLES
        voice.state[VELOCITY_SLOPE] = (note.velocity - voice.state[VELOCITY]) / VELOCITY_SAMPLES
    voice.note = note
    voice.pitch = note.pitch
    voice.state[PITCH] = note.pitch
    voice.state[VELOCITY] = note.velocity
