"""The moment: which note is looked at, why, and what all lenses make of it."""

import unittest

from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.response import ResponseView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View
from inner_tone.core.lens.moment import (
    MomentError,
    NoteMoment,
    StretchMoment,
    WholeMoment,
    checked_moment,
    span_of,
    strikes_of,
)
from inner_tone.core.lens.recipe import Behind, Recipe, charts
from inner_tone.core.patch.model import Patch
from inner_tone.core.phrase import Note, Phrase
from tests.support.patches import module, patch

NOTES = (
    Note(start=0, length=1, pitch=57, velocity=0.5),
    Note(start=1, length=2, pitch=60, velocity=0.5),
    Note(start=3, length=2, pitch=64, velocity=0.9),
    Note(start=3, length=2, pitch=67, velocity=0.5),
)
PHRASE = Phrase(tempo=120, beats=8, notes=NOTES)


def voice(**envelope: float | str) -> Patch:
    """Return a saw under an envelope."""
    return patch(
        [
            module("k", "player"),
            module("o", "oscillator", wave="saw"),
            module("a", "amplifier"),
            module("e", "envelope", **envelope),
            module("out", "output", level=-12),
        ],
        [
            ("k.pitch", "o.pitch"),
            ("k.gate", "e.gate"),
            ("o.out", "a.in"),
            ("e.out", "a.level"),
            ("a.out", "out.left"),
            ("a.out", "out.right"),
        ],
    )


def looked(view: View, played: Patch, behind: Behind | None = None, note: int | None = None) -> Chart:
    moment = NoteMoment(note=note) if note else None
    return charts(Recipe(view=view, patch=played, phrase=PHRASE, moment=moment, behind=behind))[0]


class SpanTest(unittest.TestCase):
    def test_notes_that_begin_together_are_one(self) -> None:
        self.assertEqual([one.words for one in strikes_of(PHRASE)], ["A3", "C4", "E4 and G4"])

    def test_the_longest_and_of_those_the_strongest_says_most_and_it_is_told_why(self) -> None:
        found = span_of(None, PHRASE)
        self.assertEqual((found.note, found.begin_s, found.end_s), (3, 1.5, None))
        self.assertEqual(found.why, "Of the notes that are held longest it is struck most strongly, so it says most.")
        alone = span_of(None, Phrase(notes=NOTES[:1]))
        self.assertEqual((alone.words, alone.why), ("note 1, A3", "It is the only note."))
        even = span_of(None, Phrase(notes=(NOTES[0], NOTES[0].model_copy(update={"start": 2.0}))))
        self.assertEqual(even.note, 1)
        self.assertIn("so it is the first", even.why)

    def test_a_note_lasts_until_the_next_begins(self) -> None:
        second = span_of(NoteMoment(note=2), PHRASE)
        self.assertEqual((second.begin_s, second.end_s, second.words), (0.5, 1.5, "note 2 of 3, C4"))
        self.assertEqual(span_of(WholeMoment(), PHRASE).begin_s, 0.0)
        self.assertEqual(span_of(StretchMoment(begin_s=1, end_s=2), PHRASE).end_s, 2)
        self.assertIn("no notes", span_of(None, Phrase()).why)
        with self.assertRaisesRegex(MomentError, "no note 4: the phrase has 3 notes"):
            checked_moment(NoteMoment(note=4), PHRASE)

    def test_a_note_that_is_gone_gives_way_to_the_one_that_says_most(self) -> None:
        """A step keeps its moment while its phrase is written on: then it is heard all the same, and told."""
        found = span_of(NoteMoment(note=4), PHRASE)
        self.assertEqual(found.note, 3)
        self.assertTrue(found.why.startswith("There is no note 4 any more. "))
        self.assertEqual(span_of(NoteMoment(note=1), Phrase()).words, "the whole phrase")


