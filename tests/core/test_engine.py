"""The engine: sums, scalings, loops, blocks, and the sameness of every run."""

import subprocess
import sys
import unittest
from hashlib import sha256

import numpy as np

from inner_tone.core.engine.events import Move, NoteOff, NoteOn, Timed, events_of
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.render import render, render_key
from inner_tone.core.engine.run import limit
from inner_tone.core.errors import TapError
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.figures import record
from tests.support.patches import RATE, listen, module, patch, phrase


class InputTest(unittest.TestCase):
    """An input's value is base ⊕ Σ depth · source · scale."""

    def setUp(self) -> None:
        self.events: list[Timed] = [(0, NoteOn(4.0, 0.5)), (0, Move("wheel", 0.25)), (0, Move("bend", -1.0))]

    def test_sources_sum_with_their_depths(self) -> None:
        played = patch(
            [module("player", "player"), module("amp", "amplifier", level=0.1)],
            [("player.velocity", "amp.level", 2.0), ("player.wheel", "amp.level", 0.4)],
        )
        level = listen(played, "amp.level", 0.01, self.events)
        np.testing.assert_allclose(level, 0.1 + 2.0 * 0.5 + 0.4 * 0.25)

    def test_connection_is_scaled_by_another_signal(self) -> None:
        played = patch(
            [module("player", "player"), module("amp", "amplifier")],
            [("player.velocity", "amp.level", 3.0, "player.wheel")],
        )
        np.testing.assert_allclose(listen(played, "amp.level", 0.01, self.events), 3.0 * 0.5 * 0.25)

    def test_cutoff_is_moved_in_semitones(self) -> None:
        played = patch(
            [module("player", "player"), module("filter", "filter", cutoff=300)],
            [("player.velocity", "filter.cutoff", 24.0)],
        )
        np.testing.assert_allclose(listen(played, "filter.cutoff", 0.01, self.events), 600.0)

    def test_value_stays_within_the_inputs_bounds(self) -> None:
        played = patch(
            [module("player", "player"), module("amp", "amplifier", level=1)],
            [("player.velocity", "amp.level", -50.0)],
        )
        np.testing.assert_array_equal(listen(played, "amp.level", 0.01, self.events), 0.0)

    def test_bend_moves_the_pitch_by_its_range(self) -> None:
        played = patch([module("player", "player", bend_range=7)])
        np.testing.assert_allclose(listen(played, "player.pitch", 0.01, self.events), 4.0 - 7.0)


class LoopTest(unittest.TestCase):
    def test_loop_has_one_sample_of_delay(self) -> None:
        # a module that feeds itself through a gain of 0.5 answers a step with 1, 1.5, 1.75, …
        played = patch(
            [module("player", "player"), module("amp", "amplifier", level=1)],
            [("player.gate", "amp.in"), ("amp.out", "amp.in", 0.5)],
        )
        signal = listen(played, "amp.out", 0.001, [(0, NoteOn(0, 1))])
        np.testing.assert_allclose(signal[:12], 2.0 - 0.5 ** np.arange(12))

    def test_loop_through_three_modules_has_one_sample_of_delay_too(self) -> None:
        names = ["one", "two", "three"]
        for order in ([0, 1, 2], [2, 1, 0], [1, 2, 0]):
            played = patch(
                [module("player", "player"), *(module(names[n], "amplifier", level=1) for n in order)],
                [
                    ("player.gate", "one.in"),
                    ("one.out", "two.in"),
                    ("two.out", "three.in"),
                    ("three.out", "one.in", -0.5),
                ],
            )
            signal = listen(played, "three.out", 0.002, [(0, NoteOn(0, 1))])
            np.testing.assert_allclose(signal[:20], (2.0 + (-0.5) ** np.arange(20)) / 3.0, err_msg=str(order))

    def test_loop_carries_over_the_edges_of_blocks(self) -> None:
        played = patch(
            [module("player", "player"), module("amp", "amplifier", level=1)],
            [("player.gate", "amp.in", 0.001), ("amp.out", "amp.in")],
        )
        signal = listen(played, "amp.out", 0.05, [(0, NoteOn(0, 1))])
        np.testing.assert_allclose(signal, 0.001 * np.arange(1, len(signal) + 1), rtol=1e-9)

    def test_runaway_loop_stays_finite(self) -> None:
        played = patch(
            [module("osc", "oscillator"), module("amp", "amplifier", level=2), module("out", "output")],
            [("osc.out", "amp.in"), ("amp.out", "amp.in", 3.0), ("amp.out", "out.left"), ("amp.out", "out.right")],
        )
        done = render(played, phrase(beats=1), taps=["amp.out"])
        self.assertTrue(np.all(np.isfinite(done.taps["amp.out"])))
        self.assertLessEqual(float(np.max(np.abs(done.left))), 1.0)


