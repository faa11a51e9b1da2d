"""A short form of `python -m tests.kills`: nothing that was acknowledged is lost, whatever is killed."""

import unittest

from tests.kills import TARGETS, killed


class KillTest(unittest.TestCase):
    def test_nothing_that_was_acknowledged_is_lost(self) -> None:
        outcome = killed(2 * len(TARGETS))
        self.assertEqual(outcome.lost, [])
        self.assertEqual(outcome.failures["no sound"], 0, "an error of the server")
        self.assertGreater(outcome.written, 50)


if __name__ == "__main__":
    unittest.main()
