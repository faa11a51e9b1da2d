"""Lenses as charts: what is drawn, what stands behind, strips, and plates that can be drawn again."""

import unittest
from base64 import b64decode

import numpy as np

from inner_tone.core.analysis.sound import Sound
from inner_tone.core.arrays import Floats
from inner_tone.core.errors import DocumentError
from inner_tone.core.lens.chart import Chart, Trace
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.response import ResponseView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View, ViewError, look, taps_of
from inner_tone.core.lens.moment import Span, StretchMoment
from inner_tone.core.lens.recipe import Behind, Recipe, charts, sentence
from inner_tone.core.lens.source import Against, Played
from inner_tone.core.lens.strip import Strip, StripError, values_for
from inner_tone.core.lesson.plate import Plate, is_outdated, refreshed
from inner_tone.core.lesson.step import StepContent, checked
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.demo.foghorn import BLASTS, BREATHED, DISTANT
from tests.support.patches import RATE, Line, module, patch
from tests.support.sounds import TAP, compared, noise, said, scene, series, sines, swept

FOUR = [f"m{n}.out" for n in range(4)]


def recipe(view: View, behind: Behind | None = None, strip: Strip | None = None, played: Patch = DISTANT) -> Recipe:
    return Recipe(view=view, patch=played, phrase=BLASTS, behind=behind, strip=strip)


def traces(chart: Chart, role: str) -> list[Trace]:
    return [one for panel in chart.panels for one in panel.traces if one.role == role]


def values(trace: Trace) -> Floats:
    return np.array(trace.ys, dtype=np.float64)


class WaveTest(unittest.TestCase):
    def test_several_taps_share_a_panel_or_stand_below_one_another(self) -> None:
        sounds = {tap: Sound(sines(1.0, (100.0 * (n + 1), 0.2)), RATE) for n, tap in enumerate(FOUR)}
        several = Played(Graph(patch([module(f"m{n}", "oscillator") for n in range(4)])), sounds)
        together = look(WaveView(taps=tuple(FOUR)), several)
        self.assertEqual([[one.order for one in panel.traces] for panel in together.panels], [[0, 1, 2, 3]])
        apart = look(WaveView(taps=tuple(FOUR), stacked=True), several)
        self.assertEqual([len(panel.traces) for panel in apart.panels], [1, 1, 1, 1])
        for chart in (together, apart):
            lengths = {trace.xs[-1] for trace in traces(chart, "this")}
            self.assertEqual(lengths, {0.03}, "all show three cycles of the first")

    def test_more_than_four_taps_and_backward_stretches_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            WaveView(taps=tuple(f"m{n}.out" for n in range(5)))
        with self.assertRaises(ValueError):
            StretchMoment(begin_s=2.0, end_s=1.0)
        with self.assertRaises(ValueError):
            SpectrumView(taps=(TAP,), low_hz=1000.0, high_hz=500.0)

    def test_difference_says_how_much_louder(self) -> None:
        told = compared(WaveView(taps=(TAP,)), sines(1.0, (100.0, 0.5)), sines(1.0, (100.0, 0.25)))
        self.assertEqual(told, "Against the other: peak +6 dB, RMS +6 dB.")
        silent = compared(WaveView(taps=(TAP,)), sines(1.0, (100.0, 0.5)), np.zeros(48_000))
        self.assertEqual(silent, "The other: silence.")
        self.assertIn("Silent now", compared(WaveView(taps=(TAP,)), np.zeros(48_000), sines(1.0, (100.0, 0.5))))

    def test_what_goes_in_is_shown_at_the_same_moments(self) -> None:
        (chart,) = charts(recipe(WaveView(taps=("bell.out",)), Behind(legend="what goes in", tap="reed.out")))
        (ours,), (theirs,) = traces(chart, "this"), traces(chart, "compared")
        self.assertEqual(ours.xs, theirs.xs)
        self.assertEqual((ours.legend, theirs.legend), ("Bell mouth", "what goes in"))
        self.assertTrue(chart.panels[0].shaded)


