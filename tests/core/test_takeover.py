"""A patch that takes over while another one plays: nothing clicks, what persists goes on, what is not reached stays."""

import random
import unittest
from collections.abc import Sequence
from typing import Any

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.engine.events import Change, Event, Move, NoteOff, NoteOn
from inner_tone.core.engine.playing import Playing
from inner_tone.core.engine.recorder import Recorder, RecorderFullError
from inner_tone.core.engine.wiring import wiring_of
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import ChangeLine, Connect, Disconnect, Edit, Ends, RemoveModules, ReplaceModule
from inner_tone.core.patch.placements import placements
from inner_tone.core.patch.port import Port
from tests.support.edits import patch_of, random_edits, tried
from tests.support.patches import RATE, Line, line, module, patch, sine

HERTZ = 200.0
SWING = 2.0 * np.pi * HERTZ / RATE  # the farthest that a sine of full scale goes from one sample to the next
Step = Event | Patch
TWO_WAYS: list[Line] = [
    ("tone.out", "amp.in"),
    ("amp.out", "out.left"),
    ("other.out", "scale.in"),
    ("scale.out", "out.right"),
]


def two_ways() -> Patch:
    """Return a patch whose two sides have nothing to do with each other."""
    modules = [
        sine("tone", HERTZ),
        module("amp", "amplifier", level=0.5),
        module("other", "oscillator", wave="square", octave=1),
        module("scale", "scale", gain=0.3),
        module("out", "output"),
    ]
    return patch(modules, TWO_WAYS)


def played(
    first: Patch, steps: Sequence[tuple[int, Step]], tap: str, seconds: float, sizes: Sequence[int] = ()
) -> Floats:
    """Return the signal of a tap while events happen and patches take over, by sample."""
    count = round(seconds * RATE)
    playing = Playing(first, RATE, Recorder(count, [tap]))
    for at, step in [*steps, (count, Move("wheel", 0.0))]:
        place = 0
        while playing.position < at:
            size = sizes[place % len(sizes)] if sizes else at
            playing.advance(min(size, at - playing.position))
            place += 1
        if isinstance(step, Patch):
            playing.take_over(step)
        else:
            playing.apply(step)
    return np.array(playing.recorder.signal(tap))


def after(first: Patch, *edits: Edit) -> Patch:
    return edited(first, edits).patch


def inserted(first: Patch, kind: str, source: str, target: str, **settings: Any) -> Patch:
    """Return a patch with a module put into a line, with some settings."""
    place = placements(Graph(first), None, Ends(source=Port(source), target=Port(target)))[kind][0]
    done = edited(first, place.edits)
    new = done.patch.by_id[done.touched[0]]
    changed = new.model_copy(update={"settings": settings})
    modules = tuple(changed if one.id == new.id else one for one in done.patch.modules)
    return done.patch.model_copy(update={"modules": modules})


class NoClickTest(unittest.TestCase):
    def changes(self) -> dict[str, Patch]:
        first = two_ways()
        return {
            "a filter comes": inserted(first, "filter", "tone.out", "amp.in", cutoff=2000),
            "a delay comes": inserted(first, "delay", "tone.out", "amp.in", time=0.02, feedback=0.0),
            "the amplifier goes": after(first, RemoveModules(modules=("amp",))),
            "the source goes": after(first, RemoveModules(modules=("tone",))),
            "the line goes": after(first, Disconnect(line=Ends(source=Port("amp.out"), target=Port("out.left")))),
            "the depth changes": after(
                first, ChangeLine(line=Ends(source=Port("amp.out"), target=Port("out.left")), depth=-0.8)
            ),
            "the output goes": after(first, RemoveModules(modules=("out",))),
            "an amplifier becomes a pan": after(first, ReplaceModule(module="amp", type="pan")),
            "it feeds itself": after(first, Connect(line=read(line("amp.out", "amp.in", 0.3)))),
        }

    def test_nothing_jumps_and_nothing_is_cut(self) -> None:
        for name, second in self.changes().items():
            with self.subTest(name):
                found = played(two_ways(), [(4801, second)], "out.left", 0.4)
                self.assertLess(float(np.max(np.abs(np.diff(found[4000:])))), 1.6 * SWING, name)

    def test_there_and_back_is_where_it_was(self) -> None:
        first = two_ways()
        still = played(first, [], "out.left", 0.5)
        for name, second in self.changes().items():
            if "goes" not in name or name == "the line goes":
                with self.subTest(name):
                    found = played(first, [(4801, second), (9000, first)], "out.left", 0.5)
                    np.testing.assert_allclose(found[14_000:], still[14_000:], atol=1e-6, err_msg=name)

    def test_second_change_before_the_first_has_faded(self) -> None:
        first, other = two_ways(), self.changes()["the depth changes"]
        steps: list[tuple[int, Step]] = [(4800 + 100 * n, (other, first)[n % 2]) for n in range(10)]
        found = played(first, steps, "out.left", 0.3)
        self.assertLess(float(np.max(np.abs(np.diff(found[4000:])))), 1.6 * SWING)
        still = played(first, [], "out.left", 0.3)
        np.testing.assert_allclose(found[8000:], still[8000:], atol=1e-9)

    def test_settings_move_to_their_new_values(self) -> None:
        louder = [sine("tone", HERTZ), module("amp", "amplifier", level=1.0), *raw(two_ways())[2:]]
        found = played(two_ways(), [(4800, patch(louder, TWO_WAYS))], "amp.level", 0.2)
        wanted = np.interp(np.arange(len(found)), [4799, 4799 + 480], [0.5, 1.0])
        np.testing.assert_allclose(found, wanted, atol=1e-9)

    def test_turned_settings_are_where_the_next_patch_begins(self) -> None:
        steps: list[tuple[int, Step]] = [(2400, Change("amp", "level", 1.0)), (4800, two_ways())]
        found = played(two_ways(), steps, "amp.level", 0.2)
        self.assertEqual((float(found[4000]), float(found[-1])), (1.0, 0.5))
        self.assertLess(float(np.max(np.abs(np.diff(found)))), 0.5 / 480 + 1e-9)


