"""Where a new module goes: one line is one line, two sides stay two, and what is offered first is what is meant."""

import unittest

import numpy as np

from inner_tone.core.arrays import Floats
from inner_tone.core.checkup import examined
from inner_tone.core.engine.render import render
from inner_tone.core.lesson.templates import TEMPLATES
from inner_tone.core.modules import MODULE_TYPES
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Connect, DuplicateModules, Ends, RemoveModules, SetValue
from inner_tone.core.patch.offers import Offer, offers_from
from inner_tone.core.patch.placements import Placement, placements
from inner_tone.core.patch.port import Port
from inner_tone.core.phrase import Phrase
from tests.core.test_edit import lines_of, voice
from tests.support.edits import harbour
from tests.support.patches import RATE, Line, module, patch, phrase

TWO_NOTES = phrase((0, 0.9, 57), (1, 0.9, 64), beats=2)
WHEELED = phrase((0, 0.9, 57), (1, 0.9, 64), beats=2, gestures=[{"control": "wheel", "points": [[0, 0], [2, 1]]}])
PASSING = [one for one in MODULE_TYPES if one.usually == "path"]


def ways(played: Patch, kind: str, selected: str | None = None) -> list[Placement]:
    return placements(Graph(played), selected)[kind]


def put(played: Patch, kind: str, selected: str | None = None, words: str = "") -> Patch:
    """Return the patch with a module in the first place that is offered, of those whose words begin so."""
    return edited(played, next(way for way in ways(played, kind, selected) if way.words.startswith(words)).edits).patch


def led(played: Patch, source: str, *, only: str = "") -> Patch:
    """Return the patch with an output connected as is offered first, into a module if one is named."""
    found = [one for one in offers_from(Graph(played), Port(source)) if not one.present]
    return edited(played, next(one for one in found if one.line.target.startswith(only)).edits).patch


def grown(*moves: tuple[str, ...]) -> Patch:
    """Return what comes of adding modules, each in the first place offered after what is selected, or so called."""
    played = Patch()
    for kind, *more in moves:
        played = put(played, kind, *more)
    return played


def echoing() -> Patch:
    """Return a sound on two sides: an oscillator into a delay that changes sides."""
    lines: list[Line] = [("osc.out", "delay.in"), ("delay.left", "out.left"), ("delay.right", "out.right")]
    named = [module("osc", "oscillator"), module("delay", "delay", sides="alternate"), module("out", "output")]
    return patch(named, lines)


def blended() -> Patch:
    """Return two sources that sound on both sides, one of them through a delay that makes two sides."""
    more = [("low.out", "out.left"), ("low.out", "out.right")]
    played = echoing().to_json()
    return Patch.model_validate(
        {
            **played,
            "modules": [*played["modules"], module("low", "oscillator")],
            "connections": [*played["connections"], *({"from": a, "to": b} for a, b in more)],
        }
    )


def strongest_near(sound: Floats, wanted_hz: float) -> float:
    """Return the frequency in Hz of the strongest tone within a quarter tone, by a spectrum 32 times as fine."""
    size = 32 << (len(sound) - 1).bit_length()
    bins = np.abs(np.fft.rfft(sound * np.hanning(len(sound)), size))
    low, high = (round(wanted_hz * 2.0 ** (cents / 1200.0) * size / RATE) for cents in (-50, 50))
    return float((low + np.argmax(bins[low : high + 1])) * RATE / size)