class SpectrumTest(unittest.TestCase):
    def test_partials_are_marked_and_stand_in_a_table(self) -> None:
        chart = look(SpectrumView(taps=(TAP,)), scene(series(220.0, 0.5)))
        first = chart.panels[0].marks[0]
        self.assertEqual((first.text, round(first.x, 2), round(first.y or 0.0, 1)), ("1", 220.0, -6.0))
        assert chart.table is not None
        self.assertEqual(chart.table.rows[1], ["2", "440", "A4", "−12.0"])

    def test_difference_names_the_partials_that_changed(self) -> None:
        loud = sines(1.5, (200.0, 0.5), (400.0, 0.25), (600.0, 0.1))
        soft = sines(1.5, (200.0, 0.5), (400.0, 0.125), (800.0, 0.1))
        chart = look(SpectrumView(taps=(TAP,)), scene(loud), Against("the other", scene(soft)))
        told = "1 partial stronger, by 6 dB, at 400 Hz; 1 partial gone, from 800 Hz on; 1 new, from 600 Hz on"
        self.assertEqual(chart.difference, f"Against the other: {told}.")
        assert chart.table is not None
        self.assertEqual([row[4] for row in chart.table.rows], ["+0.0", "+6.0", "new"])

    def test_theory_of_a_filter_and_of_a_wave(self) -> None:
        (filtered,) = charts(recipe(SpectrumView(taps=("bell.out",), theory=True)))
        (theory,) = traces(filtered, "theory")
        at = float(np.interp(420.0 * 8, theory.xs, values(theory)))
        self.assertAlmostEqual(at, -72.2, delta=1.0, msg="three octaves above its cutoff, 24 dB each")
        (saw,) = charts(recipe(SpectrumView(taps=("reed.out",), theory=True)))
        (ideal,) = traces(saw, "theory")
        self.assertAlmostEqual((ideal.ys[0] or 0.0) - (ideal.ys[7] or 0.0), 18.0, delta=0.1)
        (plain,) = charts(recipe(SpectrumView(taps=("amp.out",), theory=True)))
        self.assertEqual(traces(plain, "theory"), [])

    def test_span_moment_and_scale(self) -> None:
        later = np.concatenate([sines(1.0, (300.0, 0.5)), sines(1.0, (900.0, 0.5))])
        view = SpectrumView(taps=(TAP,), low_hz=100.0, high_hz=1000.0, log=False)
        chart = look(view, scene(later, Span(1.2, None, "a stretch")))
        (line,) = traces(chart, "this")
        self.assertAlmostEqual(line.xs[int(np.argmax(values(line)))], 900.0, delta=3.0)
        self.assertEqual([round(mark.x) for mark in chart.panels[0].marks], [900])
        self.assertGreater(min(line.xs), 99.0)
        self.assertLess(max(line.xs), 1001.0)


class SweepTest(unittest.TestCase):
    def test_levels_are_bytes_between_floor_and_full_scale(self) -> None:
        chart = look(SweepView(taps=(TAP,)), scene(sines(1.0, (1000.0, 1.0))))
        raster = chart.panels[0].raster
        assert raster is not None
        levels = np.frombuffer(b64decode(raster.levels), dtype=np.uint8).reshape(raster.rows, raster.columns)
        self.assertGreater(int(np.max(levels)), 245)
        self.assertEqual(int(np.min(levels)), 0)

    def test_pitch_alone_is_in_notes_with_gaps_where_there_is_none(self) -> None:
        signal = np.concatenate([swept(np.full(28_800, 57.0)), np.zeros(24_000)])
        (line,) = traces(look(SweepView(taps=(TAP,), show="pitch"), scene(signal)), "this")
        heard = [note for note in line.ys if note is not None]
        self.assertAlmostEqual(float(np.median(heard)), 57.0, delta=0.01)
        self.assertIn(None, line.ys)

    def test_difference_says_darker_or_brighter(self) -> None:
        view = SweepView(taps=(TAP,))
        self.assertIn("octaves brighter", compared(view, sines(1.0, (2000.0, 0.5)), sines(1.0, (500.0, 0.5))))
        self.assertIn("as bright", compared(view, sines(1.0, (500.0, 0.1)), sines(1.0, (500.0, 0.5))))


