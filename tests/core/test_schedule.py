"""The order of computation, against SciPy's graph routines and by its definition."""

import random
import unittest

import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components

from inner_tone.core.engine.program import program_of
from inner_tone.core.engine.schedule import in_order, schedule
from inner_tone.core.engine.timing import Timing
from inner_tone.core.engine.wiring import wiring_of
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from tests.support.patches import RATE, module, patch


def lags_of(played: Patch) -> dict[str, int]:
    """Return the delay in samples of each line of a patch, as the program has it."""
    program = program_of(wiring_of(Graph(played)), RATE, (), Timing(), {})
    targets = [unit.key.module + "." + port.name for unit in program.units for port in unit.module.declaration.inputs]
    starts = program.arrays.connection_start
    return {
        f"{line.source.unit.module}.{line.source.output}>{target}": int(program.arrays.source_lag[place])
        for number, target in enumerate(targets)
        for place, line in list(enumerate(program.lines))[starts[number] : starts[number + 1]]
    }


class ScheduleTest(unittest.TestCase):
    def test_components_agree_with_scipy(self) -> None:
        chance = random.Random(7)
        for _ in range(200):
            count = chance.randint(1, 14)
            names = [f"m{n}" for n in range(count)]
            edges = [(chance.randrange(count), chance.randrange(count)) for _ in range(chance.randint(0, 2 * count))]
            graph = {name: [names[b] for a, b in edges if names[a] == name] for name in names}
            matrix = csr_matrix((np.ones(len(edges)), tuple(zip(*edges, strict=True))) if edges else (count, count))
            matrix.resize((count, count))
            _, labels = connected_components(matrix, directed=True, connection="strong")
            theirs = {frozenset(names[n] for n in range(count) if labels[n] == label) for label in set(labels)}
            ours = in_order(graph)
            self.assertEqual({frozenset(group) for group in ours}, theirs)
            place = {name: number for number, group in enumerate(ours) for name in group}
            for a, b in edges:
                self.assertLessEqual(place[names[a]], place[names[b]], "sources come first")

    def test_what_feeds_comes_before_what_is_fed(self) -> None:
        played = patch(
            [module("out", "output"), module("amp", "amplifier"), module("osc", "oscillator")],
            [("osc.out", "amp.in"), ("amp.out", "out.left")],
        )
        self.assertEqual(schedule(Graph(played).feeds).groups, (("osc",), ("amp",), ("out",)))
        self.assertEqual(lags_of(played)["osc.out>amp.in"], 0)

    def test_simple_loop_is_closed_by_exactly_one_line(self) -> None:
        for order in (("a", "b", "c"), ("c", "a", "b"), ("b", "a", "c")):
            played = patch(
                [*(module(name, "amplifier") for name in order), module("osc", "oscillator")],
                [("a.out", "b.in"), ("b.out", "c.in"), ("c.out", "a.in"), ("osc.out", "b.in")],
            )
            found = lags_of(played)
            lags = [found[ends] for ends in ("a.out>b.in", "b.out>c.in", "c.out>a.in")]
            self.assertEqual(sum(lags), 1)
            self.assertEqual(lags[0], 1, "the loop is entered at b, so the line into b closes it")

    def test_scaling_signal_is_computed_first(self) -> None:
        played = patch(
            [module("amp", "amplifier"), module("osc", "oscillator"), module("env", "envelope")],
            [("osc.out", "amp.in", 1.0, "env.out")],
        )
        order = [name for group in schedule(Graph(played).feeds).groups for name in group]
        self.assertLess(order.index("env"), order.index("amp"))


if __name__ == "__main__":
    unittest.main()
