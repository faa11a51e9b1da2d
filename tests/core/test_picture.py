"""Small pictures against theory: they come from the modules' own kernels, so this tries both."""

import unittest

import numpy as np

from inner_tone.core.analysis.picture import Picture, picture
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.patch.model import Module


def drawn(kind: str, **settings: float | str) -> Picture:
    return picture(Module(id="one", type=kind, settings=settings))


class PictureTest(unittest.TestCase):
    def test_response_is_butterworths(self) -> None:
        for slope in (12, 24):
            found = drawn("filter", cutoff=1000, slope=slope)
            order = slope // 6
            theory = -10.0 * np.log10(1.0 + (found.xs / 1000.0) ** (2 * order))
            shown = (theory > -36.0) & (found.xs < 8000.0)
            np.testing.assert_allclose(found.ys[shown], theory[shown], atol=0.4)
            self.assertAlmostEqual(found.handles[0].y, -3.01, delta=0.1)

    def test_resonance_lifts_the_handle(self) -> None:
        self.assertGreater(drawn("filter", resonance=0.9).handles[0].y, 10.0)
        self.assertTrue(np.all(np.isfinite(drawn("filter", resonance=1).ys)))

    def test_envelope_passes_through_its_handles(self) -> None:
        found = drawn("envelope", attack=0.5, decay=1.0, sustain=0.4, release=2.0)
        for handle in found.handles:
            self.assertAlmostEqual(float(np.interp(handle.x, found.xs, found.ys)), handle.y, delta=0.03)
        self.assertEqual([one.moves_x for one in found.handles], ["attack", "decay", "release"])
        self.assertEqual(found.handles[1].x - found.handles[1].origin_x, 1.0)

    def test_stages_that_are_not_there_have_no_handles(self) -> None:
        self.assertEqual([one.moves_x for one in drawn("envelope", stages="attack-decay").handles], ["attack", "decay"])
        found = drawn("envelope", stages="attack-release")
        self.assertEqual([one.moves_x for one in found.handles], ["attack", "release"])

    def test_times_of_zero_can_be_drawn(self) -> None:
        found = drawn("envelope", attack=0, decay=0, release=0, sustain=0.5)
        self.assertGreater(found.x_high, 0.0)
        self.assertAlmostEqual(float(np.max(found.ys)), 1.0, delta=0.51)

    def test_cycle_is_one_cycle_whatever_the_pitch(self) -> None:
        for settings in ({}, {"octave": 3, "fine": 20.0}, {"ratio": 7.0, "offset": 11.0}):
            found = drawn("oscillator", wave="sine", **settings)
            np.testing.assert_allclose(found.ys, np.sin(2 * np.pi * found.xs), atol=1e-6)

    def test_pulse_is_up_for_its_width(self) -> None:
        found = drawn("oscillator", wave="square", width=0.25)
        self.assertAlmostEqual(float(np.mean(found.ys > 0)), 0.25, delta=0.02)
        self.assertEqual((found.handles[0].x, found.handles[0].moves_x), (0.25, "width"))

    def test_shaper_bends_as_its_curve_says(self) -> None:
        found = drawn("shaper", curve="hard", drive=6)
        inside = np.abs(found.xs) < 0.45
        gain = 10.0 ** (6.0 / 20.0)
        np.testing.assert_allclose(found.ys[inside], gain * found.xs[inside], atol=0.03)
        self.assertLess(float(np.max(np.abs(found.ys))), 1.1)

    def test_lfo_moves_up_and_down_twice(self) -> None:
        found = drawn("lfo", wave="sine", rate=0.01)
        self.assertEqual(int(np.sum(np.diff(np.sign(found.ys[2:-2])) != 0)), 3)

    def test_every_type_can_be_asked(self) -> None:
        for kind in CATALOGUE:
            found = drawn(kind)
            self.assertEqual(bool(found.kind), bool(CATALOGUE[kind].picture), kind)
            self.assertTrue(np.all(np.isfinite(found.ys)), kind)
            self.assertEqual(bool(found.sentence), bool(CATALOGUE[kind].picture), kind)


if __name__ == "__main__":
    unittest.main()
