"""The comb against theory: its teeth, its ringing, and what keeps it in bounds."""

import unittest

import numpy as np

from inner_tone.core.analysis.response import filter_response
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOn
from inner_tone.core.patch.model import Module
from tests.support.patches import IMPULSE, PULSE, RATE, listen, module, patch


def struck(seconds: float = 1.0, **settings: float | str) -> Floats:
    """Return what a comb answers to an impulse of height 1."""
    played = patch([*PULSE, module("comb", "comb", **settings)], [IMPULSE, ("pulse.out", "comb.in")])
    return listen(played, "comb.out", seconds, [(0, NoteOn(0.0, 1.0))])


class CombTest(unittest.TestCase):
    def test_measured_response_is_that_of_theory(self) -> None:
        for settings in (
            {"time": 0.005, "feedback": 0.7},
            {"time": 0.00137, "feedback": -0.6},
            {"time": 0.0021, "feedback": 0.9, "way": "forth"},
            {"time": 0.003, "feedback": 0.5, "mix": 0.4},
        ):
            found = filter_response(Module(id="comb", type="comb", settings=settings))
            assert found.theory_db is not None
            low = found.frequencies_hz < 8_000
            np.testing.assert_allclose(found.gains_db[low], found.theory_db[low], atol=0.05, err_msg=str(settings))

    def test_echoes_come_after_whole_delays_and_fall_by_the_feedback(self) -> None:
        found = struck(time=0.01, feedback=0.5)
        begin = int(np.argmax(found))
        np.testing.assert_allclose(found[begin : begin + 5 * 480 : 480], 0.5 ** np.arange(5), atol=1e-12)
        once = struck(time=0.01, feedback=0.5, way="forth")
        np.testing.assert_allclose(once[begin : begin + 3 * 480 : 480], [1.0, 0.5, 0.0], atol=1e-12)

    def test_it_rings_in_tune_also_between_samples(self) -> None:
        for hertz in (110.0, 261.63, 440.0, 881.3):
            for sign, wanted in ((1.0, hertz), (-1.0, 0.5 * hertz)):
                found = struck(2.0, time=1.0 / hertz, feedback=sign * 0.995)[4800:]
                levels = np.abs(np.fft.rfft(found * np.hanning(len(found)), 1 << 19))
                bins = np.arange(len(levels)) * RATE / (1 << 19)
                near = (bins > 0.9 * wanted) & (bins < 1.1 * wanted)
                peak = float(bins[near][np.argmax(levels[near])])
                self.assertLess(abs(1200.0 * np.log2(peak / wanted)), 2.0, f"{hertz} Hz, feedback {sign}")

    def test_full_feedback_stays_in_bounds(self) -> None:
        played = patch(
            [module("osc", "oscillator", wave="saw"), module("comb", "comb", time=0.002, feedback=1)],
            [("osc.out", "comb.in")],
        )
        found = listen(played, "comb.out", 4.0)
        self.assertTrue(np.all(np.isfinite(found)))
        self.assertLess(float(np.max(np.abs(found))), 1e5)

    def test_time_that_moves_does_not_jump(self) -> None:
        played = patch(
            [
                module("lfo", "lfo", rate=3),
                module("tone", "oscillator", wave="sine"),
                module("comb", "comb", feedback=0.5),
            ],
            [("tone.out", "comb.in"), ("lfo.out", "comb.time", 0.2)],
        )
        found = listen(played, "comb.out", 1.0)
        self.assertLess(float(np.max(np.abs(np.diff(found)))), 0.15)


if __name__ == "__main__":
    unittest.main()
