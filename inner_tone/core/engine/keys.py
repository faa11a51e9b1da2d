"""Which of the held keys is played, and what the player puts out for it."""

from dataclasses import dataclass, field

from inner_tone.core.engine.events import Event, Move, NoteOff, NoteOn
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.player import (
    BEND,
    BEND_SLOPE,
    GATE,
    LOW,
    PITCH,
    STRIKE,
    VELOCITY,
    WHEEL,
    WHEEL_SLOPE,
)

CONTROLS = {"wheel": (WHEEL, WHEEL_SLOPE), "bend": (BEND, BEND_SLOPE)}


@dataclass
class Keys:
    """One voice's keyboard; `state` is the player's state in the engine, which events write to."""

    state: Floats
    priority: str = "last"
    legato: bool = False
    held: list[NoteOn] = field(default_factory=list)

    def apply(self, event: Event) -> None:
        """Let an event act, at the sample that the engine will compute next."""
        if isinstance(event, NoteOn):
            self.press(event)
        elif isinstance(event, NoteOff):
            self.release(event.pitch)
        elif isinstance(event, Move) and event.control in CONTROLS:
            value, slope = CONTROLS[event.control]
            self.state[value] = event.value
            self.state[slope] = event.slope

    def press(self, note: NoteOn) -> None:
        """A key goes down; with legato, the gate stays as it is while another key is held."""
        tied = bool(self.held) and self.legato
        self.held = [other for other in self.held if other.pitch != note.pitch] + [note]
        if self.chosen() is not note:
            return
        self.play(note)
        if not tied:
            # one sample of closed gate, so that envelopes begin anew
            self.state[LOW] = self.state[GATE]
            self.state[STRIKE] = 1.0
        self.state[GATE] = 1.0

    def release(self, pitch: float) -> None:
        """A key goes up; the gate closes with the last one."""
        self.held = [other for other in self.held if other.pitch != pitch]
        if self.held:
            self.play(self.chosen())
        else:
            self.state[GATE] = 0.0

    def chosen(self) -> NoteOn:
        """Return the held note that has priority."""
        if self.priority == "low":
            return min(self.held, key=lambda note: note.pitch)
        if self.priority == "high":
            return max(self.held, key=lambda note: note.pitch)
        return self.held[-1]

    def play(self, note: NoteOn) -> None:
        """Let the player put out a note's pitch and velocity."""
        self.state[PITCH] = note.pitch
        self.state[VELOCITY] = note.velocity