class SamenessTest(unittest.TestCase):
    def cross_modulated(self) -> Playing:
        played = patch(
            [
                module("player", "player"),
                module("a", "oscillator", wave="saw", ratio=1.01),
                module("b", "oscillator", wave="square", octave=1),
                module("filter", "filter", slope=24, resonance=0.7),
                module("env", "envelope"),
                module("amp", "amplifier"),
                module("out", "output"),
            ],
            [
                ("player.pitch", "a.pitch"),
                ("a.out", "b.phase", 2.0),
                ("b.out", "a.linear", 300.0, "player.wheel"),
                ("a.out", "filter.in"),
                ("filter.band", "filter.cutoff", 12.0),
                ("player.gate", "env.gate"),
                ("env.out", "amp.level"),
                ("filter.out", "amp.in"),
                ("amp.out", "out.left"),
                ("a.out", "out.right"),
            ],
        )
        return Playing(played, RATE, Recorder(48_000, ["out.left", "out.right"]))

    def played_in(self, *sizes: int) -> bytes:
        engine = self.cross_modulated()
        engine.apply(NoteOn(-5.0, 0.9))
        engine.apply(Move("wheel", 0.0, 1.0 / 48_000))
        place = 0
        while engine.position < 48_000:
            engine.advance(min(sizes[place % len(sizes)], 48_000 - engine.position))
            place += 1
        tracks = engine.recorder.tracks
        return tracks.signals.tobytes() + tracks.lows.tobytes() + tracks.highs.tobytes()

    def test_any_sizes_of_blocks_give_the_same_bytes(self) -> None:
        whole = self.played_in(48_000)
        for sizes in ((128,), (64, 1), (1000, 3, 77), (5,)):
            self.assertEqual(sha256(self.played_in(*sizes)).digest(), sha256(whole).digest(), sizes)

    def test_another_process_renders_identical_bytes(self) -> None:
        code = (
            "from hashlib import sha256; from inner_tone.core.engine.render import render;"
            "from inner_tone.demo.foghorn import BLASTS, DISTANT; done = render(DISTANT, BLASTS);"
            "print(done.key, sha256(done.left.tobytes() + done.right.tobytes()).hexdigest())"
        )
        here = render(DISTANT, BLASTS)
        digest = sha256(here.left.tobytes() + here.right.tobytes()).hexdigest()
        there = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
        record("Render", "same patch and phrase, in another process", "identical bytes", "identical")
        self.assertEqual(there.split(), [here.key, digest])

    def test_key_depends_on_sound_and_not_on_names(self) -> None:
        renamed = DISTANT.model_copy(
            update={
                "title": "Another",
                "modules": tuple(one.model_copy(update={"label": "X"}) for one in DISTANT.modules),
            }
        )
        self.assertEqual(render_key(renamed, BLASTS), render_key(DISTANT, BLASTS))
        louder = patch([module("out", "output", level=1)])
        softer = patch([module("out", "output", level=1.0)])
        other = patch([module("out", "output", level=2)])
        self.assertEqual(render_key(louder, BLASTS), render_key(softer, BLASTS))
        self.assertNotEqual(render_key(louder, BLASTS), render_key(other, BLASTS))


