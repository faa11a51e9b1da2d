"""Marks: numbers that a text refers to, and what things are for."""

import unittest
from typing import Any

from inner_tone.core.errors import DocumentError
from inner_tone.core.lesson.fields import Link, link_of, links_offered
from inner_tone.core.lesson.mark import LensPlace, LinePlace, MarkPlace, ModulePlace, MomentPlace, StepMark
from inner_tone.core.lesson.step import StepContent, checked, following_step, joined
from inner_tone.core.lesson.together import together
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.moves import RemoveModules
from inner_tone.core.patch.port import Port
from inner_tone.demo.foghorn import BLASTS, DISTANT

REED, BELL = ModulePlace(module="reed"), ModulePlace(module="bell")
LINE = LinePlace(source=DISTANT.connections[0].source, target=DISTANT.connections[0].target)
BLAST = MomentPlace(beat=1.0)
PEAK = LensPlace(lens="spectrum", tap=Port("reed.out"), x=420.0, y=-12.0)


def mark(at: MarkPlace, number: int | None = None, purpose: str = "") -> StepMark:
    return StepMark(at=at, number=number, purpose=purpose)


def step(*marks: StepMark, **parts: Any) -> StepContent:
    return checked(StepContent(patch=DISTANT, phrase=BLASTS, marks=marks, **parts))


class MarkTest(unittest.TestCase):
    def test_wrong_marks_are_refused_by_what_is_wrong_and_where(self) -> None:
        self.assertEqual(DISTANT.by_id.keys() & {"reed", "bell"}, {"reed", "bell"})
        with self.assertRaisesRegex(ValueError, "a number, a purpose, or both"):
            mark(REED)
        with self.assertRaisesRegex(DocumentError, r"marks\[1\].at.*has a mark already"):
            step(mark(REED, 1), mark(REED, 2))
        with self.assertRaisesRegex(DocumentError, r"marks\[1\].number.*stands twice.*free is 2"):
            step(mark(REED, 1), mark(BELL, 1))

    def test_text_refers_to_a_mark_as_long_as_its_place_is_there(self) -> None:
        marked = step(mark(REED, 1), mark(LINE, 2), mark(PEAK, 3), mark(BLAST, 4), mark(BELL, None, "darkens"))
        self.assertEqual(links_offered(marked)[:4], ["mark 1", "mark 2", "mark 3", "mark 4"])
        self.assertEqual(link_of("mark 3", marked), Link("mark", "3", "3"))
        self.assertIsNone(link_of("mark 5", marked))
        without = edited(DISTANT, [RemoveModules(modules=("reed",))]).patch
        late = BLASTS.model_copy(update={"beats": 0.5, "notes": ()})
        gone = marked.model_copy(update={"patch": without, "phrase": late})
        self.assertEqual([link_of(f"mark {number}", gone) for number in (1, 3, 4)], [None] * 3)
        self.assertEqual(len(gone.marks), 5, "what is gone may come back: its mark stays")

    def test_next_step_goes_on_with_purposes_and_without_numbers(self) -> None:
        marked = step(mark(REED, 1, "the tone"), mark(BELL, 2), mark(BLAST, 3, "here"), mark(LINE, None, "opens"))
        self.assertEqual(following_step(marked).marks, (mark(REED, None, "the tone"), mark(LINE, None, "opens")))

    def test_two_steps_that_are_joined_have_each_number_once_and_texts_that_follow(self) -> None:
        before = step(mark(REED, 1), mark(BELL, None, "darkens"), why="See {mark 1}.")
        after = step(mark(BELL, 1), mark(REED, 2), why="Here {mark 1} and {mark 2}.")
        both = checked(joined(before, after))
        self.assertEqual(both.marks, (mark(REED, 1), mark(BELL, 3, "darkens")))
        self.assertEqual(both.why, "See {mark 1}.\n\nHere {mark 3} and {mark 1}.")

    def test_two_who_mark_at_once_get_two_numbers_and_my_text_follows_mine(self) -> None:
        base = step(mark(BLAST, 1), why="First.\nSecond.\nThird.")
        theirs = step(mark(BLAST, 1), mark(REED, 2), why="First {mark 2}.\nSecond.\nThird.")
        mine = step(mark(BLAST, 1), mark(BELL, 2, "darkens"), why="First.\nSecond.\nThird {mark 2}.")
        met = together(base, theirs, mine)
        self.assertEqual(met.clashes, ())
        self.assertEqual(set(met.content.marks), {mark(BLAST, 1), mark(REED, 2), mark(BELL, 3, "darkens")})
        self.assertEqual(met.content.why, "First {mark 2}.\nSecond.\nThird {mark 3}.")
        checked(met.content)

    def test_purpose_that_both_have_written_is_asked(self) -> None:
        base, theirs, mine = (step(mark(REED, 1, words)) for words in ("a", "b", "c"))
        (clash,) = together(base, theirs, mine).clashes
        self.assertEqual((clash.words, clash.theirs, clash.mine), ("The purpose of a place", "“b”", "“c”"))
        self.assertEqual(together(base, theirs, mine, {clash.key: "mine"}).content.marks, mine.marks)

    def test_number_taken_away_there_and_purpose_here_leaves_no_empty_mark(self) -> None:
        base = step(mark(REED, 1, "the tone"))
        met = together(base, step(mark(REED, 1)), step(mark(REED, None, "the tone")))
        checked(met.content)


class WholeStepTest(unittest.TestCase):
    def test_whatever_only_one_side_has_changed_stands(self) -> None:
        """Every part of a step has its way of being brought together: none is forgotten."""
        known = {
            **{"title": "Other", "why": "Why.", "listen": "There.", "title_made": True, "extra": True},
            **{"aim": {"by": "wiring"}, "moment": {"kind": "whole"}, "marks": (mark(REED, 1),)},
            **{"lenses": {"slots": [{"kind": "level"}]}, "wording": ({"key": "k", "text": "Do."},), "order": ("k",)},
            "detours": ({"id": "far", "name": "Far", "patch": {}},),
            "decisions": ({"words": "a", "early": "b", "late": "c"},),
            "phrase": {"beats": 4, "notes": []},
            "patch": {},
        }
        made = {"order_made", "plates", "built_on"}  # by others than people, or tried with real ones elsewhere
        self.assertEqual(StepContent.model_fields.keys(), known.keys() | made)
        base = step()
        for name, value in known.items():
            with self.subTest(name):
                mine = StepContent.model_validate(base.model_dump(by_alias=True, exclude_none=True) | {name: value})
                self.assertNotEqual(getattr(mine, name), getattr(base, name))
                met = together(base, base.model_copy(update={"built_on": DISTANT}), mine)
                self.assertEqual(getattr(met.content, name), getattr(mine, name))


if __name__ == "__main__":
    unittest.main()