class OneLineTest(unittest.TestCase):
    def test_what_is_put_before_several_sources_sums_none_that_did_not_sum(self) -> None:
        mixed = grown(("player",), ("output",), ("oscillator",), ("oscillator", "oscillator"), ("mixer",))
        played = [echoing(), blended(), mixed, put(mixed, "pan", "mixer"), harbour()]
        for number, one in enumerate(played):
            for selected in (None, *one.by_id):
                for kind in ("filter", "amplifier", "shaper", "compressor", "ladder", "comb"):
                    for way in ways(one, kind, selected)[:-1]:
                        with self.subTest(way.words, patch=number, kind=kind, selected=selected):
                            self.assert_adds_nothing_up(one, edited(one, way.edits).patch)

    def assert_adds_nothing_up(self, before: Patch, after: Patch) -> None:
        """Check that of the lines into each new module each leads on to where it led before, and nowhere else."""
        graph = Graph(after)
        known = {(line.source, line.target) for line in before.connections}
        for name in after.by_id.keys() - before.by_id.keys():
            into, going = graph.sound_into(name), graph.sound_from(name)
            if len(into) > 1:
                for line in into:
                    for on in going:
                        self.assertIn((line.source, on.target), known)

    def test_taken_out_again_everything_is_as_it_was(self) -> None:
        for number, one in enumerate((echoing(), blended(), voice(), harbour())):
            for selected in (None, *one.by_id):
                for declared in PASSING:
                    for way in ways(one, declared.name, selected)[:-1]:
                        if "side only" in way.words or not any(edit.kind == "insert" for edit in way.edits):
                            continue
                        with self.subTest(way.words, patch=number, kind=declared.name, selected=selected):
                            after = edited(one, way.edits).patch
                            new = tuple(name for name in after.by_id if name not in one.by_id)
                            back = edited(after, [RemoveModules(modules=new)]).patch
                            self.assertEqual(lines_of(back), lines_of(one))

    def test_two_sides_stay_two(self) -> None:
        for declared in PASSING:
            after = put(echoing(), declared.name, "delay")
            with self.subTest(declared.name):
                self.assertEqual(len(after.modules), 5)
                self.assertNotIn("one-sided", {one.code for one in examined(after, TWO_NOTES).findings})
        self.assertEqual(ways(echoing(), "filter", "delay")[0].words, "behind Delay, one for each side")
        titles = [one.title for one in put(echoing(), "filter", "delay").modules][-2:]
        self.assertEqual(titles, ["Filter left", "Filter right"])

    def test_nothing_that_is_built_by_usual_places_loses_a_side(self) -> None:
        self.assertNotIn("one-sided", {one.code for one in examined(harbour(), TWO_NOTES).findings})

    def test_with_something_selected_its_own_line_comes_first(self) -> None:
        two = grown(("player",), ("output",), ("oscillator",), ("oscillator", "oscillator"))
        self.assertEqual(ways(two, "filter", "oscillator-2")[0].words, "behind Oscillator 2")
        self.assertEqual(ways(two, "filter")[0].words, "before Output, on all that comes in")
        after = put(two, "filter", "oscillator-2")
        self.assertIn("oscillator.out>output.left", lines_of(after))
        self.assertEqual([line.source for line in Graph(after).into("filter")], ["oscillator-2.out"])

    def test_copy_goes_to_the_next_free_channel(self) -> None:
        played = grown(("player",), ("output",), ("oscillator",), ("mixer",))
        for number in (2, 3):
            played = edited(played, [DuplicateModules(modules=("oscillator",))]).patch
            self.assertIn(f"oscillator-{number}.out>mixer.in{number}", lines_of(played))


class EmptyPathTest(unittest.TestCase):
    def test_before_the_output_is_a_place_though_nothing_comes_in_and_before_a_source_is_none(self) -> None:
        bare = patch([module("tone", "oscillator"), module("out", "output")])
        for selected in (None, "tone"):
            words = [way.words for way in ways(bare, "filter", selected)]
            self.assertIn("before Output", words)
            self.assertNotIn("before Oscillator", words)


