"""Pictures of what sounds now: the same lenses, the same curves as with care, and the wave of the very last moment."""

import unittest

import numpy as np

from inner_tone.core.analysis.closeup import POINTS, on_cards
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View
from inner_tone.live.look import Sight, Stretch, charts_of, taps_for
from inner_tone.live.messages import KeyDown, Set
from inner_tone.live.session import Session
from tests.live.test_session import VOICE, pulled
from tests.support.patches import RATE

VIEWS: list[View] = [
    WaveView(taps=("out.left",)),
    SpectrumView(taps=("out.left",)),
    SweepView(taps=("out.left",)),
    LevelView(taps=("out.left",)),
]
A3_HZ = 220.0


class LookTest(unittest.TestCase):
    def setUp(self) -> None:
        self.session = Session(VOICE, taps=taps_for(VOICE, VIEWS))
        self.session.send(KeyDown(pitch=57))
        pulled(self.session, 1.0)

    def sight(self, *views: View, words: bool = False, frozen: Stretch | None = None) -> Sight:
        signals = self.session.signals(sorted(taps_for(self.session.patch, views)), round(3.0 * RATE))
        return Sight(Stretch(self.session.patch, signals, RATE), views, words, frozen)

    def test_in_passing_the_same_spectrum_is_drawn_and_nothing_is_said(self) -> None:
        [passing], [careful] = (charts_of(self.sight(VIEWS[1], words=words)) for words in (False, True))
        assert passing is not None and careful is not None
        self.assertEqual(passing.sentence, "")
        self.assertIn("220 Hz (A3)", careful.sentence)
        seen = {mark.text: (mark.x, mark.y) for mark in passing.panels[0].marks if mark.text}
        for mark in careful.panels[0].marks[:8]:
            self.assertAlmostEqual(seen[mark.text][0], mark.x, delta=0.5)
            self.assertAlmostEqual(float(seen[mark.text][1] or 0.0), float(mark.y or 0.0), delta=0.5)

    def test_wave_stands_still_and_is_of_the_last_moment(self) -> None:
        shapes = []
        for _ in range(6):
            pulled(self.session, 0.0213)
            [chart] = charts_of(self.sight(VIEWS[0]))
            assert chart is not None
            self.assertAlmostEqual(chart.x.high - chart.x.low, 3.0 / A3_HZ, delta=2e-4)
            shapes.append(np.array(chart.panels[0].traces[0].ys, dtype=float))
        for one in shapes[1:]:
            self.assertLess(float(np.max(np.abs(one - shapes[0]))), 0.1 * float(np.max(np.abs(shapes[0]))))
        self.session.send(Set(module="out", setting="level", value=-40.0))
        pulled(self.session, 0.035)
        [after] = charts_of(self.sight(VIEWS[0]))
        assert after is not None
        self.assertLess(float(np.max(np.abs(np.array(after.panels[0].traces[0].ys, dtype=float)))), 0.02)

    def test_of_a_tap_that_came_later_only_what_is_known_is_shown_and_what_moves_on_is_given_no_times(self) -> None:
        level = LevelView(taps=("filter.low",))
        self.session.listen_to(taps_for(VOICE, [level]))
        pulled(self.session, 0.5)
        [chart] = charts_of(self.sight(level, words=True))
        assert chart is not None
        self.assertAlmostEqual(chart.x.high, 0.5, delta=0.001)
        self.assertIn("as they pass", chart.sentence)
        self.assertNotIn(" ms", chart.sentence)

    def test_what_was_frozen_stands_behind(self) -> None:
        frozen = self.sight(VIEWS[0]).stretch
        self.session.send(Set(module="out", setting="level", value=-20.0))
        pulled(self.session, 0.3)
        [chart] = charts_of(self.sight(VIEWS[0], frozen=frozen))
        assert chart is not None
        tops = {trace.role: max(value for value in trace.ys if value is not None) for trace in chart.panels[0].traces}
        self.assertAlmostEqual(20.0 * np.log10(tops["compared"] / tops["this"]), 14.0, delta=0.5)

    def test_cards_show_the_wave_of_low_and_high_keys(self) -> None:
        for pitch in (24, 36, 60, 84):
            session = Session(VOICE)
            session.send(KeyDown(pitch=pitch))
            pulled(session, 0.5)
            shown = on_cards(session.measures(), session.close(), RATE)["tone.out"]
            hertz = 440.0 * 2.0 ** ((pitch - 69) / 12.0)
            self.assertAlmostEqual(shown["cycle_hz"] / hertz, 1.0, delta=0.01)
            self.assertEqual(len(shown["cycle"]), POINTS)

    def test_every_lens_shows_silence_and_what_has_only_begun(self) -> None:
        for seconds in (0.0, 0.001, 0.05):
            session = Session(VOICE, taps=taps_for(VOICE, VIEWS))
            if seconds:
                pulled(session, seconds)
            signals = session.signals(sorted(taps_for(VOICE, VIEWS)), round(3.0 * RATE))
            for words in (False, True):
                self.assertEqual(len(charts_of(Sight(Stretch(VOICE, signals, RATE), VIEWS, words))), len(VIEWS))


if __name__ == "__main__":
    unittest.main()