class LookedTest(unittest.TestCase):
    def test_every_lens_looks_at_the_same_note(self) -> None:
        tap = ("a.out",)
        for view in (SpectrumView(taps=tap), WaveView(taps=tap), SweepView(taps=tap), LevelView(taps=tap)):
            for note, pitch in ((1, "A3"), (2, "C4")):
                chart = looked(view, voice(), note=note)
                assert chart.seen is not None
                self.assertEqual(chart.seen.note, note, view.kind)
                if view.kind != "level":
                    self.assertIn(pitch, chart.sentence, view.kind)

    def test_picture_and_sentence_are_of_the_same_passage(self) -> None:
        chart = looked(SpectrumView(taps=("a.out",)), voice(), note=2)
        line = next(one for panel in chart.panels for one in panel.traces if one.role == "this")
        levels = [level for level in line.ys if level is not None]
        top = line.xs[levels.index(max(levels))]
        self.assertAlmostEqual(top / chart.facts["pitch_hz"], 1.0, delta=0.02)
        assert chart.seen is not None and chart.seen.passage_begin_s is not None
        self.assertGreaterEqual(chart.seen.passage_begin_s, chart.seen.begin_s)
        self.assertLessEqual(chart.seen.passage_end_s or 9.0, chart.seen.end_s)

    def test_two_releases_are_compared_at_the_same_note(self) -> None:
        behind = Behind(legend="the other", patch=voice(attack=0.01, decay=0.05, sustain=0.8, release=0.2))
        here = voice(attack=0.01, decay=0.05, sustain=0.8, release=0.4)
        told = looked(LevelView(taps=("a.out",)), here, behind, note=3).difference
        self.assertIn("release 400 ms instead of 200 ms", told)

    def test_nothing_is_held_where_a_note_ends_while_it_still_rises(self) -> None:
        behind = Behind(legend="the other", patch=voice(attack=0.01, decay=0.1, sustain=0.5, release=0.2))
        here = voice(attack=1.5, decay=0.1, sustain=0.5, release=0.2)
        told = looked(LevelView(taps=("a.out",)), here, behind, note=1).difference
        self.assertIn("attack", told)
        self.assertNotRegex(told, "decay|held")

    def test_both_sides_are_looked_at_in_the_same_passage(self) -> None:
        """What goes into an amplifier that dies away is compared with what comes out at the same time."""
        dying = voice(attack=0.0, decay=0.4, sustain=0.0, stages="attack-decay")
        for moment in (None, WholeMoment()):
            recipe = Recipe(
                view=SpectrumView(taps=("a.out",)),
                patch=dying,
                phrase=PHRASE,
                moment=moment,
                behind=Behind(legend="what goes in", tap="a.in"),
            )
            (chart,) = charts(recipe)
            # an amplifier below 1 makes nothing stronger, and no other note of it
            self.assertRegex(
                chart.difference, r"^Against what goes in: (no partial differs by a dB|\d+ partials? weaker)"
            )
            self.assertNotIn("stronger", chart.difference)

    def test_stages_go_by_the_gate(self) -> None:
        played = voice(attack=0.05, decay=0.2, sustain=0.7, release=0.3)
        first, last = (looked(LevelView(taps=("a.out",)), played, note=note).facts for note in (1, 3))
        self.assertAlmostEqual(first["attack_s"], 0.05, delta=0.002)
        self.assertAlmostEqual(first["decay_s"], 0.2, delta=0.01)
        self.assertAlmostEqual(first["sustain_db"], -3.1, delta=0.1)
        self.assertAlmostEqual(last["release_s"], 0.3, delta=0.01)
        self.assertLess(last["attack_s"], 0.05, "the note before it is not silent yet, so the way is shorter")

    def test_several_taps_have_a_sentence_each_and_voices_are_named(self) -> None:
        chart = looked(SpectrumView(taps=("o.out", "a.out")), voice(), note=1)
        self.assertRegex(chart.sentence, r"^Oscillator: 220 Hz \(A3\): .+\. Amplifier: 220 Hz \(A3\): .+\.$")
        self.assertEqual(set(chart.facts["taps"]), {"o.out", "a.out"})
        many = voice().model_copy(update={"voices": 4})
        told = looked(SpectrumView(taps=("a.out",)), many, note=1).sentence
        self.assertIn("seen is one of 4 voices, the one that was struck last", told)


class WayTest(unittest.TestCase):
    def rig(self, *lines: tuple[str, str] | tuple[str, str, float], **settings: float | str) -> Patch:
        return patch(
            [
                module("k", "player"),
                module("e", "envelope", attack=0.3, sustain=0.5),
                module("o", "oscillator", wave="saw"),
                module("f", "filter", **settings),
                module("m", "mixer"),
                module("out", "output"),
            ],
            [("k.pitch", "o.pitch"), ("k.gate", "e.gate"), ("o.out", "f.in"), ("f.out", "out.left"), *lines],
        )

    def test_each_output_has_its_own_words_and_theory(self) -> None:
        words = {"low": "Lows pass up to 800 Hz", "band": "A band passes", "high": "Highs pass from 800 Hz on"}
        for output, told in words.items():
            found = looked(ResponseView(taps=(f"f.{output}",)), self.rig(cutoff=800))
            self.assertIn(told, found.sentence)
            self.assertLess(found.facts["theory_within_db"], 0.1, output)

    def test_steered_cutoff_is_told_and_measured_where_it_stands(self) -> None:
        found = looked(ResponseView(taps=("f.out",)), self.rig(("e.out", "f.cutoff", 36.0), cutoff=400), note=3)
        self.assertRegex(found.sentence, r"its cutoff is steered from .+ to 3,\d\d\d Hz, and measured at 1,131 Hz")
        self.assertLess(found.facts["theory_within_db"], 0.1)

    def test_sum_of_two_outputs_has_a_response_too(self) -> None:
        found = looked(ResponseView(taps=("m.out",)), self.rig(("f.low", "m.in1"), ("f.high", "m.in2"), cutoff=800))
        self.assertIn("A notch", found.sentence)
        self.assertAlmostEqual(found.facts["notch_hz"], 800.0, delta=10.0)

    def test_resonant_ladder_lets_lows_pass(self) -> None:
        played = patch(
            [module("o", "oscillator"), module("l", "ladder", resonance=0.9, cutoff=800), module("out", "output")],
            [("o.out", "l.in"), ("l.out", "out.left")],
        )
        self.assertTrue(looked(ResponseView(taps=("l.out",)), played).sentence.startswith("Lows pass"))


if __name__ == "__main__":
    unittest.main()
