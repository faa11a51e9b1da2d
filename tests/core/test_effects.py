"""Delay, reverb and compressor against what their settings promise."""

import math
import unittest

import numpy as np
from scipy.signal import butter, sosfilt

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOn
from tests.support.figures import record
from tests.support.patches import IMPULSE, PULSE, RATE, listen, module, patch, sine
from tests.support.spectra import level_db

AT = 64  # where the note begins; the impulse is the sample after it


def answer(unit: str, output: str, seconds: float, tempo: float = 120.0, **settings: float | str) -> Floats:
    """Return a module's answer to an impulse, from the impulse on."""
    played = patch([*PULSE, module("m", unit, **settings)], [IMPULSE, ("pulse.out", "m.in")])
    return listen(played, f"m.{output}", seconds, [(AT, NoteOn(0, 1))], tempo=tempo)[AT + 1 :]


class DelayTest(unittest.TestCase):
    def test_echoes_come_after_the_time_each_weaker_by_the_feedback(self) -> None:
        found = answer("delay", "left", 1.0, time=0.125, feedback=0.5, mix=1)
        echoes = np.flatnonzero(np.abs(found) > 1e-6)
        np.testing.assert_array_equal(echoes, 6000 * np.arange(1, len(echoes) + 1))
        np.testing.assert_allclose(found[echoes], 0.5 ** np.arange(len(echoes)), atol=1e-9)

    def test_time_between_samples_delays_a_sine_by_it(self) -> None:
        tone = sine("tone", 1000.0)
        played = patch([tone, module("m", "delay", time=0.0102134, feedback=0, mix=1)], [("tone.out", "m.in")])
        found, plain = listen(played, "m.left", 0.5), listen(played, "tone.out", 0.5)
        time = np.arange(12_000, 24_000) / RATE
        turns = [np.angle(np.dot(one[12_000:], np.exp(-2j * np.pi * 1000 * time))) for one in (plain, found)]
        late = (turns[0] - turns[1]) / (2 * np.pi * 1000)
        self.assertAlmostEqual((late - 0.0102134 + 0.0005) % 0.001, 0.0005, delta=2e-7)

    def test_sides_alternate(self) -> None:
        left = answer("delay", "left", 1.0, time=0.125, feedback=0.5, mix=1, sides="alternate")
        right = answer("delay", "right", 1.0, time=0.125, feedback=0.5, mix=1, sides="alternate")
        np.testing.assert_array_equal(np.flatnonzero(np.abs(left) > 1e-6), [6000, 18_000, 30_000, 42_000])
        np.testing.assert_array_equal(np.flatnonzero(np.abs(right) > 1e-6), [12_000, 24_000, 36_000])

    def test_locked_delay_follows_the_tempo(self) -> None:
        found = answer("delay", "left", 1.0, tempo=100.0, lock="tempo", division="3/4", feedback=0, mix=1)
        self.assertEqual(int(np.argmax(np.abs(found))), round(0.75 * 0.6 * RATE))

    def test_echoes_grow_duller(self) -> None:
        found = answer("delay", "left", 1.0, time=0.125, feedback=0.9, mix=1, tone=2000)
        high = [
            np.abs(np.fft.rfft(found[6000 * n - 100 : 6000 * n + 2900]))[500] for n in (1, 2, 3)
        ]  # 8 kHz, of which 6 dB per octave above 2 kHz leave a quarter each time
        self.assertAlmostEqual(float(high[1] / high[0]), 0.9 / math.hypot(1, 4), delta=0.05)
        self.assertAlmostEqual(float(high[2] / high[1]), 0.9 / math.hypot(1, 4), delta=0.05)


