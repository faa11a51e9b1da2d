"""What is found out of sounds when they arrive, against sounds whose nature is known by construction."""

import unittest

import numpy as np

from inner_tone.core.analysis.arrival import Arrival, arrival_of, arrived, at_usual_rate, in_one_channel
from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import NoteOn
from inner_tone.core.errors import InnerToneError
from inner_tone.core.modules.sounds import made
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch
from tests.support.samples import above_db, own
from tests.support.spectra import level_db

TIME = np.arange(96_000) / RATE
HELD = np.minimum(1.0, TIME / 0.05) * np.minimum(1.0, (2.0 - TIME) / 0.3)


def tone(hertz: float, partials: int = 11) -> Floats:
    """Return a tone of some partials, two seconds long, without its envelope."""
    return np.asarray(sum(np.sin(2 * np.pi * hertz * n * TIME + n) / n for n in range(1, partials + 1)) * 0.3)


def around(sound: Floats, found: Arrival, seconds: float = 5.0) -> Floats:
    """Return how a sampler plays a sound round the loop that is proposed for it."""
    unit = module(
        "s",
        "sampler",
        sound=own(sound),
        loop="on",
        start=found.start,
        end=found.end,
        loop_from=found.loop_from,
        loop_to=found.loop_to,
        crossfade=found.crossfade_s,
    )
    played = patch([module("player", "player"), unit], [("player.pitch", "s.pitch"), ("player.gate", "s.gate")])
    return listen(played, "s.out", seconds, ((0, NoteOn(0.0, 1.0)),))


class ArrivalTest(unittest.TestCase):
    def test_peak_and_loudness(self) -> None:
        """A sine of 997 Hz at −20 dBFS has −23.0 LUFS in one channel (ITU-R BS.1770: −3.01 dB, +0 for one channel)."""
        found = arrival_of(0.1 * np.sin(2 * np.pi * 997.0 * TIME))
        self.assertAlmostEqual(found.peak_db, -20.0, places=2)
        self.assertAlmostEqual(found.loudness_lufs, -23.0, delta=0.1)

    def test_pitch_and_root(self) -> None:
        for note in (28.0, 41.3, 57.0, 60.0, 69.5, 88.0):
            found = arrival_of(HELD * tone(440.0 * 2 ** ((note - 69) / 12)))
            assert found.note is not None
            self.assertAlmostEqual(found.note, note, delta=0.02)
            self.assertAlmostEqual(found.root, note - 60.0, delta=0.02)

    def test_what_has_no_pitch_is_given_no_root(self) -> None:
        rng = np.random.default_rng(2)
        two = np.where(TIME < 1.0, np.sin(2 * np.pi * 220 * TIME), np.sin(2 * np.pi * 294 * TIME)) * HELD
        cases = {
            "noise": rng.normal(0, 0.1, len(TIME)),
            "a bell": made("bell").astype(float),
            "two notes": two,
            "surf": made("surf").astype(float),
        }
        for name, sound in cases.items():
            found = arrival_of(sound)
            self.assertIsNone(found.note, name)
            self.assertEqual(found.root, 0.0, name)

    def test_begins_where_something_is_heard(self) -> None:
        """Silence, then a struck tone: it begins a few milliseconds before the stroke at most, and never after it."""
        for pause in (0.02, 0.3, 1.0):
            struck = np.exp(-TIME / 0.2) * np.sin(2 * np.pi * 330 * TIME)
            sound = np.concatenate([np.zeros(round(pause * RATE)), struck])
            found = arrival_of(sound)
            begun = found.start * found.seconds
            self.assertLessEqual(begun, pause + 1e-4)
            self.assertGreater(begun, pause - 0.01)
            self.assertLess(abs(sound[round(begun * RATE)]), 0.02, "at a zero")

    def test_ends_after_all_that_is_heard(self) -> None:
        sound = np.concatenate(
            [np.sin(2 * np.pi * 330 * TIME[:24_000]) * np.exp(-TIME[:24_000] / 0.03), np.zeros(48_000)]
        )
        found = arrival_of(sound)
        last = found.end * found.seconds
        self.assertGreater(last, 0.03 * np.log(1000.0) - 0.01)
        self.assertLess(last, 0.03 * np.log(1000.0) + 0.02)

    def test_proposed_loops_do_not_click(self) -> None:
        vibrato = HELD * np.sin(2 * np.pi * 440 * TIME + 3 * np.sin(2 * np.pi * 5.5 * TIME))
        cases = {
            "a tone": HELD * tone(233.08),
            "a low square": HELD * np.sign(np.sin(2 * np.pi * 41.2 * TIME)) * 0.4,
            "a tone with vibrato": vibrato * 0.5,
            "two tones that beat": HELD * (np.sin(2 * np.pi * 220 * TIME) + np.sin(2 * np.pi * 220.7 * TIME)) * 0.4,
            "a plucked tone": np.exp(-TIME / 0.6) * tone(110.0, 19),
            "a bell": made("bell").astype(float),
        }
        for name, sound in cases.items():
            found = arrival_of(sound)
            self.assertGreater(found.loop_to, found.loop_from, name)
            looped = above_db(around(sound, found)[4_800:], 8_000.0)
            held = above_db(sound[4_800:-4_800], 8_000.0)
            if name == "a tone with vibrato":
                record("Sampler", f"proposed loop of {name}, above 8 kHz", "—", f"{looped:.0f} dB")
            self.assertLess(looped, max(held + 3.0, -75.0), name)

    def test_loop_of_a_tone_keeps_its_pitch(self) -> None:
        sound = HELD * tone(233.08)
        looped = around(sound, arrival_of(sound), 6.0)[96_000:]
        self.assertGreater(level_db(looped, RATE, 233.08), level_db(sound[14_400:72_000], RATE, 233.08) - 0.3)

    def test_loop_of_noise_keeps_its_level(self) -> None:
        noise = np.random.default_rng(8).normal(0, 0.1, len(TIME))
        looped = around(noise, arrival_of(noise))[:216_000].reshape(-1, 2_400)
        levels = 10 * np.log10(np.mean(looped**2, axis=1))
        self.assertLess(float(np.ptp(levels)), 2.0)

    def test_what_is_too_short_has_no_loop(self) -> None:
        found = arrival_of(HELD[:9_600] * tone(440.0)[:9_600])
        self.assertEqual((found.loop_from, found.loop_to), (0.0, 0.0))

    def test_the_same_sound_is_proposed_the_same(self) -> None:
        self.assertEqual(arrival_of(HELD * tone(98.0)), arrival_of(HELD * tone(98.0)))


