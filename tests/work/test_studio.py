"""What a process that works remembers of its renders, and what it may cost."""

import unittest
from unittest import mock

import numpy as np

from benchmarks.patches import loop, voice
from inner_tone.core.checkup import jumps_of, taps_for
from inner_tone.core.cost import MOST_BYTES, MOST_SECONDS, TooDearError, cost_of, refuse_if_dear, size_of, together
from inner_tone.core.engine.render import render, render_key, unwatched
from inner_tone.core.errors import TapError
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.listening import Listening
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from inner_tone.core.patch.port import Port
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.work import studio as studio_module
from inner_tone.work.errand import LongError, Workplace
from inner_tone.work.errands import RenderTask, looked, recordings_in
from inner_tone.work.studio import AT_REST_BYTES, Studio, passes, taken
from tests.support.patches import module, patch, phrase


class StudioTest(unittest.TestCase):
    def test_what_sounds_the_same_is_looked_at_once(self) -> None:
        studio = Studio()
        other = edited(DISTANT, [SetValue(module="bell", setting="cutoff", value=800)]).patch
        first, second = (studio.take(one, BLASTS, {"reed.out", "bell.out"}) for one in (DISTANT, other))
        self.assertIs(first.sounds["reed.out"], second.sounds["reed.out"])
        self.assertIsNot(first.sounds["bell.out"], second.sounds["bell.out"])

    def test_refused_wish_stands_in_nobodys_way(self) -> None:
        studio = Studio()
        with self.assertRaises(TapError):
            studio.take(DISTANT, BLASTS, {"bell.nothing"})
        take = studio.take(DISTANT, BLASTS, {"bell.out"})
        self.assertIs(studio.known(take.render.key), take)
        self.assertIs(studio.take(DISTANT, BLASTS), take, "fewer taps than are known need no other render")

    def test_longer_wish_keeps_the_taps_that_are_known(self) -> None:
        studio = Studio()
        first = studio.take(DISTANT, BLASTS, {"bell.out"})
        second = studio.take(DISTANT, BLASTS, {"breath.out"})
        np.testing.assert_array_equal(second.sounds["bell.out"].signal, first.sounds["bell.out"].signal)
        np.testing.assert_array_equal(second.render.left, first.render.left)

    def test_at_rest_only_little_is_remembered(self) -> None:
        studio = Studio()
        for number in range(6):
            long = BLASTS.model_copy(update={"beats": 60.0 + number})
            studio.take(DISTANT, long, {"reed.out"})
        last = render_key(DISTANT, BLASTS)
        studio.take(DISTANT, BLASTS)
        studio.rest()
        self.assertLessEqual(studio._takes.currsize, AT_REST_BYTES)
        self.assertIsNotNone(studio.known(last), "what was asked last")

    def test_oldest_takes_are_forgotten_when_memory_is_short(self) -> None:
        with mock.patch.object(studio_module, "MEMORY_BYTES", 1):
            studio = Studio()
        first = studio.take(DISTANT, BLASTS)
        self.assertIs(studio.known(first.render.key), first, "too great for the memory, but the latest")
        second = studio.take(DISTANT, BLASTS.model_copy(update={"beats": 4.5, "notes": ()}))
        self.assertIsNone(studio.known(first.render.key))
        self.assertIs(studio.known(second.render.key), second)


