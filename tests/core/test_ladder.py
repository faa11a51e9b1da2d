"""Filters that sing, and the ladder against its circuit."""

import math
import unittest

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOn
from tests.support.figures import record
from tests.support.patches import IMPULSE, PULSE, RATE, listen, module, patch, sine
from tests.support.spectra import amplitude, level_db, phase_slope_hz, residue_db

SONGS_HZ = (60.0, 110.0, 440.0, 1000.0, 2500.0, 6000.0)


def song(kind: str, cutoff: float, output: str = "out", **settings: float | str) -> Floats:
    """Return what a filter at resonance 1 sings with nothing coming in, once it has begun."""
    alone = patch([module("f", kind, cutoff=cutoff, resonance=1, **settings)])
    return listen(alone, f"f.{output}", 3.0)[48_000:]


class SongTest(unittest.TestCase):
    def assert_sings(self, kind: str, name: str, output: str = "out", **settings: float | str) -> None:
        worst, levels = 0.0, []
        for cutoff in SONGS_HZ:
            found = song(kind, cutoff, output, **settings)
            worst = max(worst, abs(1200.0 * math.log2(phase_slope_hz(found, RATE, cutoff) / cutoff)))
            levels.append(float(np.max(np.abs(found))))
        record("Self-oscillation", f"{name}, 60 Hz to 6 kHz, off the cutoff", "3 cents", f"{worst:.4f} cents")
        heights = f"{min(levels):.2f} to {max(levels):.2f}"
        record("Self-oscillation", f"{name}, its peak", "bounded, at most 1", heights)
        self.assertLess(worst, 3.0, name)
        self.assertGreater(min(levels), 0.3, name)
        self.assertLess(max(levels), 1.0, name)

    def test_filter_sings_at_its_cutoff(self) -> None:
        for mode in ("lowpass", "highpass", "bandpass"):
            for slope in (12, 24):
                self.assert_sings("filter", f"{mode} of {slope} dB", mode=mode, slope=slope)

    def test_outputs_aside_sing_too(self) -> None:
        for output in ("low", "band", "high"):
            self.assert_sings("filter", f"output {output}", output, slope=12)

    def test_ladder_sings_at_its_cutoff(self) -> None:
        self.assert_sings("ladder", "ladder")

    def test_filter_sings_a_pure_sine(self) -> None:
        found = song("filter", 440.0, slope=24)
        self.assertLess(residue_db(found, RATE, [440.0], 20.0, 20_000.0) - level_db(found, RATE, 440.0), -100.0)

    def test_song_stays_bounded_with_loud_sound_and_any_cutoff(self) -> None:
        for kind, more in (("filter", {"slope": 24}), ("filter", {"slope": 12}), ("ladder", {"drive": 36})):
            for cutoff in (30.0, 997.0, 18_000.0):
                played = patch(
                    [
                        module("saw", "oscillator", wave="saw"),
                        module("mod", "oscillator", wave="saw", ratio=5.3),
                        module("f", kind, cutoff=cutoff, resonance=1, **more),
                    ],
                    [("saw.out", "f.in"), ("mod.out", "f.cutoff", 60.0)],
                )
                self.assertLess(float(np.max(np.abs(listen(played, "f.out", 2.0)))), 20.0, f"{kind} {cutoff}")


class LadderTest(unittest.TestCase):
    def response_db(self, frequencies_hz: Floats, **settings: float) -> Floats:
        """Return the response to an impulse so small that nothing saturates."""
        played = patch([*PULSE, module("f", "ladder", **settings)], [IMPULSE, ("pulse.out", "f.in", 1e-4)])
        found = 1e4 * listen(played, "f.out", 1.0, [(64, NoteOn(0, 1))])[65:]
        turns = np.exp(-2j * np.pi * np.outer(frequencies_hz / RATE, np.arange(len(found))))
        return np.asarray(20.0 * np.log10(np.abs(turns @ found)))

    def test_response_is_that_of_four_poles_with_feedback(self) -> None:
        frequencies = np.geomspace(50.0, 5000.0, 30)
        cutoff = 800.0
        # trapezoidal integration bends the frequency axis; at the cutoff itself it is right
        bent = np.tan(np.pi * frequencies / RATE) / np.tan(np.pi * cutoff / RATE)
        pole = 1.0 / (1.0 + 1j * bent)
        worst = 0.0
        for poles in (1, 2, 3, 4):
            for resonance in (0.0, 0.5, 0.9):
                theory = 20.0 * np.log10(np.abs(pole**poles / (1.0 + 4.0 * resonance * pole**4)))
                found = self.response_db(frequencies, cutoff=cutoff, resonance=resonance, poles=poles)
                worst = max(worst, float(np.max(np.abs(found - theory))))
        record("Ladder", "response at 1 to 4 poles and three resonances", "—", f"{worst:.4f} dB from theory")
        self.assertLess(worst, 0.01)

    def test_lows_thin_out_as_the_resonance_rises(self) -> None:
        low = [self.response_db(np.array([40.0]), cutoff=2000, resonance=value)[0] for value in (0.0, 0.5, 0.9)]
        for found, feedback in zip(low, (0.0, 2.0, 3.6), strict=True):
            self.assertAlmostEqual(float(found), -20.0 * math.log10(1.0 + feedback), delta=0.05)

    def test_drive_brings_odd_partials(self) -> None:
        def third(drive: float) -> float:
            played = patch(
                [sine("tone", 200.0), module("f", "ladder", cutoff=8000, drive=drive)], [("tone.out", "f.in")]
            )
            found = listen(played, "f.out", 1.5)[24_000:]
            self.assertLess(amplitude(found, RATE, 400.0), 1e-6)
            return amplitude(found, RATE, 600.0) / amplitude(found, RATE, 200.0)

        self.assertLess(third(-24.0), 1e-4)
        self.assertGreater(third(12.0), 0.05)
        self.assertGreater(third(30.0), third(12.0))


if __name__ == "__main__":
    unittest.main()