class LevelTest(unittest.TestCase):
    def test_envelope_has_its_stages_marked_and_the_gate_beneath(self) -> None:
        (chart,) = charts(recipe(LevelView(taps=("breath.out",))))
        told = [mark.text.split()[0] for mark in chart.panels[0].marks]
        self.assertEqual(told, ["attack", "decay", "release"])
        attack = chart.panels[0].marks[0]
        self.assertAlmostEqual(attack.x, 0.35, delta=0.02)
        self.assertEqual([panel.title for panel in chart.panels], ["", "gate"])
        self.assertEqual(chart.panels[0].y.unit, "")

    def test_sound_has_peak_rms_and_loudness(self) -> None:
        chart = look(LevelView(taps=(TAP,)), scene(sines(2.0, (1000.0, 0.5))))
        middle = {line.legend: float(np.median(values(line))) for line in traces(chart, "this")}
        self.assertAlmostEqual(middle["peak"], -6.02, delta=0.05)
        self.assertAlmostEqual(middle["RMS"], -9.03, delta=0.05)
        self.assertAlmostEqual(middle["loudness"], -9.03, delta=0.1, msg="1 kHz counts as it is, BS.1770")

    def test_difference_in_loudness(self) -> None:
        told = compared(LevelView(taps=(TAP,)), sines(2.0, (1000.0, 0.5)), sines(2.0, (1000.0, 0.25)))
        self.assertEqual(told, "Against the other: +6 LU.")


class NotesTest(unittest.TestCase):
    def test_partials_of_two_notes_are_told_apart_each_by_its_own_number(self) -> None:
        parts = [(hertz * n, 0.3 / n) for hertz in (220.0, 277.18) for n in range(1, 6)]
        chart = look(SpectrumView(taps=(TAP,)), scene(sines(2.0, *parts)))
        found = {(one.of, int(one.text)): one.x for one in chart.panels[0].marks}
        self.assertEqual(found.keys(), {(of, number) for of in ("A3", "C♯4") for number in range(1, 6)})
        for (of, number), hertz in found.items():
            self.assertAlmostEqual(hertz, number * (220.0 if of == "A3" else 277.18), delta=0.1)
        assert chart.table
        self.assertEqual([row[0] for row in chart.table.rows][:3], ["1 of A3", "1 of C♯4", "2 of A3"])

    def test_one_note_is_numbered_as_ever(self) -> None:
        chart = look(SpectrumView(taps=(TAP,)), scene(sines(2.0, *[(220.0 * n, 0.3 / n) for n in range(1, 6)])))
        self.assertEqual([(one.text, one.of) for one in chart.panels[0].marks], [(str(n), "") for n in range(1, 6)])


