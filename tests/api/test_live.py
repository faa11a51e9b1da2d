"""The line by which somebody plays: who may, what is refused, what comes back, and ten thousand bad messages."""

import json
import random
import time
import unittest
from typing import Any

import numpy as np
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import connect
from websockets.typing import Origin

from inner_tone.api.access import COOKIE
from inner_tone.api.live import LONGEST_TEXT
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.live.frames import WANT, FrameKind
from inner_tone.live.messages import read_message
from inner_tone.live.session import Session
from inner_tone.live.stage import MOST_EACH
from tests.live.test_session import VOICE
from tests.support.application import Application
from tests.support.live import Line
from tests.support.patches import module, patch

MESSAGES = 10_000


class LineTest(unittest.TestCase):
    application: Application

    @classmethod
    def setUpClass(cls) -> None:
        cls.application = Application()
        cls.addClassCleanup(cls.application.stop)

    def line(self, who: Any = MAREN, session: str | None = None) -> Line:
        line = Line(self.application, who, session)
        self.addCleanup(line.socket.close)
        return line

    def test_what_is_played_is_what_a_session_gives(self) -> None:
        line = self.line()
        line.open(VOICE)
        line.tell(kind="note_on", pitch=57, velocity=0.8)
        line.tell(kind="move", control="wheel", value=0.5)
        sound = line.pull(24_000)
        alone = Session(VOICE)
        for message in (
            {"kind": "note_on", "pitch": 57, "velocity": 0.8},
            {"kind": "move", "control": "wheel", "value": 0.5},
        ):
            alone.send(read_message(message))
        np.testing.assert_array_equal(sound.T, alone.pull(24_000))

    def test_pictures_follow_what_sounds_and_say_something_when_it_stands(self) -> None:
        line = self.line()
        line.open(VOICE)
        line.tell(
            kind="look", views=[{"kind": "wave", "taps": ["amp.out"]}, {"kind": "spectrum", "taps": ["nobody.out"]}]
        )
        line.tell(kind="note_on", pitch=57, velocity=0.8)
        end = time.monotonic() + 60.0
        told = ""
        while "220 Hz" not in told and time.monotonic() < end:
            line.pull(2_400)
            time.sleep(0.04)
            pictures = [one for one in line.words if one["kind"] == "pictures"]
            told = pictures[-1]["lenses"][0]["sentence"] if pictures and pictures[-1]["lenses"][0] else ""
        self.assertIn("220 Hz", told)
        last = pictures[-1]
        self.assertIsNone(last["lenses"][1], "of what is not there nothing is seen")
        self.assertIn("amp.out", next(one["measures"] for one in reversed(pictures) if one["measures"]))

    def test_line_that_was_lost_goes_on_where_it_was_with_its_keys_up(self) -> None:
        line = self.line()
        line.open(VOICE)
        line.tell(kind="note_on", pitch=57, velocity=0.8)
        line.pull(9_600)
        before, key = line.heard, line.key
        line.socket.close()
        again = self.line(session=key)
        self.assertTrue(again.until(lambda one: one["kind"] == "welcome")["goes_on"])
        again.parts.append((before, np.zeros((0, 2), dtype=np.float32)))
        again.pull(24_000)
        self.assertEqual(again.parts[1][0], before)
        self.assertLess(float(np.max(np.abs(again.pull(4_800)))), 1e-4, "no note hangs")

    def test_session_of_somebody_else_is_none(self) -> None:
        line = self.line()
        line.open(VOICE)
        line.socket.close()
        other = self.line(JONAS, line.key)
        self.assertFalse(other.until(lambda one: one["kind"] == "welcome")["goes_on"])

    def test_nobody_else_and_no_other_site_plays(self) -> None:
        address = self.application.address.replace("http", "ws") + "/api/live"
        with self.assertRaises(InvalidStatus):
            connect(address, origin=Origin("http://elsewhere.example")).close()
        with self.assertRaises(InvalidStatus):
            connect(address).close()
        with connect(address, origin=Origin(self.application.address)) as nobody:
            self.assertEqual(json.loads(nobody.recv(timeout=30))["code"], 4401)

    def test_page_without_its_token_plays_nothing(self) -> None:
        token = self.application.client(MAREN).cookies[COOKIE]
        address = self.application.address.replace("http", "ws") + "/api/live"
        headers = {"Cookie": f"{COOKIE}={token}"}
        for hello in ('{"kind": "hello", "token": "old"}', '{"kind": "note_on", "pitch": 3}', "nothing", "[]"):
            with connect(address, origin=Origin(self.application.address), additional_headers=headers) as socket:
                socket.send(hello)
                self.assertIn(json.loads(socket.recv(timeout=30))["kind"], ("over", "problem"))

    def test_one_window_more_than_can_be_is_refused_with_a_sentence(self) -> None:
        lines = [self.line(JONAS) for _ in range(MOST_EACH)]
        for line in lines:
            line.open(VOICE)
        over = self.line(JONAS).over()
        self.assertEqual(over["code"], 4409)
        self.assertIn("windows", over["text"])
        lines[0].tell(kind="close")
        lines[0].over()
        self.line(JONAS).open(VOICE)
        for line in lines:
            line.socket.close()

    def test_patch_that_is_none_is_refused_with_its_place(self) -> None:
        line = self.line()
        line.until(lambda one: one["kind"] == "welcome")
        many = VOICE.model_copy(update={"voices": 32})
        line.tell(kind="open", patch=many.model_dump(mode="json", by_alias=True))
        self.assertIn("voices: It is 32", line.over()["text"])

    def test_ten_thousand_bad_messages_disturb_nobody(self) -> None:
        """Nothing ends, nothing of another session is heard, and who plays beside goes on."""
        quiet = patch([module("player", "player"), module("out", "output")])
        bad, good = self.line(MAREN), self.line(JONAS)
        bad.open(quiet)
        good.open(VOICE)
        good.tell(kind="note_on", pitch=57, velocity=0.8)
        dice = random.Random(1)
        sent = 0
        while sent < MESSAGES:
            try:
                for _ in range(200):
                    send_wrong(bad, dice)
                    sent += 1
                bad.pull(256)
                time.sleep(0.05)  # within what a page may say
            except ConnectionClosed:
                bad = self.line(MAREN)
                bad.open(quiet)
            if sent % 2000 == 0:
                self.assertGreater(float(np.max(np.abs(good.pull(2_400)))), 0.05)
        self.assertLess(
            float(max(np.max(np.abs(part)) for _, part in bad.parts)), 1e-9, "only its own silence is heard"
        )
        self.assertTrue(all(one["text"].endswith((".", "?")) for one in bad.words if one["kind"] == "problem"))
        self.assertGreater(float(np.max(np.abs(good.pull(4_800)))), 0.05)

    def test_numbers_that_mean_nothing_stop_nobody(self) -> None:
        """Beats and tempos at which nothing would ever come next: each is refused, and who plays beside goes on."""
        bad, good = self.line(MAREN), self.line(JONAS)
        good.open(VOICE)
        good.tell(kind="note_on", pitch=57, velocity=0.8)
        written = VOICE.model_dump(mode="json", by_alias=True)
        for tempo in (1e308, -96, 0, "fast"):
            line = self.line(MAREN)
            line.until(lambda one: one["kind"] == "welcome")
            line.tell(kind="open", patch=written, tempo=tempo)
            self.assertIn("tempo", line.over()["text"])
        bad.open(VOICE)
        note = {"start": 0, "length": 1e-300, "pitch": 60}
        dense = [{"start": 0.01 * (number % 10), "length": 0.01, "pitch": 60} for number in range(4_000)]
        phrases = [
            ({"beats": 1e-300, "notes": [note]}, "phrase.beats"),
            ({"beats": 1e-7, "notes": [note]}, "phrase.beats"),
            ({"tempo": 1e308}, "phrase.tempo"),
            ({"tempo": -96}, "phrase.tempo"),
            ({"beats": 0.1, "tempo": 400, "notes": dense}, "second"),
        ]
        for phrase, words in phrases:
            told = len(bad.words)
            bad.tell(kind="perform", what="phrase", phrase=phrase)
            bad.pull(4_800)
            bad.until(lambda one: one["kind"] == "problem" and one in bad.words[told:] and words in one["text"])  # noqa: B023
            self.assertGreater(float(np.max(np.abs(good.pull(2_400)))), 0.05)
        for message in ({"kind": "tempo", "tempo": 1e308}, {"kind": "tempo", "tempo": -96}):
            bad.tell(**message)
        bad.tell(kind="perform", what="chord")
        self.assertGreater(float(np.max(np.abs(bad.pull(48_000)))), 0.01, "what can be played is")

    def test_message_that_is_too_long_is_refused_and_the_next_one_heard(self) -> None:
        line = self.line()
        line.open(VOICE)
        line.socket.send(json.dumps({"kind": "note_on", "pitch": 60, "why": "x" * LONGEST_TEXT}))
        self.assertIn("letters long", line.until(lambda one: one["kind"] == "problem")["text"])
        line.tell(kind="note_on", pitch=60)
        self.assertGreater(float(np.max(np.abs(line.pull(9_600)))), 0.05)


