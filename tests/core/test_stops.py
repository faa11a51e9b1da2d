"""What stops people at a step, against a count by hand."""

import unittest

from inner_tone.core.lesson.stops import MOST_STOPS, Stop, stops


class StopsTest(unittest.TestCase):
    def test_what_is_missing_at_most_benches_comes_first(self) -> None:
        left = [["turn a", "join b"], ["join b"], [], ["join b", "turn a", "turn a"]]
        self.assertEqual(stops(left), [Stop("join b", 3), Stop("turn a", 2)])

    def test_no_bench_stops_nobody_and_no_list_is_too_long(self) -> None:
        self.assertEqual(stops([]), [])
        self.assertEqual(len(stops([[str(one) for one in range(30)]])), MOST_STOPS)
