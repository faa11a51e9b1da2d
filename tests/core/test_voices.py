"""Voices: which modules exist once per voice, which keys sound, and how a voice is taken over."""

import unittest
from itertools import pairwise

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Event, Move, NoteOff, NoteOn, Timed
from inner_tone.core.engine.keys import Keys, Voice
from inner_tone.core.engine.wiring import voiced_modules
from inner_tone.core.modules.player import GATE, PITCH
from inner_tone.core.modules.player import MODULE as PLAYER
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from tests.support.patches import RATE, Line, listen, module, patch
from tests.support.spectra import level_db

MODULES = [
    module("player", "player"),
    module("osc", "oscillator", wave="sine"),
    module("env", "envelope", attack=0.005, release=0.2),
    module("amp", "amplifier"),
    module("out", "output"),
]
LINES: list[Line] = [
    ("player.pitch", "osc.pitch"),
    ("player.gate", "env.gate"),
    ("osc.out", "amp.in", 0.2),
    ("env.out", "amp.level"),
    ("amp.out", "out.left"),
]


def instrument(voices: int) -> Patch:
    return patch(MODULES, LINES, voices)


def heard(voices: int, events: list[Timed], seconds: float = 1.0) -> Floats:
    return listen(instrument(voices), "out.left", seconds, events)


class ChordTest(unittest.TestCase):
    def test_chord_is_the_sum_of_its_notes(self) -> None:
        keys = (0.0, 4.0, 7.0, 11.0)
        chord = heard(4, [(100, NoteOn(key, 0.8)) for key in keys])
        for key in keys:
            self.assertGreater(level_db(chord[9600:], RATE, 261.6255653 * 2 ** (key / 12)), -20.0)
        for key in (2.0, 9.0):
            self.assertLess(level_db(chord[9600:], RATE, 261.6255653 * 2 ** (key / 12)), -80.0)

    def test_voices_are_the_sum_of_instruments_with_one_voice(self) -> None:
        melody: list[Timed] = [(200, NoteOn(5.0, 0.7)), (20_000, NoteOff(5.0))]
        bass: list[Timed] = [(200, NoteOn(-12.0, 0.7)), (30_000, NoteOff(-12.0))]
        with_reset = [*LINES, ("player.strike", "osc.reset")]
        one, other = (listen(patch(MODULES, with_reset), "out.left", 1.0, part) for part in (melody, bass))
        both = listen(patch(MODULES, with_reset, 2), "out.left", 1.0, sorted([*melody, *bass], key=lambda t: t[0]))
        np.testing.assert_allclose(both, one + other, atol=1e-12)
        self.assertGreater(float(np.max(np.abs(both))), 0.2)

    def test_voice_that_was_never_played_is_silent(self) -> None:
        lines: list[Line] = [("player.pitch", "osc.pitch"), ("osc.out", "out.left")]
        drone = patch([*MODULES[:2], module("out", "output")], lines, 8)
        self.assertLessEqual(float(np.max(np.abs(listen(drone, "out.left", 0.2)))), 1.0)
        two = listen(drone, "out.left", 0.2, [(0, NoteOn(0.0, 1.0)), (0, NoteOn(7.0, 1.0))])
        self.assertGreater(float(np.max(np.abs(two))), 1.5)

    def test_what_does_not_depend_on_the_notes_exists_once(self) -> None:
        lines: list[Line] = [("hiss.out", "amp.in"), ("player.gate", "amp.level"), ("amp.out", "out.left")]
        hissing = [MODULES[0], module("hiss", "noise"), MODULES[3], MODULES[4]]
        self.assertEqual(voiced_modules(Graph(patch(hissing, lines, 4))), {"player", "amp"})

    def test_chance_differs_from_voice_to_voice(self) -> None:
        lines: list[Line] = [("player.strike", "lfo.reset"), ("lfo.out", "out.left")]
        played = patch([MODULES[0], module("lfo", "lfo", wave="stepped", rate=0.1), MODULES[4]], lines, 4)
        events: list[Timed] = [(100 * number, NoteOn(float(number), 1.0)) for number in range(4)]
        places = listen(played, "lfo.out", 0.02, events)[50::100][:4]
        self.assertEqual(len(set(places.tolist())), 4)


class SharedTest(unittest.TestCase):
    def test_what_follows_the_notes_exists_per_voice_up_to_what_is_shared(self) -> None:
        modules = [
            *MODULES,
            module("lfo", "lfo"),
            module("room", "reverb"),
            module("pan", "pan"),
            module("swell", "scale"),
        ]
        lines: list[Line] = [
            *LINES[:-1],
            ("lfo.out", "osc.pitch", 0.2),
            ("player.wheel", "swell.in"),
            ("swell.out", "room.mix"),
            ("amp.out", "room.in"),
            ("room.left", "pan.in"),
            ("pan.left", "out.left"),
        ]
        self.assertEqual(voiced_modules(Graph(patch(modules, lines, 4))), {"player", "osc", "env", "amp"})
        self.assertEqual(voiced_modules(Graph(patch(modules, lines, 1))), frozenset())

    def test_wheel_enters_a_shared_module_once(self) -> None:
        modules = [*MODULES, module("room", "delay", mix=0, time=0.01, feedback=0)]
        room: list[Line] = [("amp.out", "room.in"), ("player.wheel", "room.mix", 0.5), ("room.left", "out.left")]
        lines = [*LINES[:-1], *room]
        events: list[Timed] = [(0, Move("wheel", 1.0)), *[(0, NoteOn(float(key), 1.0)) for key in range(8)]]
        mix = listen(patch(modules, lines, 8), "room.mix", 0.1, events)
        np.testing.assert_array_equal(mix, 0.5)

    def test_loop_through_something_shared_is_shared(self) -> None:
        modules = [*MODULES, module("room", "delay", time=0.01)]
        lines: list[Line] = [*LINES, ("amp.out", "room.in"), ("room.left", "amp.in", 0.5)]
        self.assertNotIn("amp", voiced_modules(Graph(patch(modules, lines, 4))))
        found = listen(patch(modules, lines, 4), "out.left", 0.3, [(0, NoteOn(0.0, 1.0)), (0, NoteOn(7.0, 1.0))])
        self.assertTrue(np.all(np.isfinite(found)))


