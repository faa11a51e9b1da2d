"""Clock, steps, and what follows the tempo: exact against plain Python, sample by sample."""

import itertools
import unittest
from collections.abc import Sequence
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOn
from inner_tone.core.modules.chance import uniform
from inner_tone.core.modules.steps import sounding
from inner_tone.core.modules.tempo import DIVISIONS
from inner_tone.core.patch.model import Module
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch


def pulses(count: int, division: float, tempo: float, swing: float = 50.0) -> Floats:
    """Return a train of pulses as its definition says: each is up for the first half of its time."""
    per_beat = 60.0 / tempo * RATE
    edges: list[int] = []
    while not edges or edges[-1] <= count:
        pair, second = divmod(len(edges), 2)
        edges.append(round((2 * division * pair + 2 * division * swing / 100 * second) * per_beat))
    signal = np.zeros(count)
    for begin, end in itertools.pairwise(edges):
        signal[begin : begin + -(-(end - begin) // 2)] = 1.0
    return signal


class ClockTest(unittest.TestCase):
    def test_pulses_are_exact_at_every_division_and_tempo(self) -> None:
        wrong = 0
        for division, beats in DIVISIONS.items():
            for tempo in (61.7, 96.0, 133.0, 240.0):
                found = listen(patch([module("c", "clock", division=division)]), "c.out", 4.0, tempo=tempo)
                wrong += int(np.sum(found != pulses(len(found), beats, tempo)))
        record("Exact", "clock, 12 divisions at 4 tempos, samples that differ", "0", str(wrong))
        self.assertEqual(wrong, 0)

    def test_swing_delays_the_second_of_each_pair(self) -> None:
        wrong = 0
        for swing in (50, 58, 67, 75):
            played = patch([module("c", "clock", division="1/2", swing=swing)])
            found = listen(played, "c.out", 5.0, tempo=107.0)
            wrong += int(np.sum(found != pulses(len(found), 0.5, 107.0, swing)))
        record("Exact", "clock with swing, samples that differ", "0", str(wrong))
        self.assertEqual(wrong, 0)

    def test_beat_goes_on_whatever_the_division(self) -> None:
        played = patch([module("c", "clock", division="1/3", swing=67)])
        np.testing.assert_array_equal(listen(played, "c.beat", 3.0, tempo=90.0), pulses(144_000, 1.0, 90.0))


class Reference:
    """Steps in plain Python."""

    def __init__(self, count: int, row: Sequence[float], gates: Sequence[float], length: float, reroll: int) -> None:
        full = [*row, *[0.0] * 16][:16]
        self.gates = [*gates, *[1.0] * 16][:16]
        self.count, self.length = count, length
        low, high = min(full[:count]), max(full[:count])
        shaken = [low + (high - low) * (0.5 + 0.5 * uniform(16 + place, reroll)) for place in range(16)]
        self.row = shaken if reroll else full

    def play(self, clock: Floats, reset: Floats) -> tuple[list[float], list[float], list[float]]:
        step, begun, begun_at, length, older = -1, False, 0, 0, 0
        last_clock = last_reset = last_gate = 0.0
        row, gate, strike = [], [], []
        for now, (tick, again) in enumerate(zip(clock, reset, strict=True)):
            struck = 0.0
            if again > 0 >= last_reset:
                step = -1
            if tick > 0 >= last_clock:
                step = (step + 1) % self.count if begun else 0
                older, length = length, now - begun_at if begun else 0
                begun, begun_at = True, now
                struck = self.gates[step]
            place = max(0, min(self.count - 1, step))
            if self.length >= 1:
                within = True
            elif length:
                within = now - begun_at < self.length * (older or length)
            else:
                within = tick > 0
            row.append(self.row[place])
            anew = self.length < 1 and now == begun_at and last_gate > 0
            last_gate = float(begun and step >= 0 and self.gates[place] >= 0.5 and within and not anew)
            gate.append(last_gate)
            strike.append(struck)
            last_clock, last_reset = tick, again
        return row, gate, strike


class StepsTest(unittest.TestCase):
    def sequence(self, **more: Any) -> list[Floats]:
        """Return what the steps put out, and the clock and the reset that drive them."""
        played = patch(
            [
                module("player", "player"),
                module("clock", "clock", division="1/8", swing=60),
                module("again", "lfo", wave="square", rate=0.9, phase=0.3),
                module("steps", "steps", **more),
            ],
            [("clock.out", "steps.clock"), ("again.out", "steps.reset")],
        )
        taps = ("steps.row2", "steps.gate", "steps.strike", "clock.out", "again.out")
        return [listen(played, tap, 3.0, [(0, NoteOn(0, 1))], tempo=120.0) for tap in taps]

    @settings(max_examples=25, deadline=None, derandomize=True)
    @given(
        some.integers(1, 16),
        some.lists(some.floats(-60, 60), max_size=16),
        some.lists(some.sampled_from([0.0, 1.0]), max_size=16),
        some.sampled_from([0.05, 0.3, 0.5, 0.8, 1.0]),
        some.sampled_from([0, 0, 7]),
    )
    def test_steps_are_exact(
        self, count: int, row: list[float], gates: list[float], length: float, reroll: int
    ) -> None:
        found = self.sequence(count=count, row2=row, gates=gates, gate_length=length, reroll=reroll)
        theory = Reference(count, row, gates, length, reroll).play(found[3], found[4])
        for name, ours, plain in zip(("row", "gate", "strike"), found, theory, strict=False):
            np.testing.assert_array_equal(ours, plain, err_msg=name)
        record("Exact", "steps with swing, resets, gates and re-rolls, samples that differ", "0", "0")

    def test_every_strike_opens_the_gate_however_it_swings(self) -> None:
        for swing in (50, 60, 67, 75):
            for length in (0.25, 0.5, 0.75, 0.95):
                played = patch(
                    [module("c", "clock", swing=swing), module("s", "steps", count=8, gate_length=length)],
                    [("c.out", "s.clock")],
                )
                gate, strike = (listen(played, f"s.{port}", 4.0, tempo=120.0) for port in ("gate", "strike"))
                opened = int(gate[0] > 0.0) + int(np.sum(np.diff(gate) > 0.5))
                self.assertEqual(opened, int(np.sum(strike)), (swing, length))

    def test_another_roll_is_another_melody_within_the_same_range(self) -> None:
        row = [0, 3, 7, 10]
        first, again, second = (self.sequence(count=4, row2=row, reroll=roll)[0] for roll in (4, 4, 5))
        np.testing.assert_array_equal(first, again)
        self.assertFalse(np.array_equal(first, second))
        self.assertTrue(float(np.min(first)) >= 0.0 and float(np.max(first)) <= 10.0)

    def test_rows_that_are_shown_are_those_that_sound(self) -> None:
        for roll in (1, 7, 999):
            steps = Module(id="s", type="steps", settings={"count": 5, "row2": (0.0, 3.0, -7.0), "reroll": roll})
            shown = sounding(steps.all_settings)
            self.assertEqual({name: len(row) for name, row in shown.items()}, {"row1": 5, "row2": 5, "row3": 5})
            heard = self.sequence(count=5, row2=[0, 3, -7], reroll=roll)[0]
            self.assertEqual(sorted(set(heard.tolist())), sorted(set(shown["row2"])))
        self.assertEqual(sounding(steps.all_settings | {"reroll": 0}), {})


class TempoTest(unittest.TestCase):
    def test_lfo_locked_to_the_tempo_ignores_its_rate(self) -> None:
        played = patch([module("lfo", "lfo", wave="rise", rate=7.3, lock="tempo", division="2")])
        found = listen(played, "lfo.out", 8.0, tempo=120.0)
        turns = np.flatnonzero(np.diff(found) < -1.0) + 1
        np.testing.assert_allclose(turns, np.arange(1, len(turns) + 1) * 48_000, atol=1)
        self.assertGreaterEqual(len(turns), 7)


if __name__ == "__main__":
    unittest.main()