class RenderTest(unittest.TestCase):
    def test_render_ends_when_it_falls_silent(self) -> None:
        done = render(DISTANT, phrase((0, 1, 57), beats=2))
        self.assertGreaterEqual(done.seconds, 2.0)
        self.assertLess(done.seconds, 2.6)

    def test_drone_is_cut_off_after_four_more_seconds(self) -> None:
        drone = patch([module("osc", "oscillator"), module("out", "output")], [("osc.out", "out.left")])
        self.assertAlmostEqual(render(drone, phrase(beats=2)).seconds, 6.0)

    def test_empty_patch_renders_silence(self) -> None:
        done = render(patch([]), phrase((0, 1, 60), beats=2))
        self.assertEqual(done.seconds, 2.0)
        self.assertEqual(float(np.max(np.abs(done.left))), 0.0)

    def test_measures_agree_with_the_signal(self) -> None:
        done = render(DISTANT, BLASTS, taps=["bell.out", "breath.out"])
        for tap, signal in done.taps.items():
            measure = done.measures[tap]
            self.assertEqual(measure.least, float(np.min(signal)))
            self.assertEqual(measure.greatest, float(np.max(signal)))
            self.assertAlmostEqual(measure.rms, float(np.sqrt(np.mean(signal**2))), places=9)
            self.assertAlmostEqual(measure.mean, float(np.mean(signal)), places=9)
            self.assertEqual(len(measure.lows), 128)

    def test_outline_follows_the_course(self) -> None:
        measure = render(DISTANT, BLASTS).measures["amp.out"]
        self.assertGreater(measure.highs[20], 0.5, "the first blast")
        self.assertLess(measure.highs[-2], 0.01, "silence at the end")

    def test_output_is_limited_only_above_full_scale(self) -> None:
        sine: dict[str, float | str] = {"wave": "sine", "ratio": 200.0 / MIDDLE_C_HZ}
        for level, limited in ((0, False), (12, True)):
            played = patch(
                [module("osc", "oscillator", **sine), module("out", "output", level=level)],
                [("osc.out", "out.left"), ("osc.out", "out.right")],
            )
            done = render(played, phrase(beats=1), taps=["out.left"])
            same = np.array_equal(done.left, done.taps["out.left"].astype(np.float32))
            self.assertEqual(same, not limited)
            self.assertLessEqual(float(np.max(np.abs(done.left))), 1.0)
            self.assertEqual(done.limited_db > 0, limited)

    def test_limiter_returns_to_the_bit_after_a_peak(self) -> None:
        signal = np.full(96_000, 0.5)
        signal[1000] = 4.0
        left, right = signal.copy(), signal.copy()
        limit(left, right, np.zeros(1), float(np.exp(-1.0 / 9600)))
        self.assertEqual(left[1000], 1.0)
        self.assertLess(left[1001], 0.2)
        np.testing.assert_array_equal(left[:1000], 0.5)
        self.assertAlmostEqual(left[-1], 0.5, places=4)

    def test_unknown_tap_is_refused_with_a_hint(self) -> None:
        with self.assertRaisesRegex(TapError, "Did you mean “bell.out”"):
            render(DISTANT, BLASTS, taps=["bell.ot"])

    def test_sampling_rate_changes_neither_pitch_nor_time(self) -> None:
        slow = render(DISTANT, BLASTS, rate=44_100.0)
        fast = render(DISTANT, BLASTS, rate=96_000.0)
        self.assertAlmostEqual(slow.seconds, fast.seconds, places=3)
        self.assertAlmostEqual(slow.measures["amp.out"].rms, fast.measures["amp.out"].rms, delta=0.002)


class EventTest(unittest.TestCase):
    def test_notes_fall_on_their_sample(self) -> None:
        timed = events_of(phrase((0.5, 1.0, 64), (1.5, 0.25, 67), beats=4, tempo=120), RATE)
        self.assertEqual(
            timed,
            [
                (12_000, NoteOn(4.0, 0.8)),
                (36_000, NoteOff(4.0)),
                (36_000, NoteOn(7.0, 0.8)),
                (42_000, NoteOff(7.0)),
            ],
        )

    def test_note_that_outlasts_the_phrase_ends_with_it(self) -> None:
        timed = events_of(phrase((3.0, 9.0, 60), beats=4), RATE)
        self.assertEqual(timed[-1], (4 * 48_000, NoteOff(0.0)))

    def test_gesture_moves_in_straight_lines(self) -> None:
        gesture = {"control": "wheel", "points": [[1, 0.0], [2, 1.0], [3, 0.5]]}
        played = phrase(beats=4, gestures=[gesture])
        engine = Playing(patch([module("player", "player")]), RATE, Recorder(4 * 48_000, ["player.wheel"]))
        for sample, event in events_of(played, RATE):
            engine.advance(sample - engine.position)
            engine.apply(event)
        engine.advance(4 * 48_000 - engine.position)
        theory = np.interp(np.arange(4 * 48_000) / 48_000, [1, 2, 3], [0.0, 1.0, 0.5])
        np.testing.assert_allclose(engine.recorder.tracks.signals[0], theory, atol=1e-9)


if __name__ == "__main__":
    unittest.main()
