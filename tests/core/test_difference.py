"""The difference of two patches, said as people say it."""

import random
import unittest
from typing import ClassVar

from inner_tone.core.lesson.step import told
from inner_tone.core.patch.difference import difference, opening
from inner_tone.core.patch.edit import edited, made
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import ChangeLine, ChangeSection, GroupModules
from inner_tone.core.patch.validate import read_patch
from inner_tone.demo import foghorn
from tests.support.edits import patch_of, random_edits, tried
from tests.support.moves import PAGE, TABLE, named, page
from tests.support.patches import Line, module, patch, settled


def texts(before: Patch, after: Patch) -> list[str]:
    return [one.text for one in difference(before, after)]


REED = named("reed", "oscillator", "Reed")
AMP = named("amp", "amplifier", "Loudness")
BELL = named("bell", "filter", "Bell")
HUM = named("hum", "oscillator", "Hum")
PLAYER = named("player", "player", "Keeper")
OUT = named("out", "output", "Harbour")

DIRECT: list[Line] = [("reed.out", "out.left"), ("reed.out", "out.right")]
THROUGH: list[Line] = [("reed.out", "amp.in"), ("amp.out", "out.left"), ("amp.out", "out.right")]


class MoveTest(unittest.TestCase):
    """Each move that people name: before, after, and the sentence."""

    def assert_moves(self, before: Patch, after: Patch, *wanted: tuple[str, str]) -> None:
        self.assertEqual([(one.kind, one.text) for one in difference(before, after)], list(wanted))

    def test_nothing_changed(self) -> None:
        self.assert_moves(foghorn.DISTANT, foghorn.DISTANT)

    def test_add(self) -> None:
        self.assert_moves(patch([OUT]), patch([OUT, REED]), ("add", "Add an oscillator named Reed."))

    def test_add_without_a_name(self) -> None:
        self.assert_moves(patch([OUT]), patch([OUT, module("f", "filter")]), ("add", "Add a Filter."))

    def test_remove_takes_the_connections_along(self) -> None:
        self.assert_moves(patch([REED, OUT], DIRECT), patch([OUT]), ("remove", "Remove Reed."))

    def test_insert_between(self) -> None:
        self.assert_moves(
            patch([REED, OUT], DIRECT),
            patch([REED, AMP, OUT], THROUGH),
            ("insert", "Insert an amplifier named Loudness between Reed and Harbour."),
        )

    def test_insert_two_one_after_the_other(self) -> None:
        chain: list[Line] = [("reed.out", "bell.in"), ("bell.out", "amp.in"), *THROUGH[1:]]
        self.assert_moves(
            patch([REED, OUT], DIRECT),
            patch([REED, AMP, BELL, OUT], chain),
            ("insert", "Insert a filter named Bell between Reed and Harbour."),
            ("insert", "Insert an amplifier named Loudness between Bell and Harbour."),
        )

    def test_insert_into_a_steering_line(self) -> None:
        gate: list[Line] = [("player.gate", "amp.level")]
        breath = named("breath", "envelope", "Breath")
        driven: list[Line] = [("player.gate", "breath.gate"), ("breath.out", "amp.level")]
        self.assert_moves(
            patch([PLAYER, AMP], gate),
            patch([PLAYER, AMP, breath], driven),
            ("insert", "Insert an envelope named Breath between Keeper and Loudness."),
        )

    def test_insertion_with_another_depth_says_the_depth(self) -> None:
        half: list[Line] = [("reed.out", "amp.in", 0.5), *THROUGH[1:]]
        self.assert_moves(
            patch([REED, OUT], DIRECT),
            patch([REED, AMP, OUT], half),
            ("insert", "Insert an amplifier named Loudness between Reed and Harbour."),
            ("set", "Set the depth from Reed to Loudness to × 0.5."),
        )

    def test_connect_sound(self) -> None:
        self.assert_moves(patch([REED, AMP]), patch([REED, AMP], THROUGH[:1]), ("connect", "Connect Reed to Loudness."))
        self.assert_moves(
            patch([REED, OUT]), patch([REED, OUT], DIRECT), ("connect", "Connect Reed to Harbour, left and right.")
        )

    def test_connect_what_steers(self) -> None:
        lines: list[Line] = [("player.wheel", "bell.cutoff", 24, "player.velocity")]
        self.assert_moves(
            patch([PLAYER, BELL]),
            patch([PLAYER, BELL], lines),
            (
                "connect",
                "Let the wheel of Keeper steer the cutoff of Bell by +24 semitones, scaled by the velocity of Keeper.",
            ),
        )

    def test_follow_pitch(self) -> None:
        self.assert_moves(
            patch([PLAYER, REED]),
            patch([PLAYER, REED], [("player.pitch", "reed.pitch")]),
            ("connect", "Let Reed follow the pitch of Keeper."),
        )

    def test_disconnect(self) -> None:
        self.assert_moves(
            patch([REED, OUT], DIRECT),
            patch([REED, OUT]),
            ("disconnect", "Disconnect Reed from Harbour, left and right."),
        )

    def test_moved_end_and_moved_beginning(self) -> None:
        self.assert_moves(
            patch([REED, AMP, BELL], [("reed.out", "amp.in", 0.5)]),
            patch([REED, AMP, BELL], [("reed.out", "bell.in", 0.5)]),
            ("move-end", "Move the end of the connection from Reed: from Loudness to Bell."),
        )
        self.assert_moves(
            patch([REED, HUM, AMP], [("reed.out", "amp.in")]),
            patch([REED, HUM, AMP], [("hum.out", "amp.in")]),
            ("move-end", "Move the beginning of the connection to Loudness: from Reed to Hum."),
        )

    def test_two_ways_to_move_are_a_disconnection_and_connections(self) -> None:
        self.assert_moves(
            patch([REED, AMP, BELL, HUM], [("reed.out", "amp.in")]),
            patch([REED, AMP, BELL, HUM], [("reed.out", "bell.in"), ("reed.out", "hum.linear")]),
            ("disconnect", "Disconnect Reed from Loudness."),
            ("connect", "Connect Reed to Bell."),
            ("connect", "Connect Reed to the frequency in hertz of Hum."),
        )

    def test_set_values_in_their_units(self) -> None:
        changed = named("bell", "filter", "Bell", cutoff=1500, resonance=0.4, slope=24, mode="highpass")
        self.assert_moves(
            patch([BELL]),
            patch([changed]),
            (
                "set",
                "Set Bell’s cutoff to 1,500 Hz, its resonance to 0.4, its mode to high-pass "
                "and its slope to 24 dB per octave.",
            ),
        )

    def test_set_depth(self) -> None:
        self.assert_moves(
            patch([PLAYER, BELL], [("player.wheel", "bell.cutoff", 12)]),
            patch([PLAYER, BELL], [("player.wheel", "bell.cutoff", -7)]),
            ("set", "Now let the wheel of Keeper steer the cutoff of Bell by −7 semitones."),
        )

    def test_rename(self) -> None:
        self.assert_moves(
            patch([REED]), patch([named("reed", "oscillator", "Tongue")]), ("rename", "Rename Reed to Tongue.")
        )

    def test_another_type_in_its_place_replaces_it(self) -> None:
        self.assert_moves(
            patch([REED, OUT], DIRECT),
            patch([named("reed", "noise", "Rain"), OUT], DIRECT),
            ("replace", "Replace Reed by noise named Rain."),
        )

    def test_duplicate_with_and_without_its_connections(self) -> None:
        low = named("reed", "oscillator", "Reed", octave=-2)
        copy = named("reed-2", "oscillator", "Reed 2", octave=-2)
        both: list[Line] = [*DIRECT, ("reed-2.out", "out.left"), ("reed-2.out", "out.right")]
        self.assert_moves(
            patch([low, OUT], DIRECT),
            patch([low, copy, OUT], both),
            ("duplicate", "Duplicate Reed: the copy is Reed 2."),
        )
        told = "Duplicate Reed without its connections: the copy is Reed 2."
        self.assert_moves(patch([low, OUT], DIRECT), patch([low, copy, OUT], DIRECT), ("duplicate", told))

    def test_swapped_wave(self) -> None:
        square = named("reed", "oscillator", "Reed", wave="square")
        told = "Swap the wave of Reed from saw to square."
        self.assert_moves(patch([named("reed", "oscillator", "Reed", wave="saw")]), patch([square]), ("set", told))

    def test_voices(self) -> None:
        self.assert_moves(patch([REED]), patch([REED], voices=4), ("set", "Let 4 notes sound at once."))

    def test_modules_in_a_loop_end(self) -> None:
        lines: list[Line] = [("reed.out", "hum.phase"), ("hum.out", "reed.phase"), ("hum.out", "out.left")]
        found = texts(patch([OUT]), patch([REED, HUM, OUT], lines))
        self.assertEqual(len([text for text in found if text.startswith("Add")]), 2)


