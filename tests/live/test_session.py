"""A session: what it gives is what a render gives, recordings come out the same, and nothing clicks or hangs."""

import json
import random
import unittest
from typing import Any

import numpy as np
from numpy.typing import NDArray

from inner_tone.core.engine.render import render
from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase
from inner_tone.live.messages import (
    Beat,
    Finish,
    Happening,
    KeyDown,
    KeyUp,
    Moved,
    Panic,
    Perform,
    Record,
    Release,
    SetTempo,
    TakeOver,
    read_message,
)
from inner_tone.live.session import MOST_WAITING, Session
from tests.support.application import ROOT
from tests.support.patches import RATE, module, patch, phrase, sine

EXAMPLES = ("foghorn", "levers-and-chord", "step-sequence", "fm-bell", "vibrato-by-wheel")
QUIET_DB, AROUND_HZ = -60.0, 1000.0
VOICE = patch(
    [
        module("player", "player"),
        module("tone", "oscillator", wave="saw"),
        module("filter", "filter", cutoff=900.0),
        module("bright", "lever", low=0.0, high=36.0, value=7.3),
        module("env", "envelope", attack=0.01, release=0.05),
        module("amp", "amplifier"),
        module("out", "output", level=-6.0),
    ],
    [
        ("player.pitch", "tone.pitch"),
        ("player.gate", "env.gate"),
        ("tone.out", "filter.in"),
        ("player.wheel", "filter.cutoff", 24.0),
        ("bright.out", "filter.cutoff"),
        ("filter.out", "amp.in"),
        ("env.out", "amp.level"),
        ("amp.out", "out.left"),
        ("amp.out", "out.right"),
    ],
)
DRONE = patch(
    [
        sine("tone", 110.0),
        module("filter", "filter", cutoff=4000.0),
        module("amp", "amplifier", level=0.5),
        module("out", "output"),
    ],
    [("tone.out", "filter.in"), ("filter.out", "amp.in"), ("amp.out", "out.left"), ("amp.out", "out.right")],
)


def example(name: str) -> tuple[Patch, Phrase]:
    folder = ROOT / "docs" / "examples"
    return tuple(  # type: ignore[return-value]
        read(json.loads((folder / f"{name}.{kind}.json").read_text()))
        for kind, read in (("patch", read_patch), ("phrase", read_phrase))
    )


def as_messages(played: Phrase, rate: float) -> list[Happening]:
    """Return a phrase as what somebody does who plays it."""

    def at(beat: float) -> float:
        return played.sample(beat, rate) / rate

    found: list[Happening] = []
    for note in played.notes:
        found.append(KeyDown(at_s=at(note.start), pitch=note.pitch, velocity=note.velocity))
        found.append(KeyUp(at_s=at(min(played.beats, note.start + note.length)), pitch=note.pitch))
    for gesture in played.gestures:
        (_, first), *rest = points = gesture.points
        found.append(Moved(at_s=0.0, control=gesture.control, value=first, over_s=0.0))
        for (begin, _), (end, goal) in zip(points, rest, strict=False):
            over = at(end) - at(begin)
            found.append(Moved(at_s=at(begin), control=gesture.control, value=goal, over_s=over))
    return found


def pulled(session: Session, seconds: float, dice: random.Random | None = None) -> NDArray[np.float32]:
    """Return the next seconds, asked for in pieces of any size."""
    left, parts = round(seconds * RATE), []
    while left > 0:
        step = min(left, dice.randint(1, 3000) if dice else 512)
        parts.append(session.pull(step))
        left -= step
    assert not session.problems, session.problems
    return np.concatenate(parts, axis=1)


