"""The oscillator against the Fourier series of its waves and the theory of modulation."""

import math
import unittest

import numpy as np
from scipy.special import jv

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOn
from inner_tone.core.engine.render import render
from inner_tone.core.modules.functions import sine, sine_of_cycle
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from tests.support.figures import record
from tests.support.patches import RATE, Line, listen, module, patch, phrase
from tests.support.spectra import amplitude, level_db, phase_slope_hz, residue_db

A2 = 110.0
KEYED = (("pitch", "pitch"), ("gate", "reset"))
C7 = 440.0 * 2.0 ** ((96 - 69) / 12)


def tone(frequency_hz: float, seconds: float, **settings: float | str) -> Floats:
    """Return the sound of one oscillator at a frequency that its offset makes exact."""
    offset = min(1000.0, frequency_hz)
    ratio = (frequency_hz - offset) / MIDDLE_C_HZ
    if ratio == 0.0:
        ratio, offset = frequency_hz / MIDDLE_C_HZ, 0.0
    return listen(patch([module("osc", "oscillator", ratio=ratio, offset=offset, **settings)]), "osc.out", seconds)


def modulated(lines: list[Line], *modules: dict[str, object], seconds: float = 2.0, **settings: float | str) -> Floats:
    return listen(patch([module("osc", "oscillator", **settings), *modules], lines), "osc.out", seconds)


class PitchTest(unittest.TestCase):
    def test_pitch_is_exact_over_ten_seconds(self) -> None:
        worst = 0.0
        for midi in (21, 45, 69, 96, 108):
            played = patch(
                [module("player", "player"), module("osc", "oscillator", wave="sine")], [("player.pitch", "osc.pitch")]
            )
            signal = listen(played, "osc.out", 10.0, [(0, NoteOn(midi - 60.0, 1.0))])
            theory = 440.0 * 2.0 ** ((midi - 69) / 12)
            cents = 1200.0 * math.log2(phase_slope_hz(signal, RATE, theory) / theory)
            worst = max(worst, abs(cents))
        record(
            "Oscillator", "pitch over ten seconds, five notes from A0 to C8", "within 0.01 cent", f"{worst:.1e} cent"
        )
        self.assertLess(worst, 0.01)

    def test_transposition_ratio_and_offset_add_up_as_stated(self) -> None:
        settings = {"octave": 1, "semitone": -5, "fine": 30, "ratio": 1.5, "offset": 12.5}
        signal = listen(patch([module("osc", "oscillator", wave="sine", **settings)]), "osc.out", 3.0)
        theory = MIDDLE_C_HZ * 2.0 ** ((12 - 5 + 0.3) / 12) * 1.5 + 12.5
        self.assertAlmostEqual(phase_slope_hz(signal, RATE, theory), theory, places=4)

    def test_middle_c_is_midi_note_60(self) -> None:
        self.assertAlmostEqual(MIDDLE_C_HZ, 261.6255653, places=6)


