"""The shaper: its curves, its harmonics, and what does not fold back."""

import unittest
from collections.abc import Callable

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.modules.halfband import FAR, NEAR
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch, sine
from tests.support.spectra import amplitude, level_db, residue_db

SIZE = 1 << 16


def shaped(hertz: float, depth: float = 1.0, **settings: float | str) -> Floats:
    played = patch([sine("tone", hertz), module("m", "shaper", **settings)], [("tone.out", "m.in", depth)])
    return listen(played, "m.out", 2.0)[24_000 : 24_000 + SIZE]


class AliasingTest(unittest.TestCase):
    def test_hard_clip_does_not_fold_back(self) -> None:
        for hertz in (2000.0, 2003.0, 2999.0):
            found = shaped(hertz, curve="hard", drive=12)
            partials = [hertz * n for n in range(13)]
            apart = residue_db(found, RATE, partials, 20.0, 20_000.0) - level_db(found, RATE, hertz)
            name = f"hard clip of {hertz:,.0f} Hz, drive 12 dB, non-partials below the fundamental"
            record("Shaper", name, "60 dB", f"{-apart:.0f} dB")
            self.assertLess(apart, -60.0, hertz)

    def test_halfband_filters_stop_what_would_fold_back(self) -> None:
        for sections, edge in ((NEAR, 20.0 / 96.0), (FAR, 20.0 / 192.0)):
            frequency = np.linspace(0.0, 0.5, 4001)
            z = np.exp(2j * np.pi * frequency)
            branches = [np.ones(len(z), dtype=complex), np.ones(len(z), dtype=complex)]
            for place, section in enumerate(sections):
                branches[place % 2] *= (section + z**-2) / (1.0 + section * z**-2)
            response = np.abs(0.5 * (branches[0] + branches[1] / z))
            self.assertLess(float(np.max(response[frequency > 0.5 - edge])), 1e-5)
            self.assertLess(float(np.max(np.abs(response[frequency < edge] - 1.0))), 1e-9)


class HarmonicTest(unittest.TestCase):
    def test_full_scale_sine_becomes_one_harmonic(self) -> None:
        worst = -200.0
        for order in range(1, 13):
            found = shaped(441.0, curve="harmonic", harmonic=order)
            wanted = 441.0 * order
            self.assertAlmostEqual(level_db(found, RATE, wanted), 0.0, delta=0.02, msg=str(order))
            worst = max(worst, residue_db(found, RATE, [wanted], 0.0, 20_000.0))
        record("Shaper", "Chebyshev of orders 1 to 12, all but the harmonic", "below −80 dB", f"{worst:.0f} dB")
        self.assertLess(worst, -80.0)

    def test_silence_stays_silent(self) -> None:
        for curve in ("soft", "hard", "fold", "harmonic"):
            found = shaped(441.0, 0.0, curve=curve, harmonic=4, bias=0.3)
            self.assertLess(float(np.max(np.abs(found))), 1e-9, curve)


class CurveTest(unittest.TestCase):
    def test_curves_are_the_stated_ones(self) -> None:
        curves: dict[str, Callable[[Floats], Floats]] = {
            "soft": lambda x: x / np.sqrt(1 + x * x),
            "hard": lambda x: np.clip(x, -1, 1),
            "fold": lambda x: 2 / np.pi * np.arcsin(np.sin(np.pi / 2 * x)),
        }
        phase = 2 * np.pi * np.arange(1 << 14) / (1 << 14)
        for curve, formula in curves.items():
            theory = np.abs(np.fft.rfft(formula(10 ** (9 / 20) * np.sin(phase)))) / (1 << 13)
            found = shaped(100.0, curve=curve, drive=9)
            for n in (1, 3, 5, 7, 9):
                self.assertAlmostEqual(
                    amplitude(found, RATE, 100.0 * n), float(theory[n]), delta=2e-4, msg=f"{curve} {n}"
                )

    def test_bias_brings_even_partials(self) -> None:
        even = [level_db(shaped(300.0, curve="soft", drive=6, bias=bias), RATE, 600.0) for bias in (0.0, 0.5)]
        self.assertLess(even[0], -150.0)
        self.assertGreater(even[1], -30.0)

    def test_mix_of_nothing_leaves_the_level(self) -> None:
        for hertz in (100.0, 5000.0, 15_000.0):
            self.assertAlmostEqual(level_db(shaped(hertz, curve="hard", drive=30, mix=0), RATE, hertz), 0.0, delta=0.01)


if __name__ == "__main__":
    unittest.main()