class ResponseTest(unittest.TestCase):
    def test_filters_before_and_after(self) -> None:
        wider = DISTANT.model_copy(
            update={
                "modules": tuple(
                    one.model_copy(update={"settings": {**one.settings, "cutoff": 840}}) if one.id == "bell" else one
                    for one in DISTANT.modules
                )
            }
        )
        view = ResponseView(taps=("bell.out",), phase=True)
        (chart,) = charts(recipe(view, Behind(legend="the step before", patch=wider)))
        self.assertEqual([panel.y.unit for panel in chart.panels], ["dB", "°"])
        self.assertEqual(len(traces(chart, "compared")), 2)
        self.assertIn("−2", chart.difference)
        self.assertIn("Lows pass up to 459 Hz", chart.sentence)

    def test_module_without_a_response_says_so(self) -> None:
        (chart,) = charts(recipe(ResponseView(taps=("reed.out",))))
        self.assertEqual(chart.panels, [])
        self.assertIn("no response to show", chart.sentence)

    def test_what_follows_a_filter_is_measured_from_there(self) -> None:
        (chart,) = charts(recipe(ResponseView(taps=("amp.out",))))
        self.assertIn("measured from Bell mouth: in to Loudness", chart.sentence)

    def test_no_tap_needs_to_be_rendered(self) -> None:
        self.assertEqual(taps_of(ResponseView(taps=("bell.out",)), Graph(DISTANT)), set())

    def test_several_responses_lie_over_one_another_each_as_it_is_alone(self) -> None:
        modules = [
            module("source", "oscillator"),
            module("dark", "filter", cutoff=500, slope=24) | {"label": "Dark"},
            module("bright", "filter", mode="highpass", cutoff=2000) | {"label": "Bright"},
            module("bend", "shaper") | {"label": "Bend"},
            module("out", "output"),
        ]
        lines: list[Line] = [
            ("source.out", "dark.in"),
            ("dark.out", "bright.in"),
            ("bright.out", "bend.in"),
            ("bend.out", "out.left"),
        ]
        two = patch(modules, lines)
        taps = (Port("dark.out"), Port("bright.out"))

        def shown(taps: tuple[Port, ...], begin: str | None = None) -> Chart:
            view = ResponseView(taps=taps, source=Port(begin) if begin else None, theory=False)
            (chart,) = charts(recipe(view, played=two))
            return chart

        both = shown(taps)
        self.assertEqual([(one.order, one.legend) for one in traces(both, "this")], [(0, "Dark"), (1, "Bright")])
        for line, tap in zip(traces(both, "this"), taps, strict=True):
            (alone,) = traces(shown((tap,)), "this")
            np.testing.assert_array_equal(line.ys, alone.ys)
        self.assertEqual([(one.text, one.x) for one in both.panels[0].marks], [("Dark", 500.0), ("Bright", 2000.0)])
        self.assertIn("Dark: Lows pass", both.sentence)
        self.assertIn("Bright: Highs pass", both.sentence)

        with self.subTest("from here to there: the decibels of a chain add up"):
            first, chain = (values(one) for one in traces(shown(taps, "dark.in"), "this"))
            np.testing.assert_array_equal(first, values(traces(both, "this")[0]))
            np.testing.assert_allclose(chain, first + values(traces(both, "this")[1]), atol=0.1)
        with self.subTest("what has other axes is left out, and that is said"):
            mixed = shown((taps[0], Port("bend.out")))
            self.assertEqual(len(traces(mixed, "this")), 1)
            self.assertIn("Bend is left out: its response has other axes.", mixed.sentence)


class EmptyTest(unittest.TestCase):
    def test_every_lens_shows_silence_and_nothing_at_all(self) -> None:
        views: list[View] = [
            WaveView(taps=(TAP,)),
            WaveView(taps=(TAP,), cycles=0),
            SpectrumView(taps=(TAP,)),
            SpectrumView(taps=(TAP,), over="mean"),
            SweepView(taps=(TAP,)),
            SweepView(taps=(TAP,), show="pitch"),
            LevelView(taps=(TAP,)),
        ]
        for view in views:
            for signal in (np.zeros(48_000), np.zeros(0), noise(0.0), np.full(10, 0.5)):
                with self.subTest(view=view.kind, samples=len(signal)):
                    self.assertTrue(said(view, signal))
                    compared(view, signal, sines(1.0, (100.0, 0.5)))
                    compared(view, sines(1.0, (100.0, 0.5)), signal)

    def test_lens_on_a_module_that_is_gone(self) -> None:
        for view in (WaveView(taps=("gone.out",)), ResponseView(taps=("gone.out",))):
            with self.assertRaisesRegex(ViewError, "no module “gone”"):
                charts(recipe(view))


