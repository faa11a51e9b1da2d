"""The frequency lens: against theory, and against the phase that is recovered from the sound itself."""

import unittest
from typing import Any

import numpy as np

from inner_tone.core.analysis.running import centred, running
from inner_tone.core.arrays import Floats
from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.kinds.frequency import FrequencyView
from inner_tone.core.lens.look import look, taps_of
from inner_tone.core.lens.recipe import rendered
from inner_tone.core.lens.source import Against, Played
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Note, Phrase
from tests.support.patches import RATE, module, patch

SECOND = Phrase(beats=2, tempo=120, notes=(Note(start=0, length=2, pitch=57),))
TAP = Port("carrier.out")


def pair(to: str, depth: float, ratio: float = 1.0, **carrier: Any) -> Patch:
    """Return a carrier that plays A3, 220 Hz, moved by a sine of so many times its frequency; to the output."""
    return patch(
        [
            module("player", "player"),
            module("mover", "oscillator", wave="sine", ratio=ratio),
            module("carrier", "oscillator", **({"wave": "sine"} | carrier)),
            module("out", "output"),
        ],
        [
            ("player.pitch", "mover.pitch"),
            ("player.pitch", "carrier.pitch"),
            ("mover.out", f"carrier.{to}", depth),
            ("carrier.out", "out.left"),
        ],
    )


def played(one: Patch) -> Played:
    graph = Graph(one)
    return Played(graph, rendered(one, SECOND, taps_of(FrequencyView(taps=(TAP,)), graph)))


def chart_of(one: Patch, **view: Any) -> Chart:
    return look(FrequencyView(taps=(TAP,), **view), played(one))


def courses(chart: Chart) -> tuple[Floats, Floats]:
    """Return what a chart draws of the frequency and of the phase."""
    frequency, phase = (next(one for one in panel.traces if one.role == "this") for panel in chart.panels)
    return np.array(frequency.ys, dtype=np.float64), np.array(phase.ys, dtype=np.float64)


class TheoryTest(unittest.TestCase):
    def test_hertz_added_by_a_sine_are_deviation_and_index(self) -> None:
        """Chowning: a deviation of d Hz by a sine of m Hz turns the phase by d / m radians to both sides."""
        for deviation, ratio in ((110.0, 1.0), (660.0, 2.0), (440.0, 0.5)):
            with self.subTest(deviation=deviation, ratio=ratio):
                chart = chart_of(pair("linear", deviation, ratio))
                frequency, phase = courses(chart)
                self.assertAlmostEqual(np.max(frequency), 220.0 + deviation, delta=1e-3 * deviation)
                self.assertAlmostEqual(np.min(frequency), 220.0 - deviation, delta=1e-3 * deviation)
                index = deviation / (220.0 * ratio)
                self.assertAlmostEqual(0.5 * np.ptp(phase), index, delta=0.03 * index)
                facts = chart.facts
                self.assertAlmostEqual(facts["rest_hz"], 220.0, places=3)
                self.assertAlmostEqual(facts["often_hz"], 220.0 * ratio, delta=0.5)
                self.assertAlmostEqual(facts["index_rad"], index, delta=0.02 * index)
                self.assertEqual("backwards" in facts["claims"], deviation > 220.0)

    def test_radians_added_by_a_sine_are_index_and_deviation(self) -> None:
        chart = chart_of(pair("phase", 2.0, 3.0))
        frequency, phase = courses(chart)
        self.assertAlmostEqual(0.5 * np.ptp(phase), 2.0, delta=0.05)
        self.assertAlmostEqual(np.max(frequency), 220.0 + 2.0 * 660.0, delta=6.0)
        self.assertAlmostEqual(chart.facts["index_rad"], 2.0, delta=0.02)
        runs_backwards = np.mean(220.0 + 1320.0 * np.cos(np.linspace(0, 2 * np.pi, 100_000)) < 0)
        self.assertAlmostEqual(chart.facts["backwards_share"], runs_backwards, delta=0.01)

    def test_what_nothing_moves_is_called_steady_and_says_its_frequency(self) -> None:
        chart = chart_of(pair("linear", 0.0, octave=1, offset=3.0))
        self.assertEqual(chart.sentence, "443 Hz (A4 +12 cents), and nothing moves it.")
        self.assertLess(np.ptp(courses(chart)[0]), 1e-6)

    def test_semitones_move_by_a_ratio(self) -> None:
        chart = chart_of(pair("pitch", 12.0, 1 / 11), cycles=1)  # a vibrato of 20 Hz by an octave to both sides
        frequency, _ = courses(chart)
        self.assertAlmostEqual(np.max(frequency), 440.0, delta=1.0)
        self.assertAlmostEqual(np.min(frequency), 110.0, delta=0.5)
        self.assertAlmostEqual(chart.facts["often_hz"], 20.0, delta=0.1)

    def test_wave_of_the_carrier_tells_nothing_of_its_own(self) -> None:
        """The course follows the phase alone: a saw runs as a sine does."""
        one, other = (courses(chart_of(pair("linear", 330.0, wave=wave)))[0] for wave in ("sine", "saw"))
        self.assertAlmostEqual(np.max(one), np.max(other), delta=0.5)
        self.assertAlmostEqual(np.min(one), np.min(other), delta=0.5)