class WaveTest(unittest.TestCase):
    def assert_series(self, wave: str, series: dict[int, float], **settings: float | str) -> None:
        signal = tone(A2, 4.0, wave=wave, **settings)
        worst = max(
            abs(level_db(signal, RATE, k * A2) - 20.0 * math.log10(abs(value))) for k, value in series.items() if value
        )
        record("Oscillator", f"partials of the {wave} at A2 up to 10 kHz", "within 0.1 dB", f"{worst:.3f} dB")
        self.assertLess(worst, 0.1)
        for k, value in series.items():
            if value == 0.0:
                self.assertLess(level_db(signal, RATE, k * A2), -100.0, f"partial {k}")

    def test_saw_has_all_partials_falling_as_one_over_n(self) -> None:
        self.assert_series("saw", {k: 2.0 / (math.pi * k) for k in range(1, 91)})

    def test_square_has_only_odd_partials(self) -> None:
        self.assert_series("square", {k: 4.0 / (math.pi * k) if k % 2 else 0.0 for k in range(1, 91)})

    def test_triangle_has_odd_partials_falling_as_one_over_n_squared(self) -> None:
        self.assert_series("triangle", {k: 8.0 / (math.pi * k) ** 2 if k % 2 else 0.0 for k in range(1, 91)})

    def test_narrow_pulse_has_the_partials_of_its_width(self) -> None:
        for width in (0.1, 0.25, 0.37):
            signal = tone(A2, 4.0, wave="square", width=width)
            self.assertAlmostEqual(float(np.mean(signal)), 2.0 * width - 1.0, places=3)
            for k in range(1, 60):
                theory = abs(4.0 / (math.pi * k) * math.sin(math.pi * k * width))
                if theory > 1e-3:
                    self.assertAlmostEqual(
                        level_db(signal, RATE, k * A2), 20.0 * math.log10(theory), delta=0.1, msg=f"{width} {k}"
                    )

    def test_sine_is_a_single_partial(self) -> None:
        signal = tone(1000.0, 2.0, wave="sine")
        self.assertAlmostEqual(amplitude(signal, RATE, 1000.0), 1.0, places=6)
        self.assertLess(residue_db(signal, RATE, [1000.0], 20.0, 23_000.0), -150.0)

    def test_nothing_but_partials_is_heard_in_high_notes(self) -> None:
        for frequency, allowed in ((C7, -70.0), (3520.0, -80.0)):
            for wave in ("saw", "square", "triangle"):
                signal = tone(frequency, 4.0, wave=wave)
                partials = [k * frequency for k in range(1, 12)]
                below = residue_db(signal, RATE, partials, 20.0, 20_000.0) - level_db(signal, RATE, frequency)
                name = f"non-partials of the {wave} at {frequency:,.0f} Hz, 20 Hz to 20 kHz"
                record("Oscillator", name, f"{allowed:.0f} dB".replace("-", "−"), f"{below:.1f} dB")
                self.assertLess(below, allowed, wave)

    def test_partials_up_to_14_khz_are_all_there_at_every_pitch(self) -> None:
        for midi in range(24, 109, 13):
            frequency = 440.0 * 2.0 ** ((midi - 69) / 12)
            signal = tone(frequency, 1.0, wave="saw")
            for k in range(1, int(14_000 / frequency) + 1):
                theory = 20.0 * math.log10(2.0 / (math.pi * k))
                self.assertAlmostEqual(level_db(signal, RATE, k * frequency), theory, delta=0.15, msg=f"{midi}, {k}")

    def test_waves_begin_where_the_textbook_draws_them(self) -> None:
        for wave, early in (("sine", 0.0), ("triangle", 0.0), ("saw", -1.0), ("square", 1.0)):
            signal = tone(100.0, 0.01, wave=wave)
            self.assertAlmostEqual(float(signal[12]), early + (0.0 if early else 12 / 480 * 4), delta=0.2, msg=wave)