class StripTest(unittest.TestCase):
    def test_frequencies_and_times_go_in_log_steps_the_rest_evenly(self) -> None:
        cutoffs = [float(one) for one in values_for(DISTANT, "bell", "cutoff")]  # type: ignore[arg-type]
        ratios = np.array(cutoffs[1:]) / np.array(cutoffs[:-1])
        np.testing.assert_allclose(ratios, ratios[0], rtol=0.06)
        self.assertIn(420.0, cutoffs, "where it stands is among them")
        self.assertEqual(values_for(DISTANT, "bell", "resonance", 3), [0.0, 0.5, 1.0])
        self.assertEqual(values_for(DISTANT, "bell", "slope"), [6, 12, 24])
        self.assertEqual(len(values_for(DISTANT, "breath", "attack", 7)), 7)

    def test_charts_have_the_same_axes_and_their_values_as_titles(self) -> None:
        strip = Strip(module="bell", setting="cutoff", values=(100, 400, 1600))
        shown = charts(recipe(WaveView(taps=("bell.out",)), strip=strip))
        self.assertEqual([chart.title for chart in shown], ["100 Hz", "400 Hz", "1,600 Hz"])
        self.assertEqual(len({chart.panels[0].y for chart in shown}), 1)
        told = sentence(recipe(WaveView(taps=("bell.out",)), strip=strip), shown)
        self.assertEqual(told, "Cutoff of Bell mouth: 100 Hz, 400 Hz, 1,600 Hz.")

    def test_wrong_settings_and_values_are_refused(self) -> None:
        view = WaveView(taps=("bell.out",))
        for name, setting in (("bell", "colour"), ("gone", "cutoff")):
            with self.assertRaises(StripError):
                charts(recipe(view, strip=Strip(module=name, setting=setting, values=(1, 2, 3))))
        with self.assertRaises(DocumentError):
            charts(recipe(view, strip=Strip(module="bell", setting="cutoff", values=(100, 200, 1e9))))


class PlateTest(unittest.TestCase):
    def plate(self) -> Plate:
        made = recipe(SpectrumView(taps=("amp.out",)), Behind(legend="the step before", patch=BREATHED))
        told = sentence(made, charts(made))
        return Plate(id="plate-1", caption=told, drafted=told, recipe=made)

    def test_redrawn_from_its_recipe_it_is_the_same_picture(self) -> None:
        plate = self.plate()
        again = Plate.model_validate(plate.model_dump(mode="json", by_alias=True))
        self.assertEqual(again, plate)
        self.assertEqual(charts(again.recipe), charts(plate.recipe))

    def test_recipe_from_before_there_were_moments_is_read(self) -> None:
        """Times stood in the view then: at a passage, or from one to another; some had none."""
        plain = recipe(WaveView(taps=("amp.out",))).model_dump(mode="json", by_alias=True)
        for times, moment in (
            ({"at_s": 1.0}, StretchMoment(begin_s=1.0, end_s=1.5)),
            ({"begin_s": 0.5, "end_s": 0.75}, StretchMoment(begin_s=0.5, end_s=0.75)),
            ({"begin_s": None, "end_s": None}, None),
        ):
            self.assertEqual(Recipe.model_validate({**plain, "view": {**plain["view"], **times}}).moment, moment)

    def test_outdated_when_the_sound_has_moved_on_but_not_when_a_name_has(self) -> None:
        plate = self.plate()
        self.assertFalse(is_outdated(plate, DISTANT, BLASTS))
        renamed = DISTANT.model_copy(update={"title": "Another name"})
        self.assertFalse(is_outdated(plate, renamed, BLASTS))
        self.assertTrue(is_outdated(plate, BREATHED, BLASTS))
        self.assertTrue(is_outdated(plate, DISTANT, BLASTS.model_copy(update={"tempo": 60.0})))

    def test_refreshed_its_caption_follows_unless_it_was_changed(self) -> None:
        plate = self.plate()
        new = refreshed(plate, BREATHED, BLASTS, "What it says now.")
        self.assertFalse(is_outdated(new, BREATHED, BLASTS))
        self.assertEqual((new.caption, new.drafted), ("What it says now.",) * 2)
        written = plate.model_copy(update={"caption": "Look at the highs!"})
        self.assertEqual(refreshed(written, BREATHED, BLASTS, "…").caption, "Look at the highs!")

    def test_step_with_a_wrong_plate_is_refused(self) -> None:
        wrong = self.plate()
        broken = wrong.recipe.patch.model_copy(update={"modules": wrong.recipe.patch.modules[:2]})
        plate = wrong.model_copy(update={"recipe": wrong.recipe.model_copy(update={"patch": broken})})
        with self.assertRaises(DocumentError):
            checked(StepContent(patch=DISTANT, phrase=BLASTS, plates=(plate,)))


if __name__ == "__main__":
    unittest.main()
