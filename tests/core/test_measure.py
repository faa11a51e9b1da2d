"""Measurement on signals made with NumPy and SciPy, not by our own oscillators."""

import unittest

import numpy as np

from inner_tone.core.analysis.loudness import highpass, loudness_lufs, shelf
from inner_tone.core.analysis.measure import measured
from inner_tone.core.analysis.partials import sinusoids
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event, NoteOff, NoteOn
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch

HALF_SECOND = np.arange(24_000) / RATE


def wave(hertz: float, level_db: float = 0.0, phase: float = 0.7, time: Floats = HALF_SECOND) -> Floats:
    found: Floats = 10.0 ** (level_db / 20.0) * np.cos(2.0 * np.pi * hertz * time + phase)
    return found


def tones(signal: Floats) -> list[tuple[float, float]]:
    """Return frequency in Hz and level in dB of what is found."""
    width = RATE / len(signal)
    return [(one.bin * width, 20.0 * float(np.log10(abs(one.amplitude)))) for one in sinusoids(signal)]


class PartialsTest(unittest.TestCase):
    def test_steady_tone_is_found_exactly_anywhere(self) -> None:
        cents, levels = 0.0, 0.0
        chance = np.random.default_rng(5)
        for hertz in np.geomspace(20.0, 20_000.0, 80):
            level = float(chance.uniform(-60.0, 0.0))
            ((found, found_db),) = tones(wave(float(hertz), level, float(chance.uniform(0.0, 6.28))))
            cents = max(cents, abs(1200.0 * float(np.log2(found / hertz))))
            levels = max(levels, abs(found_db - level))
        record("Lenses", "frequency of a tone from 20 Hz to 20 kHz, half a second", "0.1 cent", f"{cents:.1e} cent")
        record("Lenses", "level of a tone from 20 Hz to 20 kHz, half a second", "0.05 dB", f"{levels:.1e} dB")
        self.assertLess(cents, 0.1)
        self.assertLess(levels, 0.05)

    def test_tone_in_noise_is_found_closely(self) -> None:
        noise = 1e-3 * np.random.default_rng(2).standard_normal(len(HALF_SECOND))
        strongest = max(tones(wave(440.0) + noise), key=lambda one: one[1])
        self.assertLess(abs(1200.0 * np.log2(strongest[0] / 440.0)), 0.1)
        self.assertLess(abs(strongest[1]), 0.05)

    def test_two_tones_sixty_decibels_and_a_tenth_of_an_octave_apart_are_both_found(self) -> None:
        worst = 0.0
        for hertz in np.geomspace(20.0, 18_000.0, 40):
            other = float(hertz) * 2.0**0.1
            for quiet, loud in ((float(hertz), other), (other, float(hertz))):
                found = tones(wave(loud) + wave(quiet, -60.0, 2.0))
                self.assertEqual(len(found), 2, (loud, quiet))
                faint = min(found, key=lambda one: one[1])
                worst = max(worst, abs(1200.0 * float(np.log2(faint[0] / quiet))), abs(faint[1] + 60.0))
        record("Lenses", "the fainter of two tones, 60 dB and 0.1 octave apart", "found", f"{worst:.1e} cent, dB")
        self.assertLess(worst, 1.0)

    def test_partials_of_a_series_are_all_found(self) -> None:
        found = tones(np.sum([wave(110.0 * n, -20.0 * np.log10(n), n) for n in range(1, 41)], axis=0))
        self.assertEqual(len(found), 40)
        for number, (hertz, level) in enumerate(found, 1):
            self.assertAlmostEqual(hertz, 110.0 * number, places=4)
            self.assertAlmostEqual(level, -20.0 * float(np.log10(number)), places=3)

    def test_standstill_is_no_tone(self) -> None:
        ((hertz, level),) = tones(0.4 + wave(31.0, -20.0))
        self.assertAlmostEqual(hertz, 31.0, places=3)
        self.assertAlmostEqual(level, -20.0, places=3)

    def test_silence_has_no_tones(self) -> None:
        self.assertEqual(tones(np.zeros(24_000)), [])