class PersistingTest(unittest.TestCase):
    def test_what_the_change_does_not_reach_goes_on_to_the_bit(self) -> None:
        first = two_ways()
        steps: list[tuple[int, Step]] = []
        still = {tap: played(first, steps, tap, 0.3) for tap in ("out.right", "tone.out", "other.out")}
        for second in (
            inserted(first, "filter", "tone.out", "amp.in", cutoff=300),
            after(first, RemoveModules(modules=("amp",))),
            after(first, Connect(line=read(line("amp.out", "amp.in", 0.5)))),
        ):
            for tap, wanted in still.items():
                found = played(first, [(4801, second)], tap, 0.3)
                self.assertEqual(found.tobytes(), wanted.tobytes(), tap)

    def test_it_does_not_matter_how_many_samples_are_asked_for(self) -> None:
        first = two_ways()
        second = inserted(first, "filter", "tone.out", "amp.in", cutoff=300)
        steps: list[tuple[int, Step]] = [(4801, second), (5000, Change("amp", "level", 0.9)), (5100, first)]
        whole = played(first, steps, "out.left", 0.2)
        for sizes in ((64, 1), (7, 130, 33), (480,)):
            self.assertEqual(played(first, steps, "out.left", 0.2, sizes).tobytes(), whole.tobytes(), sizes)

    def test_held_notes_and_envelopes_go_on(self) -> None:
        voice = [module("player", "player"), module("env", "envelope", attack=0.2, sustain=1), module("out", "output")]
        lines: list[Line] = [("player.gate", "env.gate"), ("env.out", "out.left")]
        held = patch(voice, lines)
        other = patch([*voice, module("lfo", "lfo")], lines)
        still = played(held, [(0, NoteOn(0.0, 1.0))], "env.out", 0.4)
        found = played(held, [(0, NoteOn(0.0, 1.0)), (4800, other)], "env.out", 0.4)
        self.assertEqual(found.tobytes(), still.tobytes())
        ended = played(held, [(0, NoteOn(0.0, 1.0)), (4800, other), (9600, NoteOff(0.0))], "env.out", 1.0)
        self.assertEqual(float(ended[-1]), 0.0)

    def test_voices_may_come_and_go(self) -> None:
        modules = [module("player", "player"), module("osc", "oscillator", wave="sine"), module("out", "output")]
        lines: list[Line] = [("player.pitch", "osc.pitch"), ("osc.out", "out.left", 0.3)]
        one, four = patch(modules, lines), patch(modules, lines, 4)
        steps: list[tuple[int, Step]] = [(0, NoteOn(0.0, 1.0)), (4800, four), (6000, NoteOn(7.0, 1.0)), (12_000, one)]
        found = played(one, steps, "out.left", 0.4)
        self.assertGreater(float(np.max(np.abs(found[7000:11_000]))), 0.5)
        self.assertLess(float(np.max(np.abs(found[14_000:]))), 0.31)
        jumps = np.abs(np.diff(found))
        self.assertLess(float(np.max(jumps[11_900:])), 0.1)

    def test_random_edits_while_playing_end_in_the_patch_that_was_wanted(self) -> None:
        for seed in range(6):
            dice = random.Random(seed)
            now = patch_of(8, seed)
            playing = Playing(now, RATE, Recorder(60_000))
            playing.apply(NoteOn(0.0, 0.8))
            for _ in range(24):
                now = tried(now, random_edits(now, dice, 14))
                playing.take_over(now)
                playing.advance(dice.randint(1, 1500))
            playing.advance(1000)
            self.assertEqual(playing.program.wiring, wiring_of(Graph(now.live)), seed)
            self.assertTrue(np.all(np.isfinite(playing.program.signals)))