class ModulationTest(unittest.TestCase):
    """J. Chowning, "The synthesis of complex audio spectra by means of frequency modulation" (1973)."""

    CARRIER, MODULATOR = 4000.0, 250.0

    def assert_bessel_sidebands(self, target: str, depth: float, index: float) -> None:
        signal = modulated(
            [("mod.out", target, depth)],
            module("mod", "oscillator", wave="sine", ratio=self.MODULATOR / MIDDLE_C_HZ),
            wave="sine",
            ratio=self.CARRIER / MIDDLE_C_HZ,
        )
        worst = 0.0
        for order in range(-15, 16):
            theory = abs(jv(order, index))
            if theory > 1e-3:
                measured = amplitude(signal, RATE, self.CARRIER + order * self.MODULATOR)
                worst = max(worst, abs(20.0 * math.log10(measured / theory)))
        way = "phase" if target.endswith("phase") else "linear frequency"
        record("Modulation", f"{way}, sidebands above −60 dB at index {index:g}", "within 0.1 dB", f"{worst:.4f} dB")
        self.assertLess(worst, 0.1, f"{target} {index}")

    def test_phase_modulation_gives_bessel_sidebands(self) -> None:
        for index in (0.5, 2.0, 5.0, 8.0):
            self.assert_bessel_sidebands("osc.phase", index, index)

    def test_linear_modulation_gives_the_same_with_deviation_over_rate_as_index(self) -> None:
        for index in (0.5, 3.0, 8.0):
            self.assert_bessel_sidebands("osc.linear", index * self.MODULATOR, index)

    def test_ratio_of_small_integers_leaves_only_multiples_of_the_common_fundamental(self) -> None:
        worst = -200.0
        for carrier, modulator in ((3, 2), (1, 1), (5, 4), (1, 3)):
            signal = modulated(
                [("mod.out", "osc.phase", 3.0)],
                module("mod", "oscillator", wave="sine", ratio=100.0 * modulator / MIDDLE_C_HZ),
                wave="sine",
                ratio=100.0 * carrier / MIDDLE_C_HZ,
            )
            worst = max(worst, residue_db(signal, RATE, [100.0 * n for n in range(1, 200)], 20.0, 19_000.0))
        record("Modulation", "ratios 3:2, 1:1, 5:4 and 1:3, all but the multiples", "—", f"{worst:.0f} dB")
        self.assertLess(worst, -100.0)

    def test_frequency_goes_through_zero_and_backwards(self) -> None:
        forwards = modulated([], wave="sine", ratio=1.0, linear=100.0, seconds=0.1)
        backwards = modulated([], wave="sine", ratio=1.0, linear=-100.0 - 2 * MIDDLE_C_HZ, seconds=0.1)
        np.testing.assert_allclose(forwards, -backwards, atol=1e-9)

    def test_reset_begins_the_cycle_anew(self) -> None:
        master = module("master", "oscillator", wave="sine", ratio=200.0 / MIDDLE_C_HZ)
        signal = modulated([("master.out", "osc.reset")], master, wave="saw", ratio=317.0 / MIDDLE_C_HZ)
        level = level_db(signal, RATE, 200.0)
        self.assertGreater(level, -20.0, "a synchronised oscillator takes the master's pitch")
        self.assertLess(level_db(signal, RATE, 317.0), level - 40.0)

    def test_note_is_the_same_to_the_bit_where_two_that_modulate_each_other_begin_anew(self) -> None:
        for way, depths in (("phase", (1.7, 2.3)), ("linear", (220.0, 310.0)), ("pitch", (5.0, 3.0))):
            for kind, settings in (
                ("oscillator", {"wave": "saw"}),
                ("oscillator", {"wave": "sine"}),
                ("harmonics", {}),
            ):
                two = [module(name, kind, pitch=at, **settings) for name, at in (("a", 0), ("b", 7.31))]
                lines: list[Line] = [(f"player.{port}", f"{name}.{to}") for name in "ab" for port, to in KEYED]
                mutual: list[Line] = [("a.out", f"b.{way}", depths[0]), ("b.out", f"a.{way}", depths[1])]
                played = patch([module("player", "player"), *two], [*lines, *mutual])
                notes = phrase((0.3, 1.0, 57), (1.7, 1.0, 57), beats=3)
                for tap in ("a.out", "b.out"):
                    with self.subTest(way, kind=kind, tap=tap):
                        found = render(played, notes, taps=(tap,)).taps[tap]
                        first, second = (found[round(at * RATE) :][:48_000] for at in (0.3, 1.7))
                        np.testing.assert_array_equal(first, second)
                        self.assertNotEqual(found[round(1.7 * RATE) - 1], 0.0, "what was before is still heard")

    def test_pitch_moves_in_semitones(self) -> None:
        for depth in (-12.0, 7.0):
            played = patch(
                [module("player", "player"), module("osc", "oscillator", wave="sine", pitch=5)],
                [("player.velocity", "osc.pitch", depth)],
            )
            signal = listen(played, "osc.out", 2.0, [(0, NoteOn(0.0, 0.5))])
            theory = MIDDLE_C_HZ * 2.0 ** ((5.0 + 0.5 * depth) / 12.0)
            self.assertAlmostEqual(phase_slope_hz(signal, RATE, theory), theory, places=4)


class FunctionTest(unittest.TestCase):
    def test_sine_agrees_with_the_library(self) -> None:
        x = np.linspace(-np.pi / 2, np.pi / 2, 1001)
        self.assertLess(max(abs(sine(value) - math.sin(value)) for value in x), 1e-13)
        cycles = np.linspace(-0.5, 1.0, 1001)
        self.assertLess(max(abs(sine_of_cycle(value) - math.sin(2 * np.pi * value)) for value in cycles), 1e-12)


if __name__ == "__main__":
    unittest.main()