class SameTest(unittest.TestCase):
    def test_what_plays_a_phrase_gives_what_its_render_gives_however_it_is_asked(self) -> None:
        for number, name in enumerate(EXAMPLES):
            with self.subTest(name):
                played, tune = example(name)
                whole = render(played, tune)
                session = Session(played, tempo=tune.tempo)
                for message in as_messages(tune, RATE):
                    session.send(message)
                sound = pulled(session, whole.seconds, random.Random(number))
                np.testing.assert_array_equal(sound, np.stack([whole.left, whole.right]))

    def test_what_was_recorded_and_rendered_is_what_was_heard(self) -> None:
        for seed in range(6):
            with self.subTest(seed):
                dice = random.Random(seed)
                session = Session(VOICE, tempo=dice.choice([96.0, 117.3, 61.0]))
                session.send(Moved(control="wheel", value=0.4))  # where it stands before is part of what is heard
                pulled(session, 0.1)
                session.send(Record(count_in=0, click=False))
                heard = []
                for _ in range(40):
                    perform(session, dice)
                    heard.append(pulled(session, dice.uniform(0.005, 0.12), dice))
                session.send(Finish())
                pulled(session, 0.001)
                found = session.finished
                assert isinstance(found, Phrase), found
                sound = np.concatenate(heard, axis=1)
                again = render(VOICE, found)
                np.testing.assert_array_equal(sound, np.stack([again.left, again.right])[:, : sound.shape[1]])

    def test_recording_waits_for_the_beat_keeps_what_came_early_and_clicks_into_no_take(self) -> None:
        session = Session(VOICE, tempo=120.0)
        session.send(Record(count_in=2, click=True))
        counted = pulled(session, 0.9)
        self.assertGreater(float(np.max(np.abs(counted))), 0.1, "the click is heard")
        session.send(KeyDown(pitch=57))
        pulled(session, 0.6)
        session.send(KeyUp(pitch=57))
        session.send(Finish())
        pulled(session, 0.01)
        assert isinstance(session.finished, Phrase)
        [note] = session.finished.notes
        self.assertEqual(note.start, 0.0)
        self.assertAlmostEqual(note.length, 1.0, delta=1e-9)

    def test_notes_go_to_the_grid_only_if_that_is_wished(self) -> None:
        session = Session(VOICE, tempo=60.0)
        session.send(Record(count_in=0, click=False))
        pulled(session, 0.46)
        session.send(KeyDown(pitch=60))
        pulled(session, 0.3)
        session.send(KeyUp(pitch=60))
        session.send(Finish(grid=0.25))
        pulled(session, 0.01)
        assert isinstance(session.finished, Phrase)
        self.assertEqual([note.start for note in session.finished.notes], [0.5])

    def test_movements_over_a_phrase_leave_its_notes_alone(self) -> None:
        tune = phrase((0.0, 1.0, 57.0), (2.0, 1.0, 60.0), beats=4.0, tempo=120.0)
        session = Session(VOICE, tempo=120.0)
        session.send(Perform(what="phrase", phrase=tune))
        pulled(session, 0.3)
        session.send(Record(count_in=0, click=False, movements=True))
        pulled(session, 0.5)
        session.send(Moved(control="lever:bright", value=1.0))
        pulled(session, 2.5)
        session.send(Finish())
        pulled(session, 0.01)
        assert isinstance(session.finished, Phrase)
        self.assertEqual(session.finished.notes, tune.notes)
        [gesture] = session.finished.gestures
        self.assertEqual((gesture.control, gesture.points[-1][1]), ("lever:bright", 1.0))
        self.assertLessEqual(gesture.points[-1][0], tune.beats)

    def test_nothing_played_is_no_phrase(self) -> None:
        session = Session(VOICE)
        session.send(Record(count_in=0, click=False))
        pulled(session, 0.2)
        session.send(Finish())
        pulled(session, 0.01)
        self.assertIsInstance(session.finished, InnerToneError)


def perform(session: Session, dice: random.Random) -> None:
    """Do something that somebody does at a keyboard."""
    down = [pitch + 60.0 for pitch in session.keys]
    what = dice.random()
    if what < 0.45 or not down:
        session.send(KeyDown(pitch=float(dice.randint(40, 72)), velocity=dice.choice([0.3, 0.71, 1.0])))
    elif what < 0.7:
        session.send(KeyUp(pitch=dice.choice(down)))
    control = dice.choice(["wheel", "bend", "lever:bright"])
    if what > 0.5:
        session.send(Moved(control=control, value=dice.uniform(-1.0 if control == "bend" else 0.0, 1.0)))