class RoomTest(unittest.TestCase):
    def test_more_than_there_is_room_for_is_refused(self) -> None:
        playing = Playing(two_ways(), RATE, Recorder(1000, ["out.left"]))
        playing.advance(900)
        self.assertRaises(RecorderFullError, playing.advance, 101)
        playing.advance(100)
        self.assertEqual(len(playing.recorder.signal("out.left")), 1000)

    def test_tap_that_goes_is_silent_and_one_that_comes_back_sounds(self) -> None:
        first = two_ways()
        gone = after(first, RemoveModules(modules=("tone",)))
        found = played(first, [(4800, gone), (9600, first)], "tone.out", 0.3)
        self.assertEqual(float(np.max(np.abs(found[5000:9600]))), 0.0)
        self.assertGreater(float(np.max(np.abs(found[9700:]))), 0.9)


class SleepTest(unittest.TestCase):
    MODULES = (
        module("player", "player"),
        module("osc", "oscillator"),
        module("env", "envelope", attack=0.001, release=0.02),
        module("amp", "amplifier"),
        module("out", "output"),
    )
    LINES: tuple[Line, ...] = (
        ("player.pitch", "osc.pitch"),
        ("player.gate", "env.gate"),
        ("osc.out", "amp.in"),
        ("env.out", "amp.level"),
        ("amp.out", "out.left"),
    )

    def chord(self, first: Patch, seconds: float = 1.0) -> Playing:
        playing = Playing(first, RATE, Recorder(round(3 * RATE), ["out.left"]))
        for key in range(4):
            playing.apply(NoteOn(float(key), 0.8))
        playing.advance(4800)
        for key in range(4):
            playing.apply(NoteOff(float(key)))
        playing.advance(round(seconds * RATE))
        return playing

    def test_voices_sleep_when_their_notes_have_died_away_but_for_the_one_that_is_seen(self) -> None:
        playing = self.chord(patch(self.MODULES, self.LINES, 4))
        self.assertEqual(playing.voices.awake.tolist(), [0, 0, 0, 1])

    def test_voice_that_slept_sounds_again(self) -> None:
        playing = self.chord(patch(self.MODULES, self.LINES, 4))
        begin = playing.recorder.position
        playing.apply(NoteOn(5.0, 0.8))
        playing.advance(4800)
        self.assertGreater(float(np.max(np.abs(playing.recorder.signal("out.left")[begin:]))), 0.5)

    def test_voice_stays_awake_that_something_else_than_a_key_can_bring_back(self) -> None:
        restless: dict[str, tuple[dict[str, Any], Line]] = {
            "an LFO opens it": (module("lfo", "lfo", rate=0.2), ("lfo.out", "amp.level")),
            "a lever opens it": (module("hand", "lever"), ("hand.out", "amp.level")),
            "the wheel opens it": (module("none", "scale"), ("player.wheel", "amp.level")),
            "it sings by itself": (module("song", "filter", resonance=1), ("song.out", "out.right")),
        }
        for name, (more, opening) in restless.items():
            lines: list[Line] = [*self.LINES, opening]
            if name == "it sings by itself":
                lines.append(("amp.out", "song.in"))
            playing = self.chord(patch([*self.MODULES, more], lines, 4))
            self.assertEqual(playing.voices.awake.tolist(), [1, 1, 1, 1], name)

    def test_sleeping_changes_nothing_that_is_heard(self) -> None:
        sleeping = patch(self.MODULES, self.LINES, 4)
        # a lever of no effect that could open the amplifier keeps all voices awake
        waking = patch([*self.MODULES, module("hand", "lever")], [*self.LINES, ("hand.out", "amp.level", 0.0)], 4)
        one, other = (self.chord(each).recorder.signal("out.left") for each in (sleeping, waking))
        np.testing.assert_array_equal(one, other)


def read(data: dict[str, Any]) -> Any:
    """Return a connection."""
    return patch([module("amp", "amplifier")], [(data["from"], data["to"], data["depth"])]).connections[0]


def raw(one: Patch) -> list[dict[str, Any]]:
    """Return a patch's modules as data."""
    found: list[dict[str, Any]] = one.to_json()["modules"]
    return found


if __name__ == "__main__":
    unittest.main()
