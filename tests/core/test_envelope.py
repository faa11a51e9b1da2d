"""The envelope's stages: when they begin, how long they take, and where they end."""

import unittest
from typing import Any

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event, NoteOff, NoteOn
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch

ON = NoteOn(0.0, 1.0)
OFF = NoteOff(0.0)


def envelope(seconds: float, *events: tuple[float, Event], output: Any = "out", **settings: float | str) -> Floats:
    """Return the output of an envelope that the player's gate opens at some times in seconds."""
    played = patch(
        [
            module("player", "player", legato=settings.pop("legato", "off")),
            module("env", "envelope", **settings),
        ],
        [("player.gate", "env.gate"), ("player.strike", "env.strike")],
    )
    return listen(played, f"env.{output}", seconds, [(round(at * RATE), event) for at, event in events])


def first(condition: np.ndarray) -> float:
    """Return the time of the first sample for which something holds."""
    return float(np.flatnonzero(condition)[0]) / RATE


class StageTest(unittest.TestCase):
    def test_stages_take_their_time(self) -> None:
        worst = 0.0
        for attack, decay, release in ((0.001, 0.05, 0.02), (0.35, 0.2, 0.9), (1.0, 0.5, 2.0)):
            for curve in ("curved", "linear"):
                times: dict[str, float | str] = {"attack": attack, "decay": decay, "release": release}
                held = attack + decay + 0.25
                level = envelope(held + release + 0.1, (0.0, ON), (held, OFF), sustain=0.6, curve=curve, **times)
                top = float(np.argmax(level)) / RATE
                settled = first((np.arange(len(level)) / RATE > top) & (level <= 0.6))
                silent = first((np.arange(len(level)) / RATE > held) & (level <= 0.0))
                errors = (top - attack, settled - top - decay, silent - held - release)
                worst = max(worst, *(abs(error) for error in errors))
        record("Envelope", "length of attack, decay and release", "within 1 ms", f"{1000 * worst:.3f} ms")
        self.assertLess(worst, 0.001)

    def test_linear_attack_is_a_straight_line(self) -> None:
        level = envelope(0.5, (0.0, ON), attack=0.4, curve="linear")
        np.testing.assert_allclose(level[:19_200], np.arange(19_200) / 19_200, atol=1e-9)

    def test_curved_release_is_an_exponential_fall_that_ends(self) -> None:
        level = envelope(1.2, (0.0, ON), (0.2, OFF), attack=0, decay=0, sustain=1, release=0.8)
        x = np.arange(38_400) / 38_400
        theory = 1.0 - (1.0 - np.exp(-4.0 * x)) / (1.0 - np.exp(-4.0))
        np.testing.assert_allclose(level[9600 : 9600 + 38_400], theory, atol=1e-6)
        self.assertEqual(float(np.max(level[9600 + 38_401 :])), 0.0)

    def test_times_of_zero_jump_within_two_samples(self) -> None:
        level = envelope(0.1, (0.0, ON), (0.05, OFF), attack=0, decay=0, sustain=0.5, release=0)
        self.assertAlmostEqual(level[4], 0.5)
        self.assertEqual(level[2404], 0.0)


class GateTest(unittest.TestCase):
    def test_new_gate_starts_from_the_present_level(self) -> None:
        level = envelope(1.0, (0.0, ON), (0.3, OFF), (0.4, ON), attack=0.2, decay=0.1, sustain=1, release=0.5)
        jump = float(np.max(np.abs(np.diff(level))))
        self.assertLess(jump, 0.001, "nothing jumps where the second note begins")
        resumed = level[round(0.4 * RATE)]
        self.assertGreater(resumed, 0.2)
        self.assertLess(first((np.arange(len(level)) / RATE > 0.41) & (level >= 1.0)) - 0.4, 0.2)

    def test_note_during_another_begins_the_attack_anew_unless_legato(self) -> None:
        events = ((0.0, ON), (0.5, NoteOn(5.0, 1.0)))
        settings: dict[str, float | str] = {"attack": 0.1, "decay": 0.1, "sustain": 0.2, "release": 0.1}
        again = envelope(1.0, *events, **settings)
        tied = envelope(1.0, *events, legato="on", **settings)
        self.assertAlmostEqual(float(np.max(again[round(0.55 * RATE) :])), 1.0, places=3)
        self.assertAlmostEqual(float(np.max(tied[round(0.55 * RATE) :])), 0.2, places=3)

    def test_attack_decay_ends_by_itself(self) -> None:
        level = envelope(1.0, (0.0, ON), stages="attack-decay", attack=0.1, decay=0.2, sustain=0.9)
        self.assertEqual(float(np.max(level[round(0.302 * RATE) :])), 0.0)

    def test_attack_release_waits_at_the_top(self) -> None:
        level = envelope(1.0, (0.0, ON), (0.5, OFF), stages="attack-release", attack=0.1, release=0.2, sustain=0.1)
        np.testing.assert_array_equal(level[round(0.11 * RATE) : round(0.49 * RATE)], 1.0)
        self.assertEqual(level[round(0.701 * RATE) + 1], 0.0)

    def test_done_is_one_sample_long_at_the_end(self) -> None:
        done = envelope(1.0, (0.0, ON), (0.2, OFF), output="done", attack=0.01, release=0.3)
        self.assertEqual(float(np.sum(done)), 1.0)
        self.assertAlmostEqual(first(done > 0), 0.5, delta=0.001)

    def test_inverted_is_turned_over(self) -> None:
        events = ((0.0, ON), (0.2, OFF))
        np.testing.assert_allclose(envelope(0.5, *events, output="inverted"), 1.0 - envelope(0.5, *events), atol=1e-12)

    def test_times_are_moved_in_octaves(self) -> None:
        played = patch(
            [module("player", "player"), module("env", "envelope", attack=0.1, curve="linear")],
            [("player.gate", "env.gate"), ("player.velocity", "env.attack", 2.0)],
        )
        level = listen(played, "env.out", 1.0, [(0, ON)])
        self.assertAlmostEqual(float(np.argmax(level)) / RATE, 0.4, delta=0.001)


if __name__ == "__main__":
    unittest.main()