class ChannelsTest(unittest.TestCase):
    def test_two_channels_are_added_unless_they_cancel(self) -> None:
        left = tone(220.0)
        both, words = in_one_channel(np.stack([left, 0.5 * left]))
        np.testing.assert_allclose(both, 0.75 * left)
        self.assertIn("added", words)
        one, words = in_one_channel(np.stack([left, -0.9 * left]))
        np.testing.assert_array_equal(one, left)
        self.assertIn("left one is kept", words)

    def test_other_rates_keep_pitch_and_length(self) -> None:
        for rate in (8_000.0, 22_050.0, 44_100.0, 44_101.0, 96_000.0, 192_000.0):
            time = np.arange(round(0.9 * rate)) / rate
            found = at_usual_rate(np.sin(2 * np.pi * 1_000.0 * time) * np.hanning(len(time)), rate)
            self.assertAlmostEqual(len(found) / RATE, 0.9, delta=1e-4)
            wanted = np.sin(2 * np.pi * 1_000.0 * np.arange(len(found)) / RATE) * np.hanning(len(found))
            self.assertLess(float(np.max(np.abs(found - wanted))), 2e-3, rate)

    def test_what_is_too_loud_is_turned_down_and_silence_refused(self) -> None:
        kept, words = arrived(np.array([2.0 * np.sin(TIME * 900)]), RATE)
        self.assertAlmostEqual(float(np.max(np.abs(kept))), 1.0)
        self.assertIn("6.0 dB", words)
        with self.assertRaisesRegex(InnerToneError, "Nothing can be heard"):
            arrived(np.zeros((2, 4_800)), RATE)


if __name__ == "__main__":
    unittest.main()
