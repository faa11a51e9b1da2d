"""What cards show closely: cycles of known waves, levels of known spectra, and the very samples that were rendered."""

import itertools
import unittest

import numpy as np

from inner_tone.core.analysis.closeup import BANDS, CYCLES, HIGHEST_HZ, LOWEST_HZ, POINTS, Face, bands_db, faces
from inner_tone.core.arrays import Floats
from inner_tone.core.checkup import examined
from inner_tone.core.engine.render import TELLING_SECONDS, render
from inner_tone.core.engine.run import CLOSE
from inner_tone.core.patch.port import Port
from tests.support.patches import RATE, Line, module, patch, phrase

WIDE = np.log2(HIGHEST_HZ / LOWEST_HZ) / BANDS  # octaves of a band


def seen(signal: Floats) -> Face:
    return faces({Port("a.out"): signal}, RATE)[Port("a.out")]


class CycleTest(unittest.TestCase):
    def test_two_cycles_of_known_waves_from_where_they_begin(self) -> None:
        turns = np.linspace(0.0, CYCLES, POINTS, endpoint=False) % 1.0
        waves = {
            "sine": (lambda phase: np.sin(2.0 * np.pi * phase), np.sin(2.0 * np.pi * turns)),
            "saw": (lambda phase: 2.0 * (phase % 1.0) - 1.0, 2.0 * turns - 1.0),
            "square": (lambda phase: np.where(phase % 1.0 < 0.5, 1.0, -1.0), np.where(turns < 0.5, 1.0, -1.0)),
        }
        for (name, (wave, ideal)), hertz, start in itertools.product(waves.items(), (41.0, 110.0, 523.25), (0.0, 0.37)):
            face = seen(wave(hertz * np.arange(CLOSE) / RATE + start))
            self.assertAlmostEqual(face.hertz / hertz, 1.0, delta=0.003, msg=name)
            # but for the jumps, which lie between two of the points
            near = np.sort(np.abs(np.array(face.cycle) - ideal))[: POINTS - 8]
            self.assertLess(float(near[-1]), 0.12, f"{name} of {hertz} Hz from {start}")

    def test_what_does_not_repeat_is_said_to_have_no_pitch_and_is_seen_as_it_is(self) -> None:
        noise = np.random.default_rng(5).normal(size=CLOSE)
        face = seen(noise)
        self.assertEqual(face.hertz, 0.0)
        self.assertEqual(face.cycle[0], round(noise[0], 4))
        self.assertEqual(len(face.cycle), POINTS)

    def test_silence_and_what_is_too_short(self) -> None:
        self.assertEqual(seen(np.zeros(CLOSE)).cycle, (0.0,) * POINTS)
        self.assertEqual(faces({Port("a.out"): np.zeros(POINTS - 1)}, RATE), {})
        self.assertEqual(faces({}, RATE), {})


class BandsTest(unittest.TestCase):
    def test_a_sine_has_its_level_where_it_is(self) -> None:
        for hertz, amplitude in ((220.0, 1.0), (1000.0, 0.1), (5000.0, 0.5)):
            sine = amplitude * np.sin(2.0 * np.pi * hertz * np.arange(CLOSE) / RATE)
            bands = bands_db(sine[np.newaxis], RATE)[0]
            whole = 10.0 * np.log10(np.sum(10.0 ** (bands / 10.0)))
            self.assertAlmostEqual(whole, 20.0 * np.log10(amplitude), delta=0.1)
            self.assertLessEqual(abs(int(np.argmax(bands)) - np.log2(hertz / LOWEST_HZ) / WIDE + 0.5), 1.0)

    def test_white_noise_rises_by_3_db_with_each_octave(self) -> None:
        dice = np.random.default_rng(2)
        powers = np.mean([10.0 ** (bands_db(dice.normal(size=(1, CLOSE)), RATE)[0] / 10.0) for _ in range(80)], axis=0)
        rise = np.polyfit(WIDE * np.arange(BANDS), 10.0 * np.log10(powers), 1)[0]
        self.assertAlmostEqual(rise, 10.0 * np.log10(2.0), delta=0.1)


VOICE = [
    module("player", "player"),
    module("saw", "oscillator", wave="saw"),
    module("filter", "filter", cutoff=800),
    module("amp", "amplifier"),
    module("env", "envelope"),
    module("out", "output"),
]


class RenderedTest(unittest.TestCase):
    def test_they_are_the_very_samples_of_the_longest_note(self) -> None:
        lines = [("player.pitch", "saw.pitch"), ("saw.out", "filter.in"), ("filter.out", "out.left")]
        for voices in (1, 4):
            built = patch(VOICE, lines, voices=voices)
            played = phrase((0, 0.5, 40), (1, 2, 52), (3.2, 0.5, 60))
            done = render(built, played, taps=["saw.out", "filter.out", "filter.in"])
            begin = round((1.0 + TELLING_SECONDS) * RATE)
            for tap in ("saw.out", "filter.out", "filter.in"):
                close = done.close[Port(tap)]
                self.assertEqual(len(close), CLOSE)
                np.testing.assert_array_equal(close, done.taps[tap][begin : begin + CLOSE], f"{tap}, {voices} voices")

    def test_a_phrase_that_ends_before_gives_what_there_is(self) -> None:
        done = render(patch(VOICE, [("saw.out", "out.left")]), phrase((0, 0.1, 60), beats=0.1))
        self.assertGreater(len(done.close[Port("saw.out")]), 1000)


class SilencesTest(unittest.TestCase):
    def test_why_modules_are_silent(self) -> None:
        lines = [
            ("player.pitch", "saw.pitch"),
            ("saw.out", "amp.in"),
            ("amp.out", "filter.in"),
            ("filter.out", "out.left"),
        ]
        found = examined(patch(VOICE, lines), phrase((0, 1, 60))).silences
        self.assertNotIn("saw", found)
        self.assertEqual(str(found["filter"]), "nothing comes in")
        self.assertEqual(str(found["amp"]), "level at 0")
        self.assertNotIn("env", found)

    def test_a_level_is_not_blamed_for_a_line_without_depth(self) -> None:
        lines: list[Line] = [("saw.out", "amp.in", 0.0), ("amp.out", "out.left")]
        found = examined(patch(VOICE, lines), phrase((0, 1, 60))).silences
        self.assertEqual(str(found["amp"]), "nothing comes in")

    def test_a_level_that_opens_only_in_silence_is_not_said_to_be_at_0(self) -> None:
        """The amplifier opens while the note is held, and what comes in has been taken away by the same gate."""
        shut = [module("turn", "scale", gain=-1, offset=1), module("first", "amplifier")]
        lines = [
            ("player.gate", "turn.in"),
            ("saw.out", "first.in"),
            ("turn.out", "first.level"),
            ("first.out", "amp.in"),
            ("player.gate", "amp.level"),
            ("amp.out", "out.left"),
        ]
        found = examined(patch([*VOICE, *shut], lines), phrase((1, 1, 60))).silences
        self.assertEqual(str(found["amp"]), "nothing comes out")

    def test_nothing_is_silent_in_what_sounds(self) -> None:
        self.assertEqual(
            dict(examined(patch(VOICE, [("saw.out", "out.left")]), phrase((0, 1, 60))).silences).keys()
            & {"saw", "out"},
            set(),
        )


if __name__ == "__main__":
    unittest.main()