class WindowTest(unittest.TestCase):
    """What is remembered of what sounds."""

    def test_last_stretch_is_what_was_heard_however_long_it_was_played(self) -> None:
        session = Session(VOICE, taps=["amp.out"], stretch=4_800)
        session.send(KeyDown(pitch=57))
        sound = pulled(session, 3.0, random.Random(2))
        kept = session.signals(["amp.out", "out.left"], 4_000)
        np.testing.assert_array_equal(kept["out.left"].astype(np.float32), sound[0, -4_000:])
        np.testing.assert_allclose(kept["amp.out"] * 10.0 ** (-6.0 / 20.0), kept["out.left"], rtol=1e-12)
        self.assertEqual(session.signals(["nobody.out"], 10), {})

    def test_other_taps_are_heard_from_when_they_are_wished_and_the_sound_goes_on(self) -> None:
        alone, looked = Session(VOICE), Session(VOICE)
        for session in (alone, looked):
            session.send(KeyDown(pitch=57))
        before = pulled(looked, 0.2)
        looked.listen_to(["filter.low", "nobody.out"])
        after = pulled(looked, 0.2)
        np.testing.assert_array_equal(np.concatenate([before, after], axis=1), pulled(alone, 0.4))
        self.assertGreater(float(np.max(np.abs(looked.signals(["filter.low"], 4_800)["filter.low"]))), 0.1)

    def test_measures_are_of_what_sounded_since_they_were_last_asked(self) -> None:
        session = Session(DRONE)
        pulled(session, 1.2)
        session.measures()
        pulled(session, 1.0)
        found = session.measures()["tone.out"]
        self.assertAlmostEqual(found.rms, 0.5**0.5, delta=0.002)
        self.assertAlmostEqual(found.peak, 1.0, delta=0.001)
        self.assertEqual(session.measures(), {})