class WeighedTest(unittest.TestCase):
    def modulated(self) -> Patch:
        first = grown(("player",), ("output",), ("oscillator",), ("amplifier", "oscillator"), ("envelope", "amplifier"))
        return put(first, "oscillator", "oscillator", "moves Oscillator, as in FM")

    def test_line_or_one_of_its_ends_selected_is_steered(self) -> None:
        played = self.modulated()
        ends = Ends(source="oscillator-2.out", target="oscillator.phase")
        for kind in ("envelope", "lever", "lfo"):
            for found in (
                placements(Graph(played), None, ends)[kind],
                ways(played, kind, "oscillator-2"),
                ways(played, kind, "oscillator"),
            ):
                self.assertEqual(found[0].words, "steers how strongly Oscillator 2 moves Oscillator")
                after = Graph(edited(played, found[0].edits).patch)
                line = after.between(ends.source, ends.target)
                assert line is not None
                self.assertEqual(line.scaled_by, after.main(after.patch.modules[-1].id))

    def test_wheel_is_offered_the_vibrato_first(self) -> None:
        played = put(grown(("player",), ("output",), ("oscillator",)), "lfo", "oscillator")
        first = offers_from(Graph(played), Port("player.wheel"))[0]
        self.assertEqual(first.reason, "steers how strongly LFO moves the pitch of Oscillator")
        self.assertTrue(first.weighs)
        after = edited(played, first.edits).patch
        self.assertEqual([line.scaled_by for line in after.connections if line.source == "lfo.out"], ["player.wheel"])
        present = [one.weighs for one in offers_from(Graph(after), Port("player.wheel")) if one.present]
        self.assertEqual(present, [True])

    def test_amplifier_stands_on_the_line_of_the_envelope_and_a_scale_behind_a_ramp(self) -> None:
        played = put(self.modulated(), "filter", "amplifier")
        played = put(played, "envelope", "filter", "steers the cutoff")
        self.assertEqual(ways(played, "amplifier", "envelope-2")[0].words, "behind Envelope 2")
        after = lines_of(put(played, "amplifier", "envelope-2"))
        self.assertLessEqual({"envelope-2.out>amplifier-2.in", "amplifier-2.out>filter.cutoff"}, after)
        ramped = put(grown(("player",), ("output",), ("ramp",)), "scale", "ramp")
        self.assertLessEqual({"player.pitch>ramp.pitch", "ramp.out>scale.in"}, lines_of(ramped))

    def test_nothing_without_effect_comes_first(self) -> None:
        for wave, steered in (("sine", False), ("saw", False), ("square", True)):
            played = put(grown(("player",), ("output",), ("oscillator",)), "lfo")
            played = edited(played, [SetValue(module="oscillator", setting="wave", value=wave)]).patch
            words = [way.words for way in ways(played, "lfo", "oscillator")]
            self.assertEqual("steers the width of Oscillator" in words, steered, wave)
            offers = {one.line.target: one for one in offers_from(Graph(played), Port("lfo.out"))}
            self.assertEqual(offers[Port("oscillator.width")].rank < 3, steered)


class KeyedTest(unittest.TestCase):
    """A pitch that moves a time or a rate counts octaves: one octave up, one doubling."""

    def offer(self, played: Patch, target: str, source: str = "player.pitch") -> Offer:
        return next(one for one in offers_from(Graph(played), Port(source)) if one.line.target == target)

    def test_rate_doubles_with_the_octave(self) -> None:
        bare = patch([module("player", "player"), module("lfo", "lfo", rate=2), module("out", "output")])
        offer = self.offer(bare, "lfo.rate")
        self.assertEqual((offer.line.depth, offer.reason), (1.0, "follows the keys, twice as fast an octave up"))
        played = edited(bare, [*offer.edits, Connect.model_validate({"line": {"from": "lfo.out", "to": "out.left"}})])
        for octave in (-1, 0, 2):
            found = render(played.patch, phrase((0, 4, 60 + 12 * octave), beats=4), taps=("lfo.out",)).taps["lfo.out"]
            rises = np.flatnonzero((found[:-1] < 0.0) & (found[1:] >= 0.0))
            self.assertAlmostEqual(RATE / float(np.mean(np.diff(rises))), 2.0 * 2.0**octave, delta=0.01)

    def test_pitch_is_one_behind_a_glide_too(self) -> None:
        bare = patch(
            [module("player", "player"), module("slew", "slew"), module("lfo", "lfo")], [("player.pitch", "slew.in")]
        )
        self.assertTrue(Graph(bare).carries_pitch(Port("slew.out")))
        self.assertFalse(Graph(bare).carries_pitch(Port("lfo.out")))
        self.assertIn("twice as fast", self.offer(bare, "lfo.rate", "slew.out").reason)

    def string(self, tone: float) -> Patch:
        """Return a string from a burst of noise and a short delay, its lines as they are offered."""
        played = grown(("player",), ("output",), ("noise",), ("amplifier", "noise"), ("envelope", "amplifier"))
        played = put(played, "delay", "amplifier")
        played = edited(played, self.offer(played, "delay.time").edits).patch
        values: dict[str, dict[str, float | str]] = {
            "envelope": {"stages": "attack-decay", "attack": 0, "decay": 0.01},
            "delay": {"feedback": 0.99, "mix": 1, "tone": tone},
        }
        edits = [SetValue(module=m, setting=s, value=v) for m, own in values.items() for s, v in own.items()]
        return edited(played, edits).patch

    def test_string_is_in_tune_with_its_tone_on(self) -> None:
        for tone in (20_000, 6_000, 2_500):
            played = self.string(tone)
            for pitch in range(33, 70, 4):
                with self.subTest(tone=tone, pitch=pitch):
                    notes = Phrase(tempo=60, beats=1.5, notes=phrase((0, 1.5, pitch)).notes)
                    sound = render(played, notes).left.astype(np.float64)[round(0.3 * RATE) : round(1.2 * RATE)]
                    wanted = 440.0 * 2.0 ** ((pitch - 69) / 12)
                    self.assertLess(abs(1200 * np.log2(strongest_near(sound, wanted) / wanted)), 2.0)