class ReverbTest(unittest.TestCase):
    def decay_seconds(self, response: Floats) -> float:
        """Return the time of decay by 60 dB, from -5 to -35 dB of the energy that is still to come (Schroeder)."""
        energy = np.cumsum(response[::-1] ** 2)[::-1]
        level = 10.0 * np.log10(energy / energy[0] + 1e-30)
        return 2.0 * float(np.argmax(level < -35) - np.argmax(level < -5)) / RATE

    def test_room_decays_in_the_stated_time(self) -> None:
        worst = 0.0
        for asked in (0.3, 1.0, 3.0, 8.0):
            response = answer("reverb", "left", 1.3 * asked + 0.5, decay=asked, mix=1)
            for band_hz in (500, 1000):  # the octaves whose mean ISO 3382-1 calls the room's decay time
                edges = [band_hz / math.sqrt(2), band_hz * math.sqrt(2)]
                heard = sosfilt(butter(4, edges, "band", fs=RATE, output="sos"), response)
                worst = max(worst, abs(self.decay_seconds(heard) / asked - 1.0))
        record("Reverb", "decay time, 0.3 to 8 s, octaves at 500 and 1,000 Hz", "within 10 %", f"{worst:.1%}")
        self.assertLess(worst, 0.1)

    def test_damping_lets_the_highs_fall_sooner(self) -> None:
        high = butter(4, [6000, 12_000], "band", fs=RATE, output="sos")
        times = [
            self.decay_seconds(sosfilt(high, answer("reverb", "left", 2.5, decay=2, damping=damping, mix=1)))
            for damping in (0.0, 0.5, 1.0)
        ]
        self.assertAlmostEqual(times[0], 2.0, delta=0.1)
        self.assertGreater(times[0], 1.15 * times[1])
        self.assertGreater(times[1], 1.5 * times[2])

    def test_room_answers_after_its_first_distance(self) -> None:
        response = answer("reverb", "right", 0.3, before=0.1, mix=1)
        first = int(np.flatnonzero(np.abs(response) > 1e-9)[0]) / RATE
        self.assertAlmostEqual(first, 0.1 + 0.0131, delta=0.001)

    def test_sides_differ_but_are_equally_loud(self) -> None:
        left, right = (answer("reverb", side, 2.0, mix=1) for side in ("left", "right"))
        self.assertLess(abs(float(np.corrcoef(left, right)[0, 1])), 0.2)
        self.assertAlmostEqual(float(np.std(left) / np.std(right)), 1.0, delta=0.25)


class CompressorTest(unittest.TestCase):
    def level(self, level_db_in: float, **settings: float) -> float:
        played = patch(
            [sine("tone", 1000.0), module("m", "compressor", **settings)], [("tone.out", "m.in", gain(level_db_in))]
        )
        return level_db(listen(played, "m.out", 1.5)[36_000:], RATE, 1000.0)

    def test_static_curve_is_the_published_one(self) -> None:
        worst = 0.0
        for threshold, ratio, knee in ((-18, 4, 6), (-30, 2, 0), (-12, 20, 12)):
            for level in (-50, -31, -20, -15, -10, -3, 0):
                over = level - threshold
                slope = 1 - 1 / ratio
                bent = slope * (over + knee / 2) ** 2 / (2 * knee) if knee else 0.0
                taken = 0.0 if 2 * over <= -knee else slope * over if 2 * over >= knee else bent
                found = self.level(level, threshold=threshold, ratio=ratio, knee=knee)
                worst = max(worst, abs(found - (level - taken)))
        record("Compressor", "static curve, three settings, −50 to 0 dB", "within 0.2 dB", f"{worst:.3f} dB")
        self.assertLess(worst, 0.2)

    def test_makeup_is_added(self) -> None:
        self.assertAlmostEqual(self.level(-40, makeup=12.0), -28.0, delta=0.01)

    def test_attack_takes_its_time_constant(self) -> None:
        played = patch(
            [module("player", "player"), module("m", "compressor", attack=0.05, knee=0, threshold=-20, ratio=2)],
            [("player.gate", "m.in")],
        )
        taken = listen(played, "m.reduction", 1.0, [(4800, NoteOn(0, 1))])
        self.assertAlmostEqual(float(taken[-1]), 10.0, delta=1e-6)
        self.assertAlmostEqual((int(np.argmax(taken > 10.0 * (1 - math.exp(-1)))) - 4800) / RATE, 0.05, delta=1e-4)

    def test_key_turns_down_another_sound(self) -> None:
        played = patch(
            [module("player", "player"), sine("tone", 500.0), module("m", "compressor", listens="key", attack=0)],
            [("tone.out", "m.in", 0.05), ("player.gate", "m.key")],
        )
        found = listen(played, "m.out", 1.0, [(24_000, NoteOn(0, 1))])
        fall = np.max(np.abs(found[40_000:])) / np.max(np.abs(found[:20_000]))
        self.assertAlmostEqual(20 * math.log10(fall), -13.5, delta=0.05)


def gain(level: float) -> float:
    return float(10.0 ** (level / 20.0))


if __name__ == "__main__":
    unittest.main()
