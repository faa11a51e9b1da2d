"""Offers and placements: what is offered first makes sense, and is heard."""

import unittest

import numpy as np

from inner_tone.core.checkup import examined
from inner_tone.core.engine.render import render
from inner_tone.core.modules import CATALOGUE
from inner_tone.core.modules.declaration import Law
from inner_tone.core.patch.depth import usual_depth
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.listening import Listening, heard
from inner_tone.core.patch.model import Module, Patch
from inner_tone.core.patch.moves import AddModule, Connect, Ends
from inner_tone.core.patch.offers import SENSIBLE, offers_from, offers_to
from inner_tone.core.patch.placements import placements
from inner_tone.core.patch.port import Port
from tests.core.test_edit import lines_of, voice
from tests.support.patches import module, patch, phrase

NOTE = phrase((0.0, 0.6, 57.0), beats=0.8)


def built(*kinds: str | tuple[str, str]) -> Patch:
    """Return what comes of adding modules one after the other, each in its usual place, after what is selected."""
    played = Patch()
    for kind in kinds:
        name, selected = kind if isinstance(kind, tuple) else (kind, None)
        played = edited(played, placements(Graph(played), selected)[name][0].edits).patch
    return played


class OffersTest(unittest.TestCase):
    def test_what_is_usual_comes_first(self) -> None:
        bare = patch([module("player", "player"), module("osc", "oscillator"), module("env", "envelope")])
        self.assertEqual(offers_from(Graph(bare), Port("player.pitch"))[0].line.target, "osc.pitch")
        self.assertEqual(offers_from(Graph(bare), Port("player.gate"))[0].line.target, "env.gate")
        self.assertEqual(offers_to(Graph(bare), Port("env.gate"))[0].line.source, "player.gate")
        lone = patch([module("osc", "oscillator"), module("amp", "amplifier"), module("env", "envelope")])
        self.assertEqual(offers_from(Graph(lone), Port("env.out"))[0].line.target, "amp.level")
        self.assertEqual(offers_from(Graph(lone), Port("osc.out"))[0].line.target, "amp.in")

    def test_every_input_is_offered_with_a_reason(self) -> None:
        inputs = {f"{one.id}.{port.name}" for one in voice().modules for port in one.declaration.inputs}
        offers = offers_from(Graph(voice()), Port("env.out"))
        self.assertEqual({one.line.target for one in offers}, inputs)
        self.assertTrue(all(one.reason and one.line.depth != 0 for one in offers))
        cutoff = next(one for one in offers if one.line.target == "filter.cutoff")
        self.assertEqual((cutoff.reason, cutoff.present), ("steers cutoff, in semitones", True))

    def test_what_is_connected_already_comes_last(self) -> None:
        present = [one.present for one in offers_from(Graph(voice()), Port("env.out"))]
        self.assertEqual(present, sorted(present))

    def test_sensible_offers_change_the_sound(self) -> None:
        base = edited(voice(), [AddModule(module=Module(id="lfo", type="lfo", settings={"rate": 6}))]).patch
        before = render(base, NOTE).left
        for one in offers_from(Graph(base), Port("lfo.out")):
            if one.rank <= SENSIBLE and one.line.target.partition(".")[0] in ("osc", "filter", "amp"):
                if one.line.target == "osc.width":
                    continue  # a saw has none
                after = render(edited(base, [Connect(line=one.line)]).patch, NOTE).left
                size = min(len(before), len(after))
                apart = float(np.sqrt(np.mean((after[:size] - before[:size]) ** 2)))
                level = float(np.sqrt(np.mean(before[:size] ** 2)))
                self.assertGreater(apart, 0.05 * level, one.line.target)

    def test_depths_stay_within_what_the_inputs_can_take(self) -> None:
        for declared in CATALOGUE.values():
            for port in declared.inputs:
                if port.ruler and port.law is Law.LINEAR:
                    depth = usual_depth(CATALOGUE["lever"], CATALOGUE["lever"].outputs[0], port)
                    self.assertLessEqual(abs(depth), port.ruler.high - port.ruler.low, f"{declared.name}.{port.name}")


