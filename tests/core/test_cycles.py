"""Cycles beside each other: sounds of which it is known by construction what of a cycle stays and what moves."""

import unittest
from random import Random

import numpy as np

from inner_tone.core.analysis.excerpt import Excerpt
from inner_tone.core.analysis.sentences.cycles import cycle_clauses
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.kinds.cycles import CyclesView, cycles_in
from inner_tone.core.lens.look import look, taps_of
from inner_tone.core.lens.recipe import rendered
from inner_tone.core.lens.source import Played
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.port import Port
from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.patches import RATE

TIMES = np.arange(round(1.4 * RATE)) / RATE
SEEDS = 12


def tone(turns: Floats, chance: Random) -> Floats:
    """Return a wave of some partials by chance, of which each turn is a cycle."""
    parts = [(chance.uniform(0.2, 1.0) / k, chance.uniform(0, 6.28)) for k in range(1, 9)]
    found = np.zeros(len(turns))
    for k, (level, phase) in enumerate(parts, 1):
        found += level * np.sin(2 * np.pi * k * turns + phase)
    return np.asarray(0.5 * found / np.max(np.abs(found)))


class ClaimTest(unittest.TestCase):
    def claims(self, signal: Floats) -> tuple[set[str], dict[str, float]]:
        clauses = cycle_clauses(cycles_in(Excerpt(signal, RATE), 8))
        facts = {key: value for one in clauses for key, value in one.facts.items()}
        return {one.code for one in clauses}, facts

    def test_what_is_steady_is_alike_and_equally_strong(self) -> None:
        for seed in range(SEEDS):
            chance = Random(seed)
            found, _ = self.claims(tone(chance.uniform(60, 700) * TIMES, chance))
            self.assertEqual(found, {"alike", "level stays"}, seed)

    def test_note_of_a_key_at_one_pitch_has_cycles_of_one_length(self) -> None:
        for seed in range(SEEDS):
            chance = Random(seed)
            opened = np.clip(TIMES / chance.uniform(0.005, 0.2), 0, 1) * np.clip((1.2 - TIMES) / 0.2, 0, 1)
            found, _ = self.claims(tone(chance.uniform(35, 400) * TIMES, chance) * opened)
            self.assertNotIn("length moves", found, seed)
            self.assertNotIn("form changes", found, seed)

    def test_tremolo_breathes_and_keeps_its_form(self) -> None:
        for seed in range(SEEDS):
            chance = Random(seed)
            depth = chance.uniform(0.15, 0.5)
            shaking = 1.0 + depth * np.sin(2 * np.pi * chance.uniform(1.0, 3.0) * TIMES)
            found, facts = self.claims(tone(chance.uniform(150, 500) * TIMES, chance) * shaking)
            self.assertIn("breathes", found, seed)
            self.assertNotIn("form changes", found, seed)
            self.assertLess(facts["level_db"], 20 * np.log10((1 + depth) / (1 - depth)) + 0.1)

    def test_vibrato_moves_the_length_and_keeps_the_form(self) -> None:
        for seed in range(SEEDS):
            chance = Random(seed)
            hertz, cents = chance.uniform(150, 500), chance.uniform(30, 80)
            course = hertz * 2 ** (cents / 1200 * np.sin(2 * np.pi * chance.uniform(4, 6) * TIMES))
            found, facts = self.claims(tone(np.cumsum(course) / RATE, chance))
            self.assertEqual(found & {"alike", "nearly alike", "form changes"}, {"alike"}, seed)
            self.assertIn("length moves", found, seed)
            low, high = 1000 / (hertz * 2 ** (cents / 1200)), 1000 / (hertz * 2 ** (-cents / 1200))
            self.assertGreater(facts["shortest_ms"], 0.995 * low)
            self.assertLess(facts["longest_ms"], 1.005 * high)

    def test_partial_that_comes_or_goes_changes_the_form_by_as_much_as_it_is(self) -> None:
        for seed in range(SEEDS):
            chance = Random(seed)
            hertz, share = chance.uniform(100, 500), chance.uniform(0.15, 0.8)
            growing = share * np.clip(TIMES / TIMES[-1], 0, 1)
            signal = np.sin(2 * np.pi * hertz * TIMES) + growing * np.sin(2 * np.pi * 3 * hertz * TIMES + seed)
            found, facts = self.claims(0.4 * signal)
            self.assertIn("form changes", found, seed)
            # of two forms of the same strength at an angle a, the difference is 2 sin(a/2)
            self.assertAlmostEqual(facts["apart"], 2 * np.sin(np.arctan(share) / 2), delta=0.06)

    def test_noise_silence_and_several_notes_have_no_cycle(self) -> None:
        chords = [0.2 * sum(np.sin(2 * np.pi * one * TIMES) for one in (220.0, 277.2, 329.6)), np.zeros(len(TIMES))]
        for signal in (0.2 * np.random.default_rng(3).standard_normal(len(TIMES)), *chords, np.zeros(0)):
            self.assertEqual(self.claims(np.asarray(signal))[0], {"no cycle"})


class ChartTest(unittest.TestCase):
    def test_a_lens_on_a_patch_lays_its_cycles_over_one_another(self) -> None:
        graph, view = Graph(DISTANT), CyclesView(taps=(Port("reed.out"),), count=4)
        found = look(view, Played(graph, rendered(DISTANT, BLASTS, taps_of(view, graph))))
        (panel,) = found.panels
        self.assertEqual([(one.role, one.order) for one in panel.traces], [("this", 1)] * 3 + [("this", 0)])
        for trace in panel.traces:
            self.assertEqual((trace.xs[0], trace.xs[-1]), (0.0, 1.0))
            self.assertEqual(trace.ys[0], trace.ys[-1], "it closes")
        self.assertIn("4 cycles through the moment", found.sentence)


if __name__ == "__main__":
    unittest.main()