class LoudnessTest(unittest.TestCase):
    """The signals and figures that EBU Tech 3341 (2016) gives for trying meters of BS.1770, and the standard's own."""

    CASES = (
        ([(-23.0, 20.0)], -23.0),
        ([(-33.0, 20.0)], -33.0),
        ([(-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0)], -23.0),
        ([(-72.0, 10.0), (-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0), (-72.0, 10.0)], -23.0),
        ([(-26.0, 20.0), (-20.0, 20.1), (-26.0, 20.0)], -23.0),
    )

    def test_published_signals_have_their_published_loudness(self) -> None:
        worst = 0.0
        for stretches, wanted in self.CASES:
            parts = [wave(1000.0, level, 0.0, np.arange(round(seconds * RATE)) / RATE) for level, seconds in stretches]
            signal = np.concatenate(parts)
            worst = max(worst, abs(loudness_lufs(np.stack([signal, signal]), RATE) - wanted))
        record("Lenses", "loudness, five signals of EBU Tech 3341", "0.1 LU", f"{worst:.3f} LU")
        self.assertLess(worst, 0.1)

    def test_coefficients_are_those_of_the_standard(self) -> None:
        b, a = shelf(48_000.0)
        np.testing.assert_allclose(b, [1.53512485958697, -2.69169618940638, 1.19839281085285], atol=1e-8)
        np.testing.assert_allclose(a, [1.0, -1.69065929318241, 0.73248077421585], atol=1e-8)
        np.testing.assert_allclose(highpass(48_000.0)[1], [1.0, -1.99004745483398, 0.99007225036621], atol=1e-8)

    def test_rate_does_not_matter(self) -> None:
        for rate in (44_100.0, 96_000.0):
            time = np.arange(round(5 * rate)) / rate
            here = loudness_lufs(wave(2000.0, -20.0, 0.0, time), rate)
            there = loudness_lufs(wave(2000.0, -20.0, 0.0, np.arange(5 * 48_000) / RATE), RATE)
            self.assertAlmostEqual(here, there, delta=0.03)

    def test_silence_and_short_sounds(self) -> None:
        self.assertEqual(loudness_lufs(np.zeros(48_000), RATE), -120.0)
        self.assertEqual(loudness_lufs(np.zeros(0), RATE), -120.0)
        self.assertAlmostEqual(loudness_lufs(wave(1000.0, -20.0)[:9600], RATE), -23.0, delta=0.3)


class StagesTest(unittest.TestCase):
    CASES = ((0.05, 0.2, 0.5, 0.4), (0.5, 0.1, 0.8, 1.0), (0.01, 0.05, 0.3, 0.2), (0.2, 0.3, 0.6, 2.0))

    def rendered(self, attack: float, decay: float, sustain: float, release: float, curve: str) -> Floats:
        settings: dict[str, float | str] = {"attack": attack, "decay": decay, "sustain": sustain, "release": release}
        played = patch(
            [module("player", "player"), module("env", "envelope", curve=curve, **settings)],
            [("player.gate", "env.gate")],
        )
        closing = 4800 + round((attack + decay + 0.5) * RATE)
        events: list[tuple[int, Event]] = [(4800, NoteOn(0.0, 0.5)), (closing, NoteOff(0.0))]
        return listen(played, "env.out", closing / RATE + release + 0.3, events)

    def assert_near(self, found: float | None, wanted: float) -> float:
        self.assertIsNotNone(found)
        apart = abs((found or 0.0) - wanted)
        self.assertLess(apart, max(0.05 * wanted, 0.002))
        return 0.0 if apart < 0.002 else apart / wanted

    def test_attack_and_release_are_found_in_an_envelope_and_in_a_tone(self) -> None:
        worst = 0.0
        for curve in ("curved", "linear"):
            for attack, decay, sustain, release in self.CASES:
                level = self.rendered(attack, decay, sustain, release, curve)
                tone = level * wave(220.0, time=np.arange(len(level)) / RATE)
                for found in (Sound(level, RATE).whole.stages, Sound(tone, RATE).whole.stages):
                    assert found is not None
                    worst = max(worst, self.assert_near(found.attack_s, attack))
                    worst = max(worst, self.assert_near(found.release_s, release))
                    self.assertAlmostEqual(found.sustain_db, 20.0 * float(np.log10(sustain)), delta=0.2)
        record("Lenses", "attack and release in a rendered envelope", "5 % or 2 ms", f"{100 * worst:.1f} % or 2 ms")

    def test_silence_has_no_stages_and_a_drone_no_release(self) -> None:
        self.assertIsNone(Sound(np.zeros(1000), RATE).whole.stages)
        found = Sound(np.ones(48_000), RATE).whole.stages
        assert found is not None
        self.assertIsNone(found.release_s)


class MeasureTest(unittest.TestCase):
    def test_square_of_scipys_is_told_by_its_numbers(self) -> None:
        square = np.sum([wave(220.0 * n, -6.0 - 20.0 * np.log10(n), -np.pi / 2) for n in range(1, 90, 2)], axis=0)
        found = measured(np.stack([square, square]), RATE)
        self.assertAlmostEqual(found.pitch_hz or 0.0, 220.0, places=3)
        self.assertEqual([one.number for one in found.partials[:4]], [1, 3, 5, 7])
        self.assertIn("odd partials only", found.sentence)
        self.assertAlmostEqual(found.dc, 0.0, places=5)

    def test_expected_note_numbers_the_partials(self) -> None:
        third = np.sum([wave(330.0 * n, -10.0 * n) for n in (1, 2, 3)], axis=0)
        found = measured(np.atleast_2d(third), RATE, expected_hz=110.0)
        self.assertEqual([one.number for one in found.partials], [3, 6, 9])

    def test_silence_and_a_click_can_be_measured(self) -> None:
        self.assertIsNone(measured(np.zeros((2, 48_000)), RATE).pitch_hz)
        self.assertEqual(measured(np.zeros((1, 0)), RATE).peak_db, -120.0)
        click = np.zeros((1, 4800))
        click[0, 100] = 1.0
        self.assertAlmostEqual(measured(click, RATE).peak_db, 0.0)


if __name__ == "__main__":
    unittest.main()
