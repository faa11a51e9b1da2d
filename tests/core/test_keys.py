"""The player: which of several held keys sounds, and what its gate does."""

import unittest

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event, NoteOff, NoteOn, events_of, lifted_together
from tests.support.patches import listen, module, patch, phrase

LOW, MIDDLE, HIGH = -12.0, 0.0, 12.0


def player(tap: str, *events: tuple[int, Event], **settings: float | str) -> Floats:
    return listen(patch([module("player", "player", **settings)]), f"player.{tap}", 0.01, events)


class PriorityTest(unittest.TestCase):
    def pitches(self, priority: str) -> list[float]:
        events: list[tuple[int, NoteOn | NoteOff]] = [
            (0, NoteOn(MIDDLE, 1)),
            (100, NoteOn(HIGH, 1)),
            (200, NoteOn(LOW, 1)),
            (300, NoteOff(LOW)),
            (400, NoteOff(HIGH)),
        ]
        signal = player("pitch", *events, priority=priority)
        return [float(signal[at]) for at in (50, 150, 250, 350, 450)]

    def test_last_key_sounds_and_the_one_before_returns(self) -> None:
        self.assertEqual(self.pitches("last"), [MIDDLE, HIGH, LOW, HIGH, MIDDLE])

    def test_lowest_key_sounds(self) -> None:
        self.assertEqual(self.pitches("low"), [MIDDLE, MIDDLE, LOW, MIDDLE, MIDDLE])

    def test_highest_key_sounds(self) -> None:
        self.assertEqual(self.pitches("high"), [MIDDLE, HIGH, HIGH, HIGH, MIDDLE])

    def test_keys_that_go_up_together_are_not_fallen_back_to(self) -> None:
        """While a chord that one voice plays dies away, its pitch stays."""
        down = [(at, NoteOn(pitch, 1.0)) for at, pitch in ((0, MIDDLE), (10, HIGH), (20, LOW))]
        up = lifted_together([(300, NoteOff(pitch)) for pitch in (LOW, MIDDLE, HIGH)])
        for priority, sounding in (("last", LOW), ("low", LOW), ("high", HIGH)):
            pitch = player("pitch", *down, *up, priority=priority)
            self.assertEqual([float(pitch[at]) for at in (250, 350)], [sounding, sounding], priority)
        self.assertEqual(float(player("gate", *down, *up)[350]), 0.0)

    def test_chord_of_a_phrase_goes_up_together(self) -> None:
        timed = events_of(phrase((0.0, 1.0, 60), (0.0, 1.0, 64), (0.0, 1.5, 67), beats=2), 48_000.0)
        ups = [(event.pitch, event.also) for _, event in timed if isinstance(event, NoteOff)]
        self.assertEqual(ups, [(0.0, (4.0,)), (4.0, (0.0,)), (7.0, ())])


class GateTest(unittest.TestCase):
    def test_gate_is_open_from_the_first_key_to_the_last(self) -> None:
        gate = player("gate", (10, NoteOn(LOW, 1)), (200, NoteOff(LOW)))
        np.testing.assert_array_equal(gate, np.where((np.arange(480) >= 10) & (np.arange(480) < 200), 1.0, 0.0))

    def test_second_key_reopens_the_gate_for_one_sample(self) -> None:
        gate = player("gate", (10, NoteOn(LOW, 1)), (200, NoteOn(HIGH, 1)))
        self.assertEqual(list(np.flatnonzero(gate[10:] == 0.0) + 10), [200])

    def test_notes_that_touch_have_a_gate_each_unless_legato(self) -> None:
        events = ((10, NoteOn(LOW, 1)), (200, NoteOff(LOW)), (200, NoteOn(HIGH, 1)), (300, NoteOff(HIGH)))
        gate = player("gate", *events)
        self.assertEqual(list(np.flatnonzero(gate[10:300] == 0.0) + 10), [200])
        self.assertTrue(np.all(player("gate", *events, legato="on")[10:300] == 1.0))

    def test_legato_leaves_the_gate_open(self) -> None:
        events = ((10, NoteOn(LOW, 1)), (200, NoteOn(HIGH, 1)))
        self.assertTrue(np.all(player("gate", *events, legato="on")[10:] == 1.0))
        self.assertEqual(float(np.sum(player("strike", *events, legato="on"))), 1.0)

    def test_strike_marks_the_first_sample_of_each_note(self) -> None:
        strike = player("strike", (10, NoteOn(LOW, 1)), (100, NoteOff(LOW)), (200, NoteOn(HIGH, 1)))
        self.assertEqual(list(np.flatnonzero(strike)), [10, 200])

    def test_pitch_stays_after_the_note_has_ended(self) -> None:
        pitch = player("pitch", (0, NoteOn(HIGH, 1)), (100, NoteOff(HIGH)))
        self.assertEqual(float(pitch[-1]), HIGH)

    def test_velocity_is_that_of_the_note(self) -> None:
        velocity = player("velocity", (0, NoteOn(LOW, 0.3)), (100, NoteOn(HIGH, 0.9)))
        self.assertEqual([float(velocity[50]), float(velocity[150])], [0.3, 0.9])


if __name__ == "__main__":
    unittest.main()
