"""What MIDI messages play, by the tables of the MIDI 1.0 specification; and where letters lie."""

import unittest
from typing import Any

from tests.support.pages import in_pages

ROWS = (
    "KeyZ KeyX KeyC KeyV KeyB KeyN KeyM Comma Period Slash",
    "KeyA KeyS KeyD KeyF KeyG KeyH KeyJ KeyK KeyL Semicolon",
)


def heard(*messages: list[int] | str) -> list[Any]:
    [found] = in_pages("heardOf", [[list(messages)]])
    return list(found)


class MidiTest(unittest.TestCase):
    def test_keys_on_any_channel_and_velocity_nothing_is_a_key_that_goes_up(self) -> None:
        played = heard([0x90, 60, 127], [0x95, 64, 1], [0x90, 60, 0], [0x85, 64, 90])
        self.assertEqual(played, [["press", 60, 1], ["press", 64, 1 / 127], ["release", 60], ["release", 64]])

    def test_bend_has_both_ends_and_a_middle(self) -> None:
        ends = heard([0xE0, 0, 0], [0xE0, 0, 64], [0xE0, 127, 127])
        self.assertEqual(ends, [["move", "bend", -1], ["move", "bend", 0], ["move", "bend", 1]])

    def test_wheel_and_a_controller_that_a_lever_has_learnt(self) -> None:
        moved = heard([0xB0, 74, 5], "lever:fog", [0xB0, 1, 127], [0xB0, 74, 127], [0xB0, 74, 0], [0xB0, 75, 3])
        self.assertEqual(moved, [["move", "wheel", 1], ["move", "lever:fog", 1], ["move", "lever:fog", 0]])

    def test_pedal_holds_what_is_let_go_until_it_comes_up(self) -> None:
        held = heard([0xB0, 64, 127], [0x90, 60, 127], [0x80, 60, 0], [0x90, 62, 127], [0xB0, 64, 0])
        self.assertEqual(held, [["press", 60, 1], ["press", 62, 1], ["release", 60]])

    def test_beat_and_the_end_of_everything(self) -> None:
        said = heard([0xFA], [0xF8], [0xFC], [0xFB], [0xFE], [0xB0, 123, 0])
        self.assertEqual(
            said, [["beat", "start"], ["beat", "tick"], ["beat", "stop"], ["beat", "continue"], ["silence"]]
        )

    def test_script_lets_no_note_hang_and_ends_as_it_began(self) -> None:
        [found] = in_pages("scriptHeard", [[]])
        down = {call[1] for call in found["heard"] if call[0] == "press"}
        up = {call[1] for call in found["heard"] if call[0] == "release"}
        self.assertEqual(down, up)
        self.assertLess(found["last"], 8 * 24)
        last = {call[1]: call[2] for call in found["heard"] if call[0] == "move"}
        self.assertEqual(last, {"wheel": 0, "bend": 0})


class LettersTest(unittest.TestCase):
    def test_rows_go_in_whole_tones_and_lie_a_semitone_apart(self) -> None:
        lower, upper = (in_pages("noteOf", [[code] for code in row.split()]) for row in ROWS)
        self.assertEqual(lower, [2 * n for n in range(10)])
        self.assertEqual(upper, [2 * n - 1 for n in range(10)])
        self.assertEqual(in_pages("noteOf", [["Space"], ["Escape"], ["KeyW"]]), [None, None, 12])


if __name__ == "__main__":
    unittest.main()
