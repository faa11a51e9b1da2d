"""What is kept on the server, in thousands of courses of events: nothing is lost, and "kept" is said only if it is."""

import random
import unittest
from itertools import pairwise
from typing import Any

from tests.support.pages import in_pages

COURSES = 3_000
KEYS = "abc"
SETTLING = [["ring"], ["take"]] * 6

Op = list[Any]


def course(dice: random.Random) -> list[Op]:
    """Return events in random order, at the end of which the server takes all that comes."""
    ops: list[Op] = []
    for number in range(dice.randrange(3, 25)):
        ways: list[Op] = [["ring"], ["take"], ["take"], ["failed"], ["lose"]]
        ways += [["change", {key: number}] for key in KEYS] + [["change", {"a": number, "b": number}]]
        ops.append(dice.choice(ways))
    return [*ops, *SETTLING]


def last_values(ops: list[Op]) -> dict[str, int]:
    """Return what has been written last, by key."""
    written: dict[str, int] = {}
    for op in ops:
        if op[0] == "change":
            written |= op[1]
    return written


class KeptTest(unittest.TestCase):
    courses: list[list[Op]]
    results: list[list[dict[str, Any]]]

    @classmethod
    def setUpClass(cls) -> None:
        dice = random.Random(4)
        cls.courses = [course(dice) for _ in range(COURSES)]
        cls.results = in_pages("keptThrough", [[ops] for ops in cls.courses])

    def test_it_is_called_kept_only_when_the_server_has_all_of_it(self) -> None:
        said = 0
        for ops, seen in zip(self.courses, self.results, strict=True):
            for moment in seen:
                if moment["state"] == "kept":
                    said += 1
                    self.assertEqual(moment["value"], moment["there"], ops)
        self.assertGreater(said, COURSES)

    def test_all_that_was_written_is_there_in_the_end(self) -> None:
        for ops, seen in zip(self.courses, self.results, strict=True):
            with self.subTest(ops=ops):
                self.assertEqual(seen[-1]["state"], "kept")
                self.assertEqual(seen[-1]["there"], last_values(ops))
                self.assertIsNone(seen[-1]["message"])

    def test_one_request_at_a_time_and_it_carries_only_what_is_new(self) -> None:
        for ops, seen in zip(self.courses, self.results, strict=True):
            new: set[str] = set()  # what no request carries
            carried: set[str] = set()
            for op, moment in zip(ops, seen, strict=True):
                if op[0] == "change":
                    new |= set(op[1])
                if carried and op[0] == "take":
                    new = {key for key, value in moment["value"].items() if moment["there"].get(key) != value}
                elif op[0] in ("failed", "lose"):
                    new |= carried
                if op[0] in ("take", "failed", "lose"):
                    carried = set()
                self.assertLessEqual(len(moment["sending"]), 1, ops)
                for part in moment["sending"]:
                    if not carried:
                        self.assertLessEqual(set(part), new, ops)
                        carried, new = new, set()

    def test_what_is_shown_is_what_was_written_last(self) -> None:
        for ops, seen in zip(self.courses, self.results, strict=True):
            for place, moment in enumerate(seen):
                self.assertEqual(moment["value"], last_values(ops[: place + 1]))


