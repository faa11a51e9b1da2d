"""Harmonics and the sampler."""

import unittest

import numpy as np

from inner_tone.core.engine.events import NoteOff, NoteOn, Timed
from inner_tone.core.modules.kernel import Floats
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.modules.sounds import LIBRARY, sounds
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch, sine
from tests.support.spectra import level_db, residue_db


class HarmonicsTest(unittest.TestCase):
    def tone(self, pitch: float = -12.0, **settings: float | str | list[float]) -> Floats:
        return listen(patch([module("h", "harmonics", pitch=pitch, **settings)]), "h.out", 1.0)

    def test_wave_is_the_sum_of_its_sines(self) -> None:
        n = np.arange(1, 65)
        rules = {
            "1/n": 2 / np.pi / n,
            "1/n²": 2 / np.pi / n**2,
            "level": np.full(64, 1 / 20),
        }
        phase = MIDDLE_C_HZ / 2 / RATE * np.arange(48_000)
        for fill, levels in rules.items():
            wanted = np.sin(2 * np.pi * np.outer(phase, n[:20])) @ levels[:20]
            np.testing.assert_allclose(self.tone(fill=fill, first=20), wanted, atol=1e-9, err_msg=fill)

    def test_odd_partials_alone(self) -> None:
        found = self.tone(fill="1/n", partials="odd", first=9)
        for number in range(1, 12):
            level = level_db(found, RATE, number * MIDDLE_C_HZ / 2)
            self.assertEqual(level > -40.0, number in (1, 3, 5, 7, 9), number)

    def test_drawn_levels_are_taken_as_they_are(self) -> None:
        drawn = [0.5, 0.0, 0.25, 1.0]
        found = self.tone(fill="drawn", levels=drawn, first=64)
        worst = 0.0
        for number, level in enumerate([*drawn, 0.0], 1):
            heard = level_db(found, RATE, number * MIDDLE_C_HZ / 2)
            worst = max(worst, abs(heard - 20 * np.log10(level))) if level else worst
            self.assertTrue(level > 0 or heard < -120.0)
        record("Harmonics", "drawn levels of four partials", "—", f"within {worst:.4f} dB")
        self.assertLess(worst, 0.001)

    def test_turned_over_partials_make_a_triangle_and_tops_together_a_pulse(self) -> None:
        n = np.arange(1, 64, 2)
        drawn = np.zeros(64)
        drawn[n - 1] = (-1.0) ** ((n - 1) // 2) / n**2
        phase = MIDDLE_C_HZ / 2 / RATE * np.arange(48_000)
        triangle = self.tone(fill="drawn", levels=[float(one) for one in drawn], first=64)
        straight = np.pi**2 / 4 * (2 / np.pi * np.arcsin(np.sin(2 * np.pi * phase))) * 0.5
        np.testing.assert_allclose(triangle, straight, atol=0.01)
        tops = np.cos(2 * np.pi * np.outer(phase, np.arange(1, 21))) @ (2 / np.pi / np.arange(1, 21))
        np.testing.assert_allclose(self.tone(fill="1/n", first=20, begin="cosine"), tops, atol=1e-9)

    def test_nothing_folds_back(self) -> None:
        pitch = 41.0  # 2.8 kHz: seven of 64 harmonics lie below 20 kHz
        found = self.tone(pitch, fill="level", first=64)
        hertz = MIDDLE_C_HZ * 2 ** (pitch / 12)
        below = residue_db(found, RATE, [hertz * n for n in range(1, 8)], 20.0, 20_000.0) - level_db(found, RATE, hertz)
        record("Harmonics", "64 equal partials at 2.8 kHz, non-partials", "—", f"{below:.0f} dB")
        self.assertLess(below, -100.0)

    def test_is_modulated_as_an_oscillator_is(self) -> None:
        for port, depth in (("phase", 2.0), ("linear", 300.0), ("pitch", 3.0)):
            both = [
                listen(patch([sine("mod", 77.0), unit], [("mod.out", f"x.{port}", depth)]), "x.out", 0.2)
                for unit in (module("x", "harmonics", fill="level", first=1), module("x", "oscillator", wave="sine"))
            ]
            np.testing.assert_allclose(both[0], both[1], atol=1e-9, err_msg=port)


class SamplerTest(unittest.TestCase):
    EVENTS: tuple[Timed, ...] = ((100, NoteOn(0.0, 1.0)),)

    def played(self, seconds: float, events: tuple[Timed, ...] = EVENTS, **settings: float | str) -> Floats:
        unit = module("s", "sampler", **settings)
        played = patch([module("player", "player"), unit], [("player.pitch", "s.pitch"), ("player.gate", "s.gate")])
        return listen(played, "s.out", seconds, events)

    def test_at_the_root_pitch_it_is_the_recording_itself(self) -> None:
        stock = sounds(RATE)
        for number, name in enumerate(LIBRARY):
            found = self.played(3.0, sound=name)[100:]
            length, start = int(stock.length[number]), int(stock.start[number, 0])
            np.testing.assert_allclose(found[:length], stock.samples[start : start + length], atol=1e-9)
            self.assertEqual(float(np.max(np.abs(found[length:]))), 0.0)

    def test_higher_is_faster_by_the_ratio_of_the_pitches(self) -> None:
        for pitch in (-12.0, -5.0, 7.0, 19.0):
            found = self.played(2.0, ((0, NoteOn(pitch, 1.0)),), sound="horn", loop="on")[24_000:]
            hertz = MIDDLE_C_HZ * 2 ** (pitch / 12)
            self.assertGreater(level_db(found, RATE, hertz), -20.0, pitch)

    def test_playing_fast_does_not_fold_back(self) -> None:
        pitch = 31.0  # 6 times as fast
        found = self.played(2.0, ((0, NoteOn(pitch, 1.0)),), sound="horn", loop="on")[24_000:]
        hertz = MIDDLE_C_HZ * 2 ** (pitch / 12)
        partials = [hertz * n for n in range(1, 14)]
        below = residue_db(found, RATE, partials, 20.0, 20_000.0) - level_db(found, RATE, hertz)
        record("Sampler", "a tone played six times as fast, non-partials", "—", f"{below:.0f} dB")
        self.assertLess(below, -55.0)

    def test_loop_lasts_as_long_as_the_gate(self) -> None:
        events: tuple[Timed, ...] = ((0, NoteOn(0.0, 1.0)), (5 * 48_000, NoteOff(0.0)))
        found = self.played(8.0, events, sound="horn", loop="on")
        self.assertGreater(float(np.std(found[4 * 48_000 : 5 * 48_000])), 0.05)
        self.assertEqual(float(np.max(np.abs(found[-24_000:]))), 0.0)
        steepest = float(np.max(np.abs(np.diff(self.played(1.0, sound="horn")))))
        self.assertLess(float(np.max(np.abs(np.diff(found)))), 1.05 * steepest, "the loop closes without a click")

    def test_start_skips_a_part(self) -> None:
        whole = self.played(2.0, sound="gull")[100:]
        part = self.played(2.0, sound="gull", start=0.25)[100:]
        skipped = round(0.25 * 1.2 * RATE)
        np.testing.assert_allclose(part[:20_000], whole[skipped : skipped + 20_000], atol=1e-9)


if __name__ == "__main__":
    unittest.main()
