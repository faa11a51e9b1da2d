"""A short form of `python -m tests.fuzz`: no error of the server, and no answer that is not described."""

import unittest

from tests.fuzz import fuzzed
from tests.support.application import Application


class FuzzTest(unittest.TestCase):
    def test_every_route_answers_as_it_is_described(self) -> None:
        application = Application()
        self.addCleanup(application.stop)
        for one in fuzzed(application, 1, long=False):
            with self.subTest(who=one.who):
                self.assertTrue(one.well, one.said)


if __name__ == "__main__":
    unittest.main()