NUMBERS: list[Any] = [float("nan"), float("inf"), -1e308, 1e308, 0, -1, "60", None, [], {}, True, 10**400]
KINDS = ["note_on", "note_off", "move", "set", "patch", "panic", "tempo", "beat", "perform", "finish", "end"]
TEXTS = ["", "{", "[]", "[1, 2]", "null", '"x"', "[" * 2_000, '{"kind": []}', '{"kind": "\\ud800"}']
VIEWS: list[Any] = [1, "x", [1], [{"kind": "wave"}], [{}] * 50]
PATCHES: list[Any] = [1, {}, {"modules": [{"id": "a"}]}, {"voices": 99}]


def send_wrong(line: Line, dice: random.Random) -> None:
    """Send something that cannot be meant."""
    what = dice.randrange(9)
    if what == 0 and dice.random() < 0.004:
        line.socket.send(bytes(dice.randrange(256) for _ in range(dice.choice([0, 1, 8, 10]))))
    elif what <= 1:
        line.socket.send(dice.choice(TEXTS))
    elif what == 2:
        line.socket.send(bytes([FrameKind.WANTED]) + WANT.pack(dice.choice([0, 1, 2**63, 2**64 - 1, line.heard])))
    elif what == 3:
        line.tell(kind="look", views=dice.choice(VIEWS))
    elif what == 4:
        line.tell(kind="patch", patch=dice.choice(PATCHES))
    elif what == 5:
        line.socket.send(json.dumps([{"kind": dice.choice(KINDS)}] * dice.randint(1, 5)))
    else:
        words = {"kind": dice.choice(KINDS), "at_s": dice.choice(NUMBERS), "pitch": dice.choice(NUMBERS)}
        words |= {"value": dice.choice(NUMBERS), "control": dice.choice(["wheel", "lever:x", "..", None])}
        line.socket.send(json.dumps(words))


if __name__ == "__main__":
    unittest.main()