class TwoTest(unittest.TestCase):
    """Two people write at once, in thousands of courses: what one has written into a part stands, or is asked."""

    def test_nothing_is_overwritten_that_was_not_known(self) -> None:
        dice = random.Random(13)
        courses = [two_courses(dice) for _ in range(COURSES)]
        asked = 0
        for ops, seen in zip(courses, in_pages("keptThrough", [[ops] for ops in courses]), strict=True):
            for before, after in pairwise(seen):
                asked += after["state"] == "conflict" and before["state"] != "conflict"
            theirs = {key for op in ops if op[0] == "theirs" for key in op[1]}
            mine = {key for op in ops if op[0] == "change" for key in op[1]}
            end = seen[-1]
            self.assertEqual(end["state"], "kept", ops)
            self.assertEqual(end["value"], end["there"], ops)
            wrote, heard = last_values(ops), last_theirs(ops)
            for key in mine - theirs:
                self.assertEqual(end["there"][key], wrote[key], (key, ops))
            for key in theirs - mine:
                self.assertEqual(end["there"][key], heard[key], (key, ops))
            for key in mine & theirs:
                self.assertIn(end["there"][key], (wrote[key], heard[key]), (key, ops))
        self.assertGreater(asked, COURSES // 10)


def two_courses(dice: random.Random) -> list[Op]:
    """Return events of two writers in random order; in the end all questions are answered, and all is sent."""
    ops: list[Op] = []
    for number in range(dice.randrange(4, 20)):
        ways: list[Op] = [["ring"], ["take"], ["take"], ["failed"], ["lose"], ["see"], ["decide", "mine"]]
        ways += [["change", {key: number}] for key in KEYS] + [["theirs", {key: 100 + number}] for key in KEYS]
        ops.append(dice.choice(ways))
    return [*ops, *[["ring"], ["take"], ["decide", dice.choice(["mine", "theirs"])]] * 8, ["ring"], ["take"], ["see"]]


def last_theirs(ops: list[Op]) -> dict[str, int]:
    """Return what somebody else has written last, by key."""
    written: dict[str, int] = {}
    for op in ops:
        if op[0] == "theirs":
            written |= op[1]
    return written


class TroubleTest(unittest.TestCase):
    def through(self, *ops: Op) -> list[dict[str, Any]]:
        """Return what is said after each event."""
        [seen] = in_pages("keptThrough", [[list(ops)]])
        return list(seen)

    def test_what_is_refused_is_sent_again_only_when_it_changes(self) -> None:
        seen = self.through(
            ["change", {"a": 1}], ["ring"], ["refused"], ["ring"], ["change", {"a": 2}], ["ring"], ["take"]
        )
        self.assertEqual([one["state"] for one in seen[2:4]], ["refused", "refused"])
        self.assertEqual(seen[3]["sending"], [])
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("kept", {"a": 2}))

    def test_a_conflict_sends_nothing_more_until_it_is_decided(self) -> None:
        clash: list[Op] = [["theirs", {"a": 9}], ["change", {"a": 1}], ["ring"], ["take"]]
        seen = self.through(*clash, ["change", {"b": 1}], ["ring"], ["ring"])
        self.assertEqual({one["state"] for one in seen[3:]}, {"conflict"})
        self.assertEqual((seen[-1]["sending"], seen[-1]["asked"]), ([], ["a"]))
        self.assertEqual(seen[-1]["value"], {"a": 1, "b": 1})
        for side, wins in (("mine", 1), ("theirs", 9)):
            seen = self.through(*clash, ["change", {"b": 1}], ["decide", side], ["ring"], ["take"])
            self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("kept", {"a": wins, "b": 1}))
            self.assertEqual(seen[-1]["value"], seen[-1]["there"])

    def test_what_is_decided_is_asked_again_if_it_has_changed_meanwhile(self) -> None:
        clash: list[Op] = [["theirs", {"a": 9}], ["change", {"a": 1}], ["ring"], ["take"]]
        seen = self.through(*clash, ["decide", "mine"], ["theirs", {"a": 8}], ["ring"], ["take"])
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("conflict", {"a": 8}))

    def test_what_is_gone_is_held_until_it_is_back(self) -> None:
        seen = self.through(["change", {"a": 1}], ["ring"], ["gone"], ["change", {"b": 2}], ["ring"])
        self.assertEqual((seen[-1]["state"], seen[-1]["sending"]), ("gone", []))
        seen = self.through(
            ["change", {"a": 1}], ["ring"], ["gone"], ["change", {"b": 2}], ["back"], ["ring"], ["take"]
        )
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("kept", {"a": 1, "b": 2}))

    def test_what_somebody_else_wrote_does_not_take_the_place_of_what_is_not_kept(self) -> None:
        for before in (["change", {"a": 1}], ["ring"]), (["change", {"a": 1}],):
            seen = self.through(*before, ["theirs", {"a": 9}], ["see"])
            self.assertEqual(seen[-1]["value"], {"a": 1})
        seen = self.through(["change", {"a": 1}], ["theirs", {"a": 9}], ["see"], ["ring"], ["take"])
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("conflict", {"a": 9}))

    def test_what_somebody_else_wrote_is_shown_where_nothing_is_changed(self) -> None:
        seen = self.through(["change", {"a": 1}], ["ring"], ["take"], ["theirs", {"b": 9}], ["see"])
        self.assertEqual((seen[-1]["state"], seen[-1]["value"]), ("kept", {"a": 1, "b": 9}))
        seen = self.through(["change", {"a": 1}], ["theirs", {"b": 9}], ["see"])
        self.assertEqual((seen[-1]["state"], seen[-1]["value"]), ("waiting", {"a": 1, "b": 9}))

    def test_what_is_changed_while_an_answer_is_under_way_goes_out_from_what_was_sent(self) -> None:
        """Somebody else has written b before mine came; what I write into a meanwhile is no clash with my own."""
        seen = self.through(
            ["change", {"a": 1}], ["ring"], ["theirs", {"b": 9}], ["change", {"a": 2}], ["take"], ["ring"], ["take"]
        )
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("kept", {"a": 2, "b": 9}))

    def test_a_lost_answer_is_no_conflict(self) -> None:
        seen = self.through(["change", {"a": 1}], ["ring"], ["lose"], ["ring"], ["take"])
        self.assertEqual([one["state"] for one in seen[2:]], ["failed", "sending", "kept"])

    def test_what_is_written_while_the_server_works_on_it_is_kept_afterwards(self) -> None:
        """As when a step is finished, which may give it a title."""
        writing: list[Op] = [["hold"], ["change", {"a": 1}], ["ring"], ["release", {"title": 5}]]
        seen = self.through(*writing, ["ring"], ["take"])
        self.assertEqual([one["sending"] for one in seen[:4]], [[]] * 4, "nothing is sent meanwhile")
        self.assertEqual({one["state"] for one in seen[1:4]}, {"waiting"})
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("kept", {"title": 5, "a": 1}))
        self.assertEqual(seen[-1]["value"], seen[-1]["there"])

    def test_a_title_that_is_typed_meanwhile_wins(self) -> None:
        seen = self.through(["hold"], ["change", {"title": 1}], ["release", {"title": 5}], ["ring"], ["take"])
        self.assertEqual((seen[-1]["state"], seen[-1]["there"]), ("kept", {"title": 1}))


if __name__ == "__main__":
    unittest.main()
