"""Settings that are changed while the patch plays: no zipper, no click, exact arrival; levers and their gestures."""

import unittest

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Change, NoteOn, Timed
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder
from inner_tone.core.engine.render import render
from inner_tone.core.modules.oscillator import MIDDLE_C_HZ
from inner_tone.core.patch.model import Patch
from tests.support.patches import RATE, listen, module, patch, phrase, sine


def changed(played: Patch, tap: str, change: Change, at: int = 4800, seconds: float = 0.3) -> Floats:
    return listen(played, tap, seconds, [(at, change)])


class SmoothTest(unittest.TestCase):
    def test_base_of_an_unconnected_input_glides_by_a_straight_line(self) -> None:
        played = patch([module("lfo", "lfo", rate=1), module("amp", "amplifier", level=0.2)], [("lfo.out", "amp.in")])
        level = changed(played, "amp.level", Change("amp", "level", 1.0))
        theory = np.interp(np.arange(len(level)), [4799, 4799 + 480], [0.2, 1.0])
        np.testing.assert_allclose(level, theory, atol=1e-9)
        self.assertEqual(float(level[-1]), 1.0)

    def test_base_under_modulation_glides(self) -> None:
        played = patch(
            [module("player", "player"), module("f", "filter", cutoff=200)], [("player.gate", "f.cutoff", 12.0)]
        )
        events: list[Timed] = [(0, NoteOn(0, 1)), (4800, Change("f", "cutoff", 800.0))]
        cutoff = listen(played, "f.cutoff", 0.3, events)
        self.assertAlmostEqual(float(cutoff[4000]), 400.0)
        self.assertAlmostEqual(float(cutoff[-1]), 1600.0)
        self.assertLess(float(np.max(np.abs(np.diff(cutoff)))), 1200.0 / 480 + 0.01)

    def test_setting_that_is_no_input_glides_too(self) -> None:
        played = patch([sine("tone", 200.0), module("out", "output", level=-20)], [("tone.out", "out.left")])
        found = changed(played, "out.left", Change("out", "level", 0.0))
        self.assertAlmostEqual(float(np.max(np.abs(found[7000:]))), 1.0, places=4)
        bends = np.max(np.abs(np.diff(found, 2)))
        self.assertLess(float(bends), 3.0 * (2 * np.pi * 200.0 / RATE) ** 2, "a zipper would bend much more sharply")

    def test_second_change_sets_out_from_where_the_first_has_come(self) -> None:
        played = patch([module("amp", "amplifier", level=0)])
        events: list[Timed] = [(0, Change("amp", "level", 1.0)), (240, Change("amp", "level", 0.0))]
        level = listen(played, "amp.level", 0.05, events)
        self.assertAlmostEqual(float(np.max(level)), 0.5, places=6)
        self.assertLess(float(np.max(np.abs(np.diff(level)))), 0.0021)
        self.assertEqual(float(level[-1]), 0.0)

    def test_choice_is_there_at_once(self) -> None:
        played = patch([module("osc", "oscillator", wave="sine")])
        found = changed(played, "osc.out", Change("osc", "wave", "square"))
        self.assertGreater(float(np.mean(np.abs(found[5000:]))), 0.9)
        self.assertLess(float(np.mean(np.abs(found[:4800]))), 0.7)

    def test_all_voices_hear_a_change(self) -> None:
        played = patch(
            [module("player", "player"), module("osc", "oscillator"), module("out", "output")],
            [("player.pitch", "osc.pitch"), ("osc.out", "out.left")],
            4,
        )
        events: list[Timed] = [(0, NoteOn(0, 1)), (0, NoteOn(7, 1)), (0, Change("osc", "octave", 1.0))]
        sound = listen(played, "out.left", 1.0, events)[2400:]
        levels = np.abs(np.fft.rfft(sound * np.hanning(len(sound))))
        hertz = np.arange(len(levels)) * RATE / len(sound)

        def strength(semitones: float) -> float:
            wanted = MIDDLE_C_HZ * 2.0 ** (semitones / 12.0)
            return float(np.max(levels[np.abs(hertz - wanted) < 4.0]))

        for key in (0.0, 7.0):
            self.assertGreater(strength(key + 12.0), 100.0 * strength(key), "an octave higher, in every voice")

    def test_changes_do_not_depend_on_the_sizes_of_blocks(self) -> None:
        played = patch([sine("tone", 300.0), module("amp", "amplifier", level=0.1)], [("tone.out", "amp.in")])

        def play(sizes: list[int]) -> bytes:
            engine = Playing(played, RATE, Recorder(4800, ["amp.out"]))
            engine.advance(100)
            engine.apply(Change("amp", "level", 0.9))
            place = 0
            while engine.position < 4800:
                engine.advance(min(sizes[place % len(sizes)], 4800 - engine.position))
                place += 1
            return engine.recorder.tracks.signals.tobytes()

        self.assertEqual(play([4800]), play([7, 130, 64, 1]))


