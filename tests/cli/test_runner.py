"""The runner of the tests: what fails is told as failed, whatever way it fails, and nothing is lost or run twice."""

import os
import tempfile
import unittest
from collections import Counter
from pathlib import Path
from random import Random

from tests.support.finding import Piece, class_of, found, leaves, may_have, pieces
from tests.support.running import FAILED, PASSED, SKIPPED, Told, told


class Sample:
    """Cases that come out in every way; they are inside of a class, so that no runner finds them."""

    class Mixed(unittest.TestCase):
        def test_that_passes(self) -> None:
            print("said by one that passes")

        def test_that_fails(self) -> None:
            print("said by one that fails")
            self.assertEqual(1, 2, "as it should")

        def test_that_breaks(self) -> None:
            raise KeyError("lost")

        def test_with_parts(self) -> None:
            for number in range(4):
                with self.subTest(number=number):
                    self.assertNotEqual(number % 2, 1, f"part {number}")

        @unittest.skip("not today")
        def test_that_is_skipped(self) -> None:
            pass

    class Unready(unittest.TestCase):
        @classmethod
        def setUpClass(cls) -> None:
            raise OSError("nothing to stand on")

        def test_never_begun(self) -> None:
            pass

    class Dying(unittest.TestCase):
        def test_that_takes_its_process_along(self) -> None:
            os._exit(7)

    class Fine(unittest.TestCase):
        def test_one(self) -> None:
            pass

        def test_two(self) -> None:
            pass


def work_of(*classes: type[unittest.TestCase]) -> list[Piece]:
    """Return a piece of work for each class."""
    return [Piece(one.__qualname__, tuple(cases_of(one)), 1.0) for one in classes]


def cases_of(kind: type[unittest.TestCase]) -> list[unittest.TestCase]:
    """Return the tests of a class."""
    return list(leaves(unittest.defaultTestLoader.loadTestsFromTestCase(kind)))


class RunnerTest(unittest.TestCase):
    def run_all(self, *classes: type[unittest.TestCase], count: int = 2) -> dict[str, Told]:
        with tempfile.TemporaryDirectory() as folder:
            seen = list(told(work_of(*classes), count, Path(folder) / "log"))
        names = [one.test for one in seen]
        self.assertEqual(len(set(names)), len(names), "nothing is told twice")
        return {one.test.rsplit(".", 1)[-1]: one for one in seen}

    def test_each_way_to_come_out_is_told(self) -> None:
        seen = self.run_all(Sample.Mixed, Sample.Fine)
        self.assertEqual(
            {name: one.outcome for name, one in seen.items()},
            {
                "test_that_passes": PASSED,
                "test_that_fails": FAILED,
                "test_that_breaks": FAILED,
                "test_with_parts": FAILED,
                "test_that_is_skipped": SKIPPED,
                "test_one": PASSED,
                "test_two": PASSED,
            },
        )
        self.assertIn("as it should", seen["test_that_fails"].why)
        self.assertIn("said by one that fails", seen["test_that_fails"].why)
        self.assertNotIn("said by one that passes", seen["test_that_passes"].why)
        self.assertIn("KeyError", seen["test_that_breaks"].why)
        for part in (1, 3):
            self.assertIn(f"part {part}", seen["test_with_parts"].why)

    def test_a_class_that_cannot_begin_has_failed(self) -> None:
        (one,) = self.run_all(Sample.Unready).values()
        self.assertEqual(one.outcome, FAILED)
        self.assertIn("nothing to stand on", one.why)
        self.assertTrue(one.owner.endswith("Sample.Unready"))

    def test_a_process_that_dies_has_failed_and_the_others_work_is_done(self) -> None:
        seen = self.run_all(Sample.Dying, Sample.Fine, Sample.Mixed, count=1)
        self.assertEqual(Counter(one.outcome for one in seen.values())[PASSED], 3)
        self.assertIn("ended with 7", seen["Dying"].why)


class FindingTest(unittest.TestCase):
    def test_a_word_finds_what_a_whole_search_finds_by_it(self) -> None:
        for word in ("test_units", "core.test_units", "NumbersTest", "tests.core.test_units.UnitTest.test_notes"):
            names = {one.id() for one in found([word])}
            self.assertTrue(names, word)
            self.assertTrue(all(word in one for one in names), names)
        self.assertEqual(found(["no such test anywhere but here".replace(" ", "_")]), [])

    def test_a_word_is_looked_for_where_it_can_be(self) -> None:
        here = Path(__file__)
        self.assertTrue(may_have("tests.cli.test_runner", here, "FindingTest"))
        self.assertTrue(may_have("tests.cli.test_runner", here, "tests.cli.test_runner.FindingTest.test_a"))
        self.assertFalse(may_have("tests.cli.test_runner", here, "Nightingale" + "Test"))

    def test_no_order_loses_or_doubles_a_test(self) -> None:
        tests = [*cases_of(Sample.Mixed), *cases_of(Sample.Fine)]
        known = {class_of(tests[0]): 100.0}
        for order in (None, *map(Random, range(20))):
            work = pieces(tests, known, order)
            self.assertEqual(
                sorted(one.id() for piece in work for one in piece.tests), sorted(one.id() for one in tests)
            )
        seconds = [piece.seconds for piece in pieces(tests, known, None)]
        self.assertEqual(seconds, sorted(seconds, reverse=True), "what takes longest first")
        self.assertEqual(len(seconds), 6, "a long class is handed out test by test, a short one whole")


if __name__ == "__main__":
    unittest.main()