class PlacementsTest(unittest.TestCase):
    def test_voice_is_built_from_nothing_by_usual_places_alone(self) -> None:
        played = built(
            "player",
            "output",
            "oscillator",
            ("oscillator", "oscillator"),
            "filter",
            "amplifier",
            ("envelope", "amplifier"),
            ("envelope", "filter"),
        )
        self.assertEqual(
            lines_of(played),
            {
                "player.pitch>oscillator.pitch",
                "player.pitch>oscillator-2.pitch",
                "oscillator.out>filter.in",
                "oscillator-2.out>filter.in",
                "filter.out>amplifier.in",
                "amplifier.out>output.left",
                "amplifier.out>output.right",
                "player.gate>envelope.gate",
                "player.gate>envelope-2.gate",
                "envelope.out>amplifier.level",
                "envelope-2.out>filter.cutoff",
            },
        )
        self.assertGreater(float(np.max(np.abs(render(played, NOTE).left))), 0.1)

    def test_selected_line_comes_first(self) -> None:
        found = placements(Graph(voice()), None, Ends(source="osc.out", target="filter.in"))["shaper"]
        self.assertEqual(found[0].words, "between Oscillator and Filter")

    def test_glide_goes_on_the_pitch(self) -> None:
        found = placements(Graph(voice()), "osc")["slew"][0]
        after = edited(voice(), found.edits).patch
        self.assertLessEqual({"player.pitch>slew.in", "slew.out>osc.pitch"}, lines_of(after))

    def test_envelope_takes_the_place_of_a_gate(self) -> None:
        switched = built("player", "output", "oscillator", "amplifier")
        gate = Connect.model_validate({"line": {"from": "player.gate", "to": "amplifier.level"}})
        after = edited(edited(switched, [gate]).patch, [])
        found = placements(Graph(after.patch), "amplifier")["envelope"][0]
        self.assertIn("instead of the gate", found.words)
        self.assertNotIn("player.gate>amplifier.level", lines_of(edited(after.patch, found.edits).patch))

    def test_steps_bring_their_clock(self) -> None:
        played = built("output", "oscillator", "steps")
        self.assertLessEqual({"clock.out>steps.clock", "steps.row1>oscillator.pitch"}, lines_of(played))

    def test_every_placement_of_every_type_can_be_made(self) -> None:
        large = built("player", "output", "oscillator", "mixer", "delay")
        for played in (Patch(), built("player", "output"), voice(), large):
            for selected in (None, *played.by_id):
                for kind, ways in placements(Graph(played), selected).items():
                    self.assertEqual(ways[-1].words, "by itself, not connected")
                    for way in ways:
                        new = sum(one.kind in ("add", "insert") for one in way.edits)
                        after = edited(played, way.edits).patch
                        self.assertEqual(len(after.modules), len(played.modules) + new, kind)

    def test_only_one_player_and_output_are_offered(self) -> None:
        self.assertTrue({"player", "output"}.isdisjoint(placements(Graph(voice()), None)))

    def test_everybodys_words_find_a_module(self) -> None:
        known = {word for declared in CATALOGUE.values() for word in declared.words}
        for word in ("wobble", "louder", "brighter", "echo", "glide", "darker", "melody", "hiss", "vibrato"):
            self.assertIn(word, known)


class ListeningTest(unittest.TestCase):
    def level(self, **listening: tuple[str, ...]) -> float:
        found = render(heard(voice(), Listening(**listening)), NOTE).left
        return float(np.max(np.abs(found)))

    def test_muted_module_gives_nothing(self) -> None:
        self.assertEqual(self.level(muted=("osc",)), 0.0)
        self.assertEqual(self.level(muted=("env",)), 0.0)

    def test_bypassed_amplifier_lets_all_through(self) -> None:
        findings = {one.code for one in examined(heard(voice(), Listening(bypassed=("amp",))), NOTE).findings}
        self.assertIn("drone", findings)

    def test_bypassed_filter_is_as_if_it_were_not_there(self) -> None:
        past = heard(voice(), Listening(bypassed=("filter",)))
        self.assertIn("osc.out>amp.in", lines_of(past))
        self.assertNotIn("filter.out>amp.in", lines_of(past))
        self.assertIn("filter", past.by_id)

    def test_module_alone_is_heard_as_it_is(self) -> None:
        alone = heard(voice(), Listening(solo=("osc",)))
        self.assertEqual([one for one in sorted(lines_of(alone)) if "out.l" in one], ["osc.out>out.left"])

    def test_unknown_names_count_for_nothing(self) -> None:
        self.assertEqual(heard(voice(), Listening(muted=("ghost",), solo=("env",), bypassed=("osc",))), voice())


if __name__ == "__main__":
    unittest.main()