class LeverTest(unittest.TestCase):
    def test_lever_stands_at_its_value_on_its_nearest_notch(self) -> None:
        for value, wanted in ((0.3, 0.25), (-5.0, -2.0), (9.0, 3.0)):
            lever = module("lever", "lever", low=-2, high=3, step=0.75, value=value)
            self.assertAlmostEqual(float(listen(patch([lever]), "lever.out", 0.01)[-1]), wanted)

    def test_gesture_moves_along_the_travel(self) -> None:
        played = patch([module("lever", "lever", low=100, high=10_000, travel="log")])
        gesture = {"control": "lever:lever", "points": [[0.5, 0.0], [1.5, 1.0]]}
        found = render(played, phrase(beats=2.0, gestures=[gesture]), taps=["lever.out"]).taps["lever.out"]
        self.assertAlmostEqual(float(found[1000]), 100.0)
        self.assertAlmostEqual(float(found[48_000]), 1000.0, delta=1.0)
        self.assertAlmostEqual(float(found[90_000]), 10_000.0, delta=1.0)

    def test_gesture_for_a_lever_that_is_not_there_does_nothing(self) -> None:
        gesture = {"control": "lever:gone", "points": [[0, 0.5]]}
        played = patch([module("lever", "lever", value=0.5)])
        done = render(played, phrase(beats=0.5, gestures=[gesture]), taps=["lever.out"])
        self.assertEqual(float(done.taps["lever.out"][-1]), 0.5)

    def test_lever_moves_several_inputs(self) -> None:
        played = patch(
            [module("lever", "lever", value=0.5), module("a", "amplifier"), module("f", "filter", cutoff=100)],
            [("lever.out", "a.level"), ("lever.out", "f.cutoff", 24.0)],
        )
        self.assertAlmostEqual(float(listen(played, "a.level", 0.01)[-1]), 0.5)
        self.assertAlmostEqual(float(listen(played, "f.cutoff", 0.01)[-1]), 200.0, places=6)


class WatchTest(unittest.TestCase):
    def test_render_tells_how_far_it_is_and_can_be_ended(self) -> None:
        played, long = patch([module("out", "output")]), phrase(beats=10.0)
        parts: list[float] = []
        render(played, long, watch=parts.append)
        self.assertEqual(parts, sorted(parts))
        self.assertEqual(parts[0], 0.0)
        self.assertGreaterEqual(len(parts), 40)

        def stop(part: float) -> None:
            if part > 0.5:
                raise InterruptedError

        self.assertRaises(InterruptedError, render, played, long, watch=stop)

    def test_watching_does_not_change_the_sound(self) -> None:
        played = patch([module("osc", "oscillator"), module("out", "output")], [("osc.out", "out.left")])
        tune = phrase(beats=1.3)
        parts: list[float] = []
        watched = render(played, tune, watch=parts.append)
        self.assertEqual(render(played, tune).left.tobytes(), watched.left.tobytes())


if __name__ == "__main__":
    unittest.main()