class SwitchAndSectionTest(unittest.TestCase):
    LINES: ClassVar[list[Line]] = [("reed.out", "bell.in"), ("bell.out", "out.left")]

    def setUp(self) -> None:
        self.before = patch([REED, BELL, OUT], self.LINES)

    def test_connection_is_switched_off_and_on_again(self) -> None:
        line = {"line": {"from": "reed.out", "to": "bell.in"}}
        after = edited(self.before, [ChangeLine.model_validate(line | {"off": True})]).patch
        self.assertEqual(texts(self.before, after), ["Switch off the connection from Reed to Bell."])
        self.assertEqual(texts(after, self.before), ["Switch on again the connection from Reed to Bell."])

    def test_section_is_grouped_renamed_and_taken_apart(self) -> None:
        after = edited(self.before, [GroupModules(modules=("reed", "bell"), label="Horn")]).patch
        self.assertEqual(texts(self.before, after), ["Group Reed and Bell as the section Horn."])
        self.assertEqual(texts(after, self.before), ["Take the section Horn apart."])
        renamed = edited(after, [ChangeSection(section="section", label="Trumpet")]).patch
        self.assertEqual(texts(after, renamed), ["Rename the section Horn to Trumpet."])
        closed = edited(after, [ChangeSection(section="section", open=False)]).patch
        self.assertEqual(texts(after, closed), [], "how it is drawn is no part of the lesson")