class Keyboard:
    """Keys on states of their own."""

    def __init__(self, voices: int, priority: str = "last", *, legato: bool = False) -> None:
        self.states = [np.zeros(PLAYER.state_size(RATE)) for _ in range(voices)]
        self.keys = Keys([Voice(state) for state in self.states], priority, legato)

    def play(self, *events: Event) -> "Keyboard":
        for event in events:
            self.keys.apply(event)
        return self

    @property
    def sounding(self) -> set[float]:
        return {float(state[PITCH]) for state in self.states if state[GATE] > 0.0}


def on(*pitches: float) -> list[NoteOn]:
    return [NoteOn(pitch, 0.8) for pitch in pitches]


class AllocationTest(unittest.TestCase):
    def test_priority_decides_which_keys_sound(self) -> None:
        for priority, wanted in (("last", {4.0, 2.0, 9.0}), ("low", {0.0, 2.0, 4.0}), ("high", {4.0, 7.0, 9.0})):
            board = Keyboard(3, priority).play(*on(7, 0, 4, 2, 9))
            self.assertEqual(board.sounding, wanted, priority)

    def test_key_that_had_to_wait_returns(self) -> None:
        board = Keyboard(2).play(*on(0, 4, 7), NoteOff(7))
        self.assertEqual(board.sounding, {0.0, 4.0})

    def test_free_voices_are_taken_in_turn_the_longest_free_first(self) -> None:
        board = Keyboard(3)
        places = []
        for pitch in (0.0, 1.0, 2.0, 3.0, 4.0):
            places.append(board.keys.apply(NoteOn(pitch, 0.8)))
            board.keys.apply(NoteOff(pitch))
        self.assertEqual(places, [0, 1, 2, 0, 1])

    def test_same_key_takes_its_own_voice_again(self) -> None:
        board = Keyboard(3).play(*on(0), NoteOff(0))
        self.assertEqual(board.keys.apply(NoteOn(0.0, 0.5)), 0)

    def test_every_held_key_sounds_while_there_are_voices(self) -> None:
        random = np.random.default_rng(5)
        for voices in (1, 3, 16):
            board = Keyboard(voices)
            held: list[float] = []
            for _ in range(400):
                pitch = float(random.integers(-20, 20))
                if pitch in held:
                    held.remove(pitch)
                    board.play(NoteOff(pitch))
                else:
                    held.append(pitch)
                    board.play(*on(pitch))
                self.assertEqual(board.sounding, set(held[-voices:]))


class StealingTest(unittest.TestCase):
    def test_taken_voice_does_not_click(self) -> None:
        keys = (0.0, 3.0, 7.0, 10.0, 14.0, 5.0, -5.0)
        events: list[Timed] = [(4800 * place, NoteOn(key, 0.2 + 0.1 * place)) for place, key in enumerate(keys)]
        calm = heard(16, events)
        taken = heard(2, events)
        # the steepest slope is that of the highest sines sounding together, not that of a jump
        self.assertLess(float(np.max(np.abs(np.diff(taken)))), 1.05 * float(np.max(np.abs(np.diff(calm)))))

    def test_velocity_of_a_taken_voice_glides(self) -> None:
        events: list[Timed] = [(0, NoteOn(0.0, 0.1)), (1000, NoteOn(4.0, 0.9))]
        found = listen(instrument(1), "player.velocity", 0.1, events)
        self.assertEqual((float(found[999]), float(found[1100])), (0.1, 0.9))
        self.assertLess(float(np.max(np.abs(np.diff(found)))), 0.02)

    def test_legato_keeps_the_gate_of_a_taken_voice_open(self) -> None:
        board = Keyboard(1, legato=True).play(*on(0))
        board.states[0][:] = np.where(np.arange(len(board.states[0])) == GATE, 1.0, 0.0)
        board.play(*on(4))
        self.assertEqual(float(np.sum(board.states[0][[GATE]])), 1.0)

    def test_taps_follow_the_voice_that_began_last(self) -> None:
        events: list[Timed] = [(0, NoteOn(0.0, 1.0)), (500, NoteOn(7.0, 1.0)), (900, NoteOn(3.0, 1.0))]
        pitch = listen(instrument(4), "player.pitch", 0.05, events)
        edges = [*np.flatnonzero(np.diff(pitch)) + 1, len(pitch)]
        self.assertEqual([int(edge) for edge in edges], [500, 900, len(pitch)])
        self.assertEqual([float(pitch[begin]) for begin, _ in pairwise([0, *edges])], [0.0, 7.0, 3.0])


if __name__ == "__main__":
    unittest.main()