class LessonsTest(unittest.TestCase):
    """Five lessons, built by what is offered first: the checkup has nothing to say of any of them."""

    def assert_sound(self, played: Patch, notes: Phrase = TWO_NOTES) -> None:
        self.assertEqual([f"{one.code}: {one.message}" for one in examined(played, notes).findings], [])
        self.assertGreater(float(np.max(np.abs(render(played, notes).left))), 0.05)

    def test_lead_voice_with_wheel_vibrato_and_glide(self) -> None:
        played = grown(("player",), ("output",), ("oscillator",), ("filter", "oscillator"), ("amplifier", "filter"))
        played = put(put(played, "envelope", "amplifier"), "envelope", "filter")
        played = led(put(played, "lfo", "oscillator"), "player.wheel")
        played = put(played, "slew", "oscillator")
        self.assertLessEqual({"lfo.out>oscillator.pitch", "slew.out>oscillator.pitch"}, lines_of(played))
        self.assert_sound(played, WHEELED)

    def test_fm_with_its_own_envelope(self) -> None:
        played = put(WeighedTest().modulated(), "envelope", "oscillator-2")
        sines = [SetValue(module=name, setting="wave", value="sine") for name in ("oscillator", "oscillator-2")]
        self.assert_sound(edited(played, sines).patch)

    def test_three_blended_sources_in_stereo(self) -> None:
        played = grown(("player",), ("output",), ("oscillator",), ("oscillator", "oscillator"), ("noise", "oscillator"))
        played = put(put(put(played, "mixer"), "amplifier", "mixer"), "envelope", "amplifier")
        played = put(put(played, "pan", "amplifier"), "lfo", "pan")
        self.assertEqual(len({line.target for line in Graph(played).into("mixer")}), 3)
        self.assert_sound(put(played, "filter", "pan"))

    def test_filters_from_a_bare_ramp(self) -> None:
        played = grown(("player",), ("output",), ("ramp",), ("scale", "ramp"), ("filter", "scale"))
        played = put(put(played, "amplifier", "filter"), "envelope", "amplifier")
        even = {"gain": 2, "offset": -1}
        self.assert_sound(
            edited(played, [SetValue(module="scale", setting=name, value=value) for name, value in even.items()]).patch
        )

    def test_sequence_with_two_rows(self) -> None:
        played = grown(("player",), ("output",), ("oscillator",), ("filter", "oscillator"), ("amplifier", "filter"))
        played = led(put(put(played, "envelope", "amplifier"), "steps"), "steps.row2")
        rows = {"row1": (0.0, 3.0, 7.0, 12.0), "row2": (0.0, 12.0, 24.0, 12.0), "count": 4}
        edits = [SetValue(module="steps", setting=name, value=value) for name, value in rows.items()]
        self.assertEqual([line.depth for line in Graph(played).coming(Port("filter.cutoff"))], [1.0])
        self.assert_sound(edited(played, edits).patch)


class NamesTest(unittest.TestCase):
    def test_modules_of_one_type_never_share_a_name_in_templates(self) -> None:
        for template in TEMPLATES:
            for step in template.steps:
                titles = [one.title for one in step.patch.modules]
                self.assertEqual(len(titles), len(set(titles)), f"{template.id}: {titles}")


if __name__ == "__main__":
    unittest.main()