class QuietTest(unittest.TestCase):
    """While a sine of 110 Hz sounds, nothing that is done to it splashes."""

    def assert_no_splash(self, before: Patch, *messages: Happening) -> None:
        session = Session(before)
        pulled(session, 0.5)
        for message in messages:
            session.send(message)
        sound = pulled(session, 0.5)[0].astype(float)
        size = 960  # 20 ms
        window = np.blackman(size)
        top = 20.0 * np.log10(0.5 * np.sum(window) / 2.0)
        frequencies = np.fft.rfftfreq(size, 1.0 / RATE)
        far = np.abs(frequencies - 110.0) > AROUND_HZ
        loud = []
        for begin in range(0, len(sound) - size, size // 2):
            levels = 20.0 * np.log10(np.abs(np.fft.rfft(window * sound[begin : begin + size])) + 1e-12) - top
            loud.append(float(np.max(levels[far])) > QUIET_DB)
        self.assertLessEqual(sum(loud), 2, "louder for more than 20 ms")

    def test_settings_that_jump(self) -> None:
        for one, setting, value in (
            ("amp", "level", 0.05),
            ("filter", "cutoff", 150.0),
            ("filter", "resonance", 0.9),
            ("filter", "mode", "highpass"),
            ("filter", "slope", 6),
            ("tone", "fine", 40.0),
            ("out", "level", -30.0),
        ):
            with self.subTest(f"{one}.{setting}"):
                message = read_message({"kind": "set", "module": one, "setting": setting, "value": value})
                self.assert_no_splash(DRONE, message)

    def test_modules_that_come_go_and_change(self) -> None:
        bare = patch(
            [sine("tone", 110.0), module("amp", "amplifier", level=0.5), module("out", "output")],
            [("tone.out", "amp.in"), ("amp.out", "out.left"), ("amp.out", "out.right")],
        )
        ladder = DRONE.model_copy(
            update={
                "modules": tuple(
                    one.model_copy(update={"type": "ladder", "settings": {"cutoff": 4000.0}})
                    if one.id == "filter"
                    else one
                    for one in DRONE.modules
                )
            }
        )
        for name, before, after in (("in", bare, DRONE), ("out", DRONE, bare), ("another", DRONE, ladder)):
            with self.subTest(name):
                self.assert_no_splash(before, TakeOver(patch=after))

    def test_setting_right_behind_another_patch_is_not_lost(self) -> None:
        session = Session(DRONE)
        pulled(session, 0.1)
        session.send(TakeOver(patch=DRONE.model_copy(update={"connections": DRONE.connections[:-1]})))
        pulled(session, 0.004)
        for setting, value in (("mode", "highpass"), ("cutoff", 8000.0)):
            session.send(read_message({"kind": "set", "module": "filter", "setting": setting, "value": value}))
        self.assertLess(float(np.max(np.abs(pulled(session, 0.5)[0, -4800:]))), 0.01)


class SafeTest(unittest.TestCase):
    def test_panic_silences_what_never_ends_and_it_can_be_played_again(self) -> None:
        endless = patch(
            [
                module("player", "player"),
                module("tone", "oscillator"),
                module("amp", "amplifier", level=0.0),
                module("echo", "delay", time=0.2, feedback=0.99, mix=1.0),
                module("out", "output"),
            ],
            [
                ("player.gate", "amp.level"),
                ("tone.out", "amp.in"),
                ("amp.out", "echo.in"),
                ("echo.left", "out.left"),
                ("echo.right", "out.right"),
            ],
        )
        session = Session(endless)
        session.send(KeyDown(pitch=60))
        self.assertGreater(float(np.max(np.abs(pulled(session, 1.0)))), 0.1)
        session.send(Panic())
        pulled(session, 0.011)
        self.assertEqual(float(np.max(np.abs(pulled(session, 1.0)))), 0.0)
        session.send(KeyDown(pitch=60))
        self.assertGreater(float(np.max(np.abs(pulled(session, 1.0)))), 0.1)

    def test_no_note_hangs_when_all_keys_are_let_go(self) -> None:
        session = Session(VOICE)
        for pitch in (48.0, 52.0, 55.0):
            session.send(KeyDown(pitch=pitch))
        session.send(Perform(what="chord", pitch=60))
        pulled(session, 0.3)
        session.send(Release())
        pulled(session, 0.3)
        self.assertLess(float(np.max(np.abs(pulled(session, 0.5)))), 1e-4)

    def test_panic_while_recording_keeps_what_was_played(self) -> None:
        session = Session(VOICE)
        session.send(Record(count_in=0, click=False))
        session.send(KeyDown(pitch=60))
        pulled(session, 0.2)
        session.send(Panic())
        pulled(session, 0.1)
        assert isinstance(session.finished, Phrase)
        self.assertEqual(len(session.finished.notes), 1)

    def test_what_is_not_possible_is_said_and_nothing_else_happens(self) -> None:
        session = Session(VOICE)
        session.send(KeyDown(pitch=60))
        wrongs: list[dict[str, Any]] = [
            {"kind": "set", "module": "nobody", "setting": "cutoff", "value": 1.0},
            {"kind": "set", "module": "filter", "setting": "cutoff", "value": -5.0},
            {"kind": "set", "module": "filter", "setting": "colour", "value": "red"},
            {"kind": "move", "control": "lever:none", "value": 1.0},
            {"kind": "move", "control": "wheel", "value": -0.5},
            {"kind": "finish"},
            {"kind": "perform", "what": "phrase"},
        ]
        for wrong in wrongs:
            session.send(read_message(wrong))
        session.pull(480)
        self.assertEqual(len(session.problems), len(wrongs))
        for _, error in session.problems:
            self.assertTrue(str(error).endswith("."), str(error))
        session.problems.clear()
        self.assertGreater(float(np.max(np.abs(pulled(session, 0.3)))), 0.1)

    def test_messages_that_are_none_are_refused_with_their_place(self) -> None:
        for wrong, words in (
            ([1], "no JSON object"),
            ({"kind": "note_onn", "pitch": 3}, "note_on"),
            ({"kind": "note_on"}, "events[3].pitch"),
            ({"kind": "note_on", "pitch": float("nan")}, "events[3].pitch"),
            ({"kind": "note_on", "pitch": 1e9}, "at most 127"),
            ({"kind": "move", "control": "wheel", "value": 0.1, "speed": 3}, "no such key"),
        ):
            with self.subTest(str(wrong)), self.assertRaises(InnerToneError) as raised:
                read_message(wrong, "events[3]")
            self.assertIn(words, str(raised.exception))

    def test_tempos_at_which_nothing_can_be_played_are_refused(self) -> None:
        for tempo in (-96.0, 0.0, 1e-300, 1e308, float("nan")):
            with self.assertRaises(InnerToneError, msg=str(tempo)):
                Session(VOICE, tempo=tempo)

    def test_too_much_at_once_is_refused(self) -> None:
        session = Session(VOICE)
        with self.assertRaises(InnerToneError):
            for _ in range(MOST_WAITING + 1):
                session.send(KeyDown(at_s=100.0, pitch=60))


CLOCKED = patch(
    [module("clock", "clock", division="1/4", swing=60), module("out", "output")],
    [("clock.out", "out.left")],
)


class BeatTest(unittest.TestCase):
    def rises(self, sound: NDArray[np.float32]) -> list[int]:
        high = np.concatenate([[False], sound[0] > 0.5])
        return np.flatnonzero(np.diff(high.astype(int)) == 1).tolist()

    def test_outside_clock_that_wanders_gives_no_step_twice_and_loses_none(self) -> None:
        for seed in range(8):
            with self.subTest(seed):
                dice = random.Random(seed)
                session = Session(CLOCKED, tempo=120.0)
                parts, ticks, beats, tempo = [], [0.0], 24, dice.uniform(70.0, 170.0)
                ideal = 60.0 * RATE / tempo / 24.0
                session.send(Beat(what="start"))
                at, position = 0.0, 0
                for _ in range(24 * beats):
                    session.send(Beat(what="tick"))
                    at += ideal * dice.uniform(0.99, 1.01)
                    ticks.append(at)
                    step = round(at) - position
                    parts.append(session.pull(step))
                    position += step
                edges = self.rises(np.concatenate(parts, axis=1))
                self.assertLessEqual(abs(len(edges) - 4 * beats), 1)
                # after the first beats, pulses lie where the ticks say that their beat is; swing: 60 and 40 % of a pair
                meant = np.interp(edges[8:], ticks, np.arange(len(ticks)) / 24.0)
                theory = np.array([n // 2 * 0.5 + n % 2 * 0.3 for n in range(8, len(edges))])
                np.testing.assert_allclose(meant, theory, atol=0.03)

    def test_recording_beside_an_outside_clock_keeps_its_tempo(self) -> None:
        session = Session(CLOCKED, tempo=96.0)
        tick = round(60.0 * RATE / 110.0 / 24.0)
        for turn in range(24 * 12):
            session.send(Beat(what="tick"))
            if turn == 100:
                session.send(Record(count_in=2, click=True))
            session.pull(tick)
            if turn > 60:
                self.assertAlmostEqual(session.playing.timing.tempo, 110.0, delta=4.0)
        self.assertIsNotNone(session.take)

    def test_tempo_that_turns_goes_on_from_the_beat_where_it_is(self) -> None:
        session = Session(CLOCKED, tempo=60.0)
        first = pulled(session, 1.1)
        session.send(SetTempo(tempo=120.0))
        edges = self.rises(np.concatenate([first, pulled(session, 1.0)], axis=1))
        # beats 0, 0.3, 0.5, 0.8, 1.0, then twice as fast from beat 1.1 on: 1.3, 1.5, 1.8, 2.0 …
        theory = [0.0, 0.3, 0.5, 0.8, 1.0, 1.2, 1.3, 1.45, 1.55, 1.7, 1.8, 1.95, 2.05]
        np.testing.assert_allclose(edges, np.array(theory[: len(edges)]) * RATE, atol=1.0)
        self.assertEqual(len(edges), len(theory))

    def test_stop_stands_still_and_start_begins_at_the_first_beat(self) -> None:
        session = Session(CLOCKED, tempo=120.0)
        pulled(session, 0.33)
        session.send(Beat(what="stop"))
        self.assertEqual(self.rises(pulled(session, 1.0)[:, 1:]), [])
        session.send(Beat(what="start"))
        self.assertEqual(self.rises(pulled(session, 0.2))[0], 0)

    def test_delay_and_lfo_follow_the_tempo(self) -> None:
        locked = patch(
            [module("lfo", "lfo", lock="tempo", division="1", wave="square"), module("out", "output")],
            [("lfo.out", "out.left")],
        )
        session = Session(locked, tempo=60.0)
        pulled(session, 2.0)
        session.send(SetTempo(tempo=240.0))
        pulled(session, 0.1)
        edges = self.rises(pulled(session, 2.0))
        np.testing.assert_allclose(np.diff(edges[1:]), 0.25 * RATE, atol=2.0)


if __name__ == "__main__":
    unittest.main()
