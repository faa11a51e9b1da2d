"""What a patch knows of its own pitch is taken where one source alone is heard and bears it out, and nowhere else."""

import unittest

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.lens.informed import course_of, course_ports
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.look import taps_of
from inner_tone.core.lens.moment import WHOLE
from inner_tone.core.lens.recipe import rendered
from inner_tone.core.lens.source import Played, excerpt
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.units import frequency_of
from tests.support.patches import Line, module, patch, phrase

NOTES = phrase((0.0, 0.5, 57.0), (0.5, 0.5, 64.0), beats=1.0)
KEYS: Line = ("player.pitch", "osc.pitch")


def played(built: Patch, tap: str) -> Played:
    """Return a patch that has played two notes, as a lens that looks at a tap is given it."""
    graph = Graph(built)
    return Played(graph, rendered(built, NOTES, taps_of(SweepView(taps=(Port(tap),)), graph)), WHOLE)


def followed(built: Patch, tap: str) -> Floats | None:
    """Return the course that is taken for the pitch of a tap, in Hz."""
    return excerpt(played(built, tap), tap).followed_hz


class InformedTest(unittest.TestCase):
    def test_the_course_of_one_source_is_that_of_its_keys(self) -> None:
        built = patch(
            [module("player", "player"), module("osc", "oscillator", octave=1), module("filter", "filter", cutoff=900)],
            [KEYS, ("osc.out", "filter.in")],
        )
        found = followed(built, "filter.out")
        assert found is not None
        np.testing.assert_allclose(found[[1000, 40_000]], [frequency_of(69.0), frequency_of(76.0)], rtol=1e-9)

    def test_several_sources_echoes_and_resets_are_left_to_the_ear(self) -> None:
        player, osc = module("player", "player"), module("osc", "oscillator")
        two = patch(
            [player, osc, module("other", "oscillator", fine=7), module("mixer", "mixer")],
            [KEYS, ("player.pitch", "other.pitch"), ("osc.out", "mixer.in1"), ("other.out", "mixer.in2")],
        )
        echo = patch([player, osc, module("delay", "delay")], [KEYS, ("osc.out", "delay.in")])
        sync = patch([player, osc, module("lfo", "lfo", rate=3)], [KEYS, ("lfo.out", "osc.reset")])
        for built, tap in ((two, "mixer.out"), (echo, "delay.out"), (sync, "osc.out")):
            self.assertEqual(course_ports(Graph(built), Port(tap)), set(), tap)
            self.assertIsNone(course_of(Graph(built), {}, tap), tap)

    def test_what_moves_as_fast_as_a_tone_is_a_timbre_and_no_course(self) -> None:
        built = patch(
            [module("player", "player"), module("osc", "oscillator", wave="sine"), module("mod", "oscillator")],
            [KEYS, ("player.pitch", "mod.pitch"), ("mod.out", "osc.phase", 1.5)],
        )
        self.assertIsNone(followed(built, "osc.out"))

    def test_a_course_that_the_sound_contradicts_is_not_taken(self) -> None:
        ring = patch(
            [
                module("player", "player"),
                module("osc", "oscillator", wave="sine"),
                module("other", "oscillator", wave="sine", pitch=7.3),
                module("amp", "amplifier", level=0),
            ],
            [KEYS, ("osc.out", "amp.in"), ("other.out", "amp.level")],
        )
        self.assertIsNotNone(course_of(Graph(ring), played(ring, "amp.out").sounds, "amp.out"))
        self.assertIsNone(followed(ring, "amp.out"))

    def test_what_is_too_slow_for_a_pitch_is_none(self) -> None:
        built = patch([module("osc", "oscillator", pitch=-60, octave=-1), module("player", "player")])
        self.assertIsNone(followed(built, "osc.out"))

    def test_voices_that_are_summed_have_no_one_course(self) -> None:
        built = patch(
            [module("player", "player"), module("osc", "oscillator"), module("out", "output")],
            [KEYS, ("osc.out", "out.left")],
            voices=4,
        )
        self.assertEqual(course_ports(Graph(built), Port("out.left")), set())
        self.assertEqual(course_ports(Graph(built), Port("osc.out")), {Port("osc.pitch")})


if __name__ == "__main__":
    unittest.main()
