"""What the lenses say is true: sounds whose nature is known, every clause held against it."""

import unittest

from tests.support.figures import record
from tests.truth import courses
from tests.truth.trial import tried

COUNT, SEED = 96, 5
OF_EACH = 5


class TruthTest(unittest.TestCase):
    def test_nearly_all_that_is_said_is_true_and_what_is_promised_is_said(self) -> None:
        found = tried(COUNT, SEED, workers=1)
        record("Sentences", f"clauses that are true, {COUNT} sounds", "99.5 %", f"{100 * found.truth_share:.2f} %")
        record("Sentences", f"promises that are kept, {COUNT} sounds", "95 %", f"{100 * found.promise_share:.2f} %")
        self.assertGreaterEqual(found.truth_share, 0.995, "\n".join(found.wrong))
        self.assertGreaterEqual(found.promise_share, 0.95, "\n".join(found.wrong))

    def test_of_pitches_that_change_what_is_said_is_true_and_the_main_fact_is_said(self) -> None:
        found = courses.tried(OF_EACH, SEED, workers=1)
        record("Sentences", "clauses of pitches that change, that are true", "99 %", f"{100 * found.truth_share:.2f} %")
        self.assertGreaterEqual(found.truth_share, 0.99, "\n".join(found.wrong))
        self.assertGreaterEqual(found.promise_share, 0.95, "\n".join(found.wrong))


if __name__ == "__main__":
    unittest.main()