class OrderTest(unittest.TestCase):
    def test_sound_path_comes_first_then_what_steers_it_then_settings(self) -> None:
        found = texts(opening(foghorn.DISTANT), foghorn.DISTANT)
        self.assertEqual(
            [text for text in found if text.startswith("Add")],
            [
                "Add an oscillator named Reed.",
                "Add a filter named Bell mouth.",
                "Add an amplifier named Loudness.",
                "Add an envelope named Breath.",
            ],
        )
        connected = [text for text in found if text.startswith(("Connect", "Let"))]
        self.assertEqual(connected[0], "Connect Reed to Bell mouth.")
        self.assertTrue(all(text.startswith("Let") or "gate" in text for text in connected[3:]))
        self.assertTrue(found[-1].startswith("Set"))

    def test_demo_lesson_reads_as_it_should(self) -> None:
        said = [[one.text for one in step.instructions] for step in told(foghorn.STEPS)]
        self.assertEqual(said[1], ["Insert an amplifier named Loudness between Reed and Harbour."])
        self.assertEqual(said[2], ["Let the gate of Keeper steer the level of Loudness by +1."])
        self.assertEqual(said[3][0], "Insert an envelope named Breath between Keeper and Loudness.")
        self.assertEqual(
            said[4][1],
            "Set Bell mouth’s cutoff to 420 Hz, its resonance to 0.2 and its slope to 24 dB per octave.",
        )

    def test_parts_mark_names_and_values(self) -> None:
        (one,) = difference(patch([BELL]), patch([named("bell", "filter", "Bell", cutoff=300)]))
        self.assertEqual(
            [(part.text, part.role) for part in one.parts if part.role != "plain"],
            [("Bell", "name"), ("300 Hz", "value")],
        )

    def test_first_patch_starts_from_its_player_and_its_output(self) -> None:
        self.assertEqual(texts(opening(foghorn.BARE), read_patch({"modules": [PLAYER, OUT]})), [])


class TableTest(unittest.TestCase):
    def test_page_of_moves_is_current(self) -> None:
        self.assertEqual(PAGE.read_text(), page())

    def test_each_move_is_one_instruction_in_every_voice(self) -> None:
        for move in TABLE:
            said = difference(move.before, move.after)
            self.assertEqual(len(said), 1, move.name)
            self.assertTrue(said[0].text and said[0].brief_text, move.name)
            self.assertEqual(settled(made(move.before, said[0].edits).patch), settled(move.after), move.name)

    def test_purpose_is_told_where_a_lesson_first_uses_a_type(self) -> None:
        purposes = [[one.purpose for one in step.instructions if one.purpose] for step in told(foghorn.STEPS)]
        self.assertEqual([len(step) for step in purposes], [1, 1, 0, 1, 1])
        self.assertIn("Takes away the partials", purposes[4][0])


class RebuildingTest(unittest.TestCase):
    """An instruction list rebuilds its target exactly."""

    PAIRS = 500

    def pair(self, seed: int) -> tuple[Patch, Patch]:
        """Return two patches: the second grown out of the first, or another one altogether."""
        dice = random.Random(seed)
        before = patch_of(dice.randint(4, 14), seed)
        after = patch_of(dice.randint(4, 14), seed + self.PAIRS) if dice.random() < 0.2 else before
        for _ in range(dice.randint(1, 8)):
            after = tried(after, random_edits(after, dice, 16))
        return before, after

    def test_five_hundred_pairs(self) -> None:
        kinds = set()
        for seed in range(self.PAIRS):
            before, after = self.pair(seed)
            said = difference(before, after)
            kinds |= {one.kind for one in said}
            rebuilt = made(before, [edit for one in said for edit in one.edits]).patch
            self.assertEqual(settled(rebuilt), settled(after), f"pair {seed}")
            self.assertTrue(all(one.edits and one.text and one.brief_text for one in said))
        self.assertEqual(len(kinds), 12, kinds)


if __name__ == "__main__":
    unittest.main()