class CostTest(unittest.TestCase):
    """What is known before anything is computed."""

    def cost(self, one: Patch, beats: float = 8.0) -> float:
        return cost_of(one, phrase((0, 1, 48), beats=beats)).seconds

    def test_every_type_has_its_cost(self) -> None:
        for name in CATALOGUE:
            self.assertGreater(CATALOGUE[name].nanoseconds, 0)

    def test_it_grows_with_time_and_voices_and_a_loop_is_dearer(self) -> None:
        self.assertGreater(self.cost(voice(1), 64), 4 * self.cost(voice(1), 8))
        self.assertGreater(self.cost(voice(16)), 8 * self.cost(voice(1)))
        self.assertLess(self.cost(voice(16)), 16.5 * self.cost(voice(1)))
        self.assertGreater(self.cost(loop(closed=True)), 2 * self.cost(loop(closed=False)))

    def test_what_is_too_dear_is_refused_with_what_makes_it_so(self) -> None:
        ladders = [module(f"l{number}", "ladder") for number in range(198)]
        lines = [(f"l{number}.out", f"l{(number + 1) % 198}.in") for number in range(198)]
        dear = patch([module("player", "player"), *ladders], [("player.gate", "l0.cutoff"), *lines], voices=16)
        with self.assertRaises(TooDearError) as caught:
            refuse_if_dear(cost_of(dear, phrase((0, 1, 48), beats=180)))
        for word in ("minutes", "199 modules", "198 of them in a loop", "16 voices", "60 s"):
            self.assertIn(word, str(caught.exception))
        with self.assertRaises(TooDearError) as caught:
            refuse_if_dear(cost_of(DISTANT, phrase((0, 1, 48), beats=180), [f"a{n}.out" for n in range(9)]))
        self.assertIn("MB", str(caught.exception))

    def test_a_long_phrase_is_rendered_in_passes_that_fill_little_and_find_the_same(self) -> None:
        many = [f"m{number}" for number in range(12)]
        amplifiers = [module(name, "amplifier") for name in many]
        lines = [("player.gate", f"{name}.level") for name in many]
        wide = patch([module("player", "player"), *amplifiers], lines)
        long, taps = phrase((0, 1, 48), beats=180), [f"{name}.out" for name in many[:2]]
        groups = passes(wide, long, taps)
        self.assertGreater(len(groups), 1)
        self.assertEqual(groups[0], taps)
        self.assertEqual({tap for group in groups for tap in group}, {*taps, *taps_for(wide)})
        for group in groups[1:]:
            self.assertLessEqual(cost_of(wide, long, group).size, max(MOST_BYTES // 2, size_of(long, 1)))
        whole = render(wide, long, taps=sorted({*taps, *taps_for(wide)}))
        take = taken(wide, long, taps, unwatched)
        self.assertEqual(take.jumps, jumps_of(wide, long, whole))
        self.assertEqual(set(take.render.taps), set(taps))
        self.assertEqual(len(passes(wide, phrase((0, 1, 48), beats=8), taps)), 1)

    def test_many_lenses_on_a_long_phrase_show_what_they_show_by_themselves(self) -> None:
        long = BLASTS.model_copy(update={"beats": 250.0})
        views = tuple(WaveView(kind="wave", taps=(Port(tap),)) for tap in list(render(DISTANT, BLASTS).measures)[:9])
        self.assertGreater(len(together(long, {tap for view in views for tap in view.taps})), 1)
        place = Workplace(Studio(), long=True)
        seen = looked(place, RenderTask(DISTANT, long, views, None, None, Listening()), recordings_in({}))
        for view, chart in list(zip(views, seen.lenses, strict=True))[::4]:  # of each pass one
            alone = RenderTask(DISTANT, long, (view,), None, None, Listening())
            (other,) = looked(Workplace(Studio(), long=True), alone, recordings_in({})).lenses
            self.assertEqual(chart, other)

    def test_a_place_counts_what_is_rendered_but_not_what_is_remembered(self) -> None:
        place = Workplace(Studio())
        place.take(DISTANT, BLASTS)
        spent = place.spent
        self.assertGreater(spent, 0.0)
        place.take(DISTANT, BLASTS)
        self.assertEqual(place.spent, spent)

    def test_what_takes_long_is_sent_back_unless_it_may(self) -> None:
        with self.assertRaises(LongError):
            Workplace(Studio()).charge(DISTANT, BLASTS, times=50)
        Workplace(Studio(), long=True).charge(DISTANT, BLASTS, times=50)
        place = Workplace(Studio(), long=True)
        with self.assertRaises(TooDearError):
            for _ in range(round(2 * MOST_SECONDS / cost_of(DISTANT, BLASTS).seconds)):
                place.charge(DISTANT, BLASTS)

    def test_a_lesson_of_many_steps_has_a_budget_for_each(self) -> None:
        with self.assertRaises(LongError):
            Workplace(Studio()).begin_anew(60)
        place = Workplace(Studio(), long=True)
        for _ in range(2 * round(MOST_SECONDS / cost_of(DISTANT, BLASTS).seconds)):
            place.begin_anew(60)
            place.charge(DISTANT, BLASTS)


if __name__ == "__main__":
    unittest.main()
