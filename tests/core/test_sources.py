"""Harmonics and the sampler."""

import pickle
import unittest
from typing import Any

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOff, NoteOn, Timed
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.modules.sounds import LIBRARY, made
from inner_tone.core.modules.stock import SoundMissingError
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch, sine
from tests.support.samples import above_db, own
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

    def tones(self, hertz: Floats, seconds: float = 1.5) -> Floats:
        time = np.arange(round(seconds * RATE)) / RATE
        phases = np.arange(len(hertz)) ** 2 * 1.7
        return np.asarray(np.sum(np.sin(2 * np.pi * np.outer(hertz, time) + phases[:, np.newaxis]), axis=0) / 20)

    def test_at_the_root_pitch_it_is_the_recording_itself(self) -> None:
        for name in LIBRARY:
            found, wanted = self.played(3.0, sound=name)[100:], made(name)
            spectrum = np.fft.rfft(found[: len(wanted)] - wanted)
            below = np.fft.rfftfreq(len(wanted), 1 / RATE) < 17_500.0
            whole = np.linalg.norm(np.fft.rfft(wanted))
            self.assertLess(20 * np.log10(np.linalg.norm(spectrum[below]) / whole), -80.0, name)
            self.assertLess(float(np.max(np.abs(found[len(wanted) + 8 :]))), 1e-4)

    def test_what_is_no_longer_there_is_asked_for(self) -> None:
        with self.assertRaises(SoundMissingError) as caught:
            self.played(0.1, sound=f"{'0' * 64} Nothing")
        self.assertEqual(pickle.loads(pickle.dumps(caught.exception)).keys, {"0" * 64})

    def test_higher_is_faster_by_the_ratio_of_the_pitches(self) -> None:
        for pitch in (-12.0, -5.0, 7.0, 19.0):
            found = self.played(2.0, ((0, NoteOn(pitch, 1.0)),), sound="horn", loop="on")[24_000:]
            hertz = MIDDLE_C_HZ * 2 ** (pitch / 12)
            self.assertGreater(level_db(found, RATE, hertz), -20.0, pitch)

    def strays_db(self, pitch: float, hertz: Floats) -> float:
        """Return the loudest of what is not in a sound of some tones, played at a pitch, beside the loudest tone."""
        speed = 2 ** (pitch / 12)
        sound = own(self.tones(hertz, 1.0 + 1.2 * max(1.0, speed)))
        found = self.played(1.2, ((0, NoteOn(pitch, 1.0)),), sound=sound)[4_800:-2_400]
        spectrum = np.abs(np.fft.rfft(found * np.blackman(len(found)) ** 2))
        axis = np.fft.rfftfreq(len(found), 1 / RATE)
        free = np.all(np.abs(axis[:, np.newaxis] - hertz * speed) > 12.0, axis=1)
        return float(20 * np.log10(np.max(spectrum[free]) / np.max(spectrum)))

    def test_nothing_folds_back_when_played_faster(self) -> None:
        hertz = np.geomspace(310.0, 19_500.0, 31)
        for pitch in (1.0, 3.0, 4.0, 12.0, 17.3, 24.0, 31.0, 43.0):
            below = self.strays_db(pitch, hertz)
            if pitch == 24.0:
                record("Sampler", "31 tones to 19.5 kHz, two octaves up: strays", "< −80 dB", f"{below:.0f} dB")
            self.assertLess(below, -80.0, pitch)

    def test_nothing_of_the_grid_is_heard_when_played_slower(self) -> None:
        hertz = np.geomspace(310.0, 17_900.0, 23)
        for pitch in (-0.37, -7.0, -12.0, -19.1, -24.0, -36.0):
            below = self.strays_db(pitch, hertz)
            if pitch == -24.0:
                record("Sampler", "23 tones to 17.9 kHz, two octaves down: strays", "< −80 dB", f"{below:.0f} dB")
            self.assertLess(below, -80.0, pitch)

    def test_treble_is_kept_as_far_as_it_may(self) -> None:
        """A semitone up, what comes to lie below 12 kHz is there; nothing that could be heard is given away."""
        sound = own(self.tones(np.array([9_000.0])))
        for pitch in (0.0, 1.0, 3.0):
            found = self.played(1.0, ((0, NoteOn(pitch, 1.0)),), sound=sound)[4_800:]
            self.assertAlmostEqual(level_db(found, RATE, 9_000.0 * 2 ** (pitch / 12)), -26.0, delta=0.1)

    def test_plays_the_same_at_other_rates(self) -> None:
        """A sound is made for each rate from the same samples: a tone keeps its pitch and its strength."""
        sound = own(self.tones(np.array([1_000.0])))
        unit = module("s", "sampler", sound=sound)
        played = patch([module("player", "player"), unit], [("player.pitch", "s.pitch"), ("player.gate", "s.gate")])
        for rate in (44_100.0, 96_000.0):
            found = listen(played, "s.out", 1.0, ((0, NoteOn(0.0, 1.0)),), rate=rate)[4_800:]
            self.assertAlmostEqual(level_db(found, rate, 1_000.0), -26.0, delta=0.1)

    def test_a_loop_does_not_click_wherever_it_lies(self) -> None:
        sound = own(self.tones(np.array([220.0, 331.0, 447.0])))
        for direction in ("forward", "backward"):
            for begin, end in ((0.2, 0.5), (0.21234, 0.37), (0.4, 0.8777)):
                settings: dict[str, Any] = {"loop": "on", "loop_from": begin, "loop_to": end, "direction": direction}
                found = self.played(4.0, sound=sound, crossfade=0.02, **settings)[4_800:]
                smooth = above_db(found, 4_000.0)
                hard = above_db(self.played(4.0, sound=sound, crossfade=0.0, **settings)[4_800:], 4_000.0)
                if (begin, direction) == (0.21234, "forward"):
                    record("Sampler", "loop of three tones, above 4 kHz, crossfade 20 ms", "—", f"{smooth:.0f} dB")
                    record("Sampler", "the same without a crossfade", "—", f"{hard:.0f} dB")
                self.assertLess(smooth, -75.0, (direction, begin))
                self.assertGreater(hard, -50.0, "the test would hear a click")

    def test_a_loop_of_noise_keeps_its_strength(self) -> None:
        """Half of the noise is in the crossfade: its power must not sink there."""
        noise = np.random.default_rng(3).normal(0, 0.2, 96_000)
        settings: dict[str, Any] = {"loop": "on", "loop_from": 0.25, "loop_to": 0.5, "crossfade": 0.25}
        found = self.played(6.0, sound=own(noise), **settings)[48_000:]
        blocks = np.sqrt(np.mean(found[: len(found) // 2_400 * 2_400].reshape(-1, 2_400) ** 2, axis=1))
        self.assertLess(20 * np.log10(np.max(blocks) / np.min(blocks)), 1.5)

    def test_loop_lasts_as_long_as_the_gate(self) -> None:
        events: tuple[Timed, ...] = ((0, NoteOn(0.0, 1.0)), (5 * 48_000, NoteOff(0.0)))
        found = self.played(8.0, events, sound="horn", loop="on")
        self.assertGreater(float(np.std(found[4 * 48_000 : 5 * 48_000])), 0.05)
        self.assertEqual(float(np.max(np.abs(found[-24_000:]))), 0.0)

    def test_a_loop_has_the_length_that_is_set(self) -> None:
        """Impulses a loop apart: their distances are the length of the loop."""
        impulses = np.zeros(48_000)
        impulses[20_000] = 1.0
        found = self.played(3.0, sound=own(impulses), loop="on", loop_from=0.375, loop_to=0.5, crossfade=0.01)
        there = np.flatnonzero(found > 0.5)
        np.testing.assert_array_equal(np.diff(there), np.full(len(there) - 1, 6_000))
        self.assertGreater(len(there), 15)

    def test_backward_is_the_mirror(self) -> None:
        noise = np.cumsum(np.random.default_rng(5).normal(0, 0.01, 30_000)) * np.hanning(30_000)
        sound = own(noise)
        forward = self.played(1.0, sound=sound)[100:30_100]
        backward = self.played(1.0, sound=sound, direction="backward")[100:30_101]
        np.testing.assert_allclose(backward[1:], forward[::-1], atol=1e-5)

    def test_start_and_end_leave_out_parts(self) -> None:
        whole = self.played(2.0, sound="gull")[100:]
        part = self.played(2.0, sound="gull", start=0.25, end=0.5)[100:]
        first, last = round(0.25 * 1.2 * RATE), round(0.5 * 1.2 * RATE)
        np.testing.assert_allclose(part[: last - first], whole[first:last], atol=1e-9)
        self.assertEqual(float(np.max(np.abs(part[last - first :]))), 0.0)

    def test_ignores_keys_where_it_is_set_so(self) -> None:
        high = self.played(1.0, ((100, NoteOn(19.0, 1.0)),), sound="gull", keys="ignored", root=-7)
        np.testing.assert_array_equal(high, self.played(1.0, sound="gull"))

    def test_beginning_anew_does_not_click(self) -> None:
        events = tuple((9_000 * n, NoteOn(0.0 if n % 2 else 0.001, 1.0)) for n in range(8))
        sound = own(self.tones(np.array([220.0, 331.0])) * np.clip(np.arange(72_000) / 2_000, 0, 1))
        found = self.played(1.5, events, sound=sound)
        steepest = float(np.max(np.abs(np.diff(self.played(1.5, sound=sound)))))
        self.assertLess(float(np.max(np.abs(np.diff(found)))), 1.6 * steepest)


if __name__ == "__main__":
    unittest.main()