class SecondWayTest(unittest.TestCase):
    def test_phase_recovered_from_a_sine_and_a_cosine_runs_the_same(self) -> None:
        """Two carriers a quarter of a cycle apart give the phase itself, by the arc tangent, backwards too."""
        for to, depth in (("linear", 900.0), ("phase", 3.0), ("pitch", 4.0)):
            with self.subTest(to):
                one = pair(to, depth, 1.5)
                quarter = pair(to, depth, 1.5, phase=np.pi / 2)
                taps = ["carrier.out", "carrier.pitch", "carrier.linear", "carrier.phase"]
                inputs = {port for port in taps[1:] if Graph(one).coming(Port(port))}
                sounds = rendered(one, SECOND, {taps[0], *inputs})
                sine, cosine = sounds[TAP].signal, rendered(quarter, SECOND, {TAP})[TAP].signal
                phase = np.unwrap(np.arctan2(sine, cosine))
                signals = {Port(port).name: sounds[port].signal for port in inputs}
                found = running(one.by_id["carrier"], signals, RATE, len(sine))
                steps = np.diff(phase) * RATE / (2 * np.pi)
                np.testing.assert_allclose(found.frequencies_hz[:-1], steps, atol=0.05)
                np.testing.assert_allclose(centred(found.ahead_rad), centred(phase), atol=1e-3)


class ChartTest(unittest.TestCase):
    def test_what_has_no_cycle_says_so(self) -> None:
        chart = look(FrequencyView(taps=(Port("out.left"),)), played(pair("linear", 100.0)))
        self.assertEqual(chart.panels, [])
        self.assertIn("has no cycle of its own", chart.sentence)

    def test_another_patch_stands_behind(self) -> None:
        moved, still = played(pair("linear", 200.0)), played(pair("linear", 0.0))
        chart = look(FrequencyView(taps=(TAP,)), moved, Against("the step before", still))
        self.assertEqual([one.role for one in chart.panels[0].traces], ["compared", "this", "theory"])
        self.assertEqual(chart.difference, "Against the step before: moved over 400 Hz instead of 0 Hz.")

    def test_whole_moment_is_an_outline(self) -> None:
        chart = chart_of(pair("linear", 200.0), cycles=0)
        (line,) = [one for one in chart.panels[0].traces if one.role == "this"]
        assert line.lows is not None
        highs = np.array(line.ys, dtype=np.float64)
        self.assertAlmostEqual(float(np.median(highs)), 420.0, delta=1.0)
        self.assertAlmostEqual(float(np.median(line.lows)), 20.0, delta=1.0)


if __name__ == "__main__":
    unittest.main()
