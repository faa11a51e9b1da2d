"""Edits at the bench: what each move makes of a patch."""

import random
import unittest

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as some
from pydantic import TypeAdapter

from inner_tone.core.errors import DocumentError
from inner_tone.core.patch.edit import EditError, edited, fragment
from inner_tone.core.patch.model import Connection, Module, Patch
from inner_tone.core.patch.moves import (
    AddModule,
    ChangeLine,
    ChangeSection,
    Connect,
    Disconnect,
    DuplicateModules,
    Edit,
    Ends,
    GroupModules,
    InsertModule,
    MoveEnd,
    Paste,
    RemoveModules,
    RenameModule,
    ReplaceModule,
    SetValue,
    TakeApart,
)
from inner_tone.core.patch.validate import checked_patch
from tests.support.edits import patch_of, random_edits, tried
from tests.support.patches import Line, listen, module, patch


def ends(text: str) -> Ends:
    source, target = text.split(">")
    return Ends(source=source, target=target)


def lines_of(played: Patch) -> set[str]:
    return {f"{line.source}>{line.target}" for line in played.connections}


VOICE: list[Line] = [
    ("player.pitch", "osc.pitch"),
    ("osc.out", "filter.in", 0.5),
    ("filter.out", "amp.in"),
    ("player.gate", "env.gate"),
    ("env.out", "amp.level"),
    ("env.out", "filter.cutoff", 24, "player.velocity"),
    ("amp.out", "out.left"),
    ("amp.out", "out.right"),
]


def voice() -> Patch:
    types = {"player": "player", "osc": "oscillator", "filter": "filter", "env": "envelope", "amp": "amplifier"}
    return patch([*(module(name, kind) for name, kind in types.items()), module("out", "output")], VOICE)


def made(played: Patch, *edits: Edit) -> Patch:
    return edited(played, edits).patch


class WiringTest(unittest.TestCase):
    def test_insert_runs_a_connection_through_and_keeps_its_depth_at_the_far_end(self) -> None:
        shaper = Module(id="shaper", type="shaper")
        after = made(voice(), InsertModule(module=shaper, lines=(ends("osc.out>filter.in"),)))
        self.assertIn("osc.out>shaper.in", lines_of(after))
        self.assertNotIn("osc.out>filter.in", lines_of(after))
        far = next(line for line in after.connections if line.source == "shaper.out")
        self.assertEqual((far.target, far.depth), ("filter.in", 0.5))

    def test_inserted_stereo_module_feeds_each_ear_from_its_side(self) -> None:
        delay = Module(id="delay", type="delay")
        both = (ends("amp.out>out.left"), ends("amp.out>out.right"))
        after = made(voice(), InsertModule(module=delay, lines=both))
        self.assertLessEqual({"amp.out>delay.in", "delay.left>out.left", "delay.right>out.right"}, lines_of(after))

    def test_inserted_mixer_gives_each_source_a_channel(self) -> None:
        two = made(
            voice(),
            AddModule(module=Module(id="noise", type="noise")),
            Connect(line=Connection(source="noise.out", target="filter.in", depth=0.2)),
        )
        mixer = Module(id="mix", type="mixer")
        after = made(two, InsertModule(module=mixer, lines=(ends("osc.out>filter.in"), ends("noise.out>filter.in"))))
        self.assertLessEqual({"osc.out>mix.in1", "noise.out>mix.in2", "mix.out>filter.in"}, lines_of(after))

    def test_nothing_runs_through_a_source(self) -> None:
        with self.assertRaisesRegex(EditError, "Nothing can run through noise"):
            made(voice(), InsertModule(module=Module(id="n", type="noise"), lines=(ends("osc.out>filter.in"),)))

    def test_removed_module_is_bridged(self) -> None:
        after = made(voice(), RemoveModules(modules=("filter",)))
        bridge = next(line for line in after.connections if line.source == "osc.out")
        self.assertEqual((bridge.target, bridge.depth), ("amp.in", 0.5))
        self.assertNotIn("filter", after.by_id)

    def test_removed_module_is_not_bridged_if_not_wished(self) -> None:
        after = made(voice(), RemoveModules(modules=("filter",), bridge=False))
        self.assertFalse([line for line in after.connections if line.source == "osc.out"])

    def test_removing_what_scales_leaves_the_connection(self) -> None:
        lever = made(
            voice(),
            AddModule(module=Module(id="hand", type="lever")),
            ChangeLine(line=ends("env.out>filter.cutoff"), scaled_by="hand.out"),
        )
        after = made(lever, RemoveModules(modules=("hand",)))
        line = next(line for line in after.connections if line.target == "filter.cutoff")
        self.assertEqual((line.source, line.scaled_by), ("env.out", None))

    def test_insert_and_remove_give_back_the_same_sound_path(self) -> None:
        inserted = made(
            voice(), InsertModule(module=Module(id="f2", type="filter"), lines=(ends("filter.out>amp.in"),))
        )
        self.assertEqual(lines_of(made(inserted, RemoveModules(modules=("f2",)))), lines_of(voice()))

    def test_replaced_filter_keeps_connections_and_settings_that_fit(self) -> None:
        before = made(voice(), SetValue(module="filter", setting="cutoff", value=300))
        after = made(before, ReplaceModule(module="filter", type="ladder"))
        self.assertEqual(lines_of(after), lines_of(before))
        self.assertEqual(after.by_id["filter"].settings, {"cutoff": 300})

    def test_replaced_module_loses_only_what_has_no_place(self) -> None:
        after = made(voice(), ReplaceModule(module="filter", type="mixer"))
        self.assertLessEqual({"osc.out>filter.in1", "filter.out>amp.in"}, lines_of(after))
        self.assertFalse([line for line in after.connections if line.target == "filter.cutoff"])

    def test_moved_end_gets_a_depth_that_is_heard_where_the_unit_differs(self) -> None:
        after = made(
            voice(), MoveEnd(line=ends("env.out>amp.level"), to=Ends(source="env.out", target="filter.resonance"))
        )
        self.assertIn("env.out>filter.resonance", lines_of(after))
        moved = made(voice(), MoveEnd(line=ends("env.out>amp.level"), to=Ends(source="env.out", target="osc.pitch")))
        self.assertEqual(next(one for one in moved.connections if one.ends == ("env.out", "osc.pitch")).depth, 12.0)

    def test_end_cannot_move_onto_another_connection(self) -> None:
        with self.assertRaisesRegex(EditError, "connected to filter.cutoff already"):
            made(voice(), MoveEnd(line=ends("env.out>amp.level"), to=Ends(source="env.out", target="filter.cutoff")))

    def test_line_is_changed_switched_off_and_taken_away(self) -> None:
        line = ends("env.out>filter.cutoff")
        after = made(voice(), ChangeLine(line=line, depth=-12, scaled_by="nothing", off=True))
        found = next(one for one in after.connections if one.target == "filter.cutoff")
        self.assertEqual((found.depth, found.scaled_by, found.off), (-12.0, None, True))
        self.assertNotIn("env.out>filter.cutoff", lines_of(after.live))
        on_again = made(after, ChangeLine(line=line, off=False))
        self.assertIn("env.out>filter.cutoff", lines_of(on_again.live))
        self.assertNotIn("env.out>filter.cutoff", lines_of(made(after, Disconnect(line=line))))

    def test_duplicate_is_fed_and_feeds_as_the_original(self) -> None:
        after = edited(voice(), [DuplicateModules(modules=("osc",))])
        self.assertEqual(after.touched, ("osc-2",))
        self.assertLessEqual({"player.pitch>osc-2.pitch", "osc-2.out>filter.in"}, lines_of(after.patch))
        self.assertEqual(after.patch.by_id["osc-2"].title, "Oscillator 2")

    def test_duplicate_without_connections_keeps_those_among_the_copies(self) -> None:
        after = made(voice(), DuplicateModules(modules=("filter", "amp"), connected=False))
        self.assertEqual({one for one in lines_of(after) if "-2" in one}, {"filter-2.out>amp-2.in"})

    def test_what_is_new_is_what_it_was_about(self) -> None:
        line = Connect(line=Connection(source="lfo.out", target="filter.resonance"))
        added = edited(voice(), [AddModule(module=Module(id="lfo", type="lfo")), line])
        self.assertEqual(added.touched, ("lfo",))
        again = edited(added.patch, [line])
        self.assertEqual(again.touched, ("filter",))

    def test_what_is_gone_is_said(self) -> None:
        for edit, words in (
            (Disconnect(line=ends("osc.out>amp.in")), "no connection from osc.out to amp.in"),
            (RenameModule(module="ghost", label="x"), "no module “ghost”"),
            (TakeApart(section="ghost"), "no such section"),
            (ReplaceModule(module="osc", type="theremin"), "no module type “theremin”"),
            (DuplicateModules(modules=("player",)), "only one player"),
        ):
            with self.assertRaisesRegex(EditError, words):
                made(voice(), edit)

    def test_drawing_begins_with_the_series_that_was_heard(self) -> None:
        series: list[dict[str, float | str]] = [
            {"fill": "1/n", "first": 9},
            {"fill": "1/n²", "first": 12, "partials": "odd"},
            {"fill": "level", "first": 5},
        ]
        for before in series:
            played = patch([module("sum", "harmonics", pitch=-12, **before)])
            drawn = edited(played, [SetValue(module="sum", setting="fill", value="drawn")]).patch
            np.testing.assert_array_equal(listen(played, "sum.out", 0.2), listen(drawn, "sum.out", 0.2))
        own = patch([module("sum", "harmonics", levels=[0.5, 0.2])])
        kept = edited(own, [SetValue(module="sum", setting="fill", value="drawn")]).patch
        self.assertEqual(kept.by_id["sum"].settings["levels"], (0.5, 0.2), "what was drawn already stays")

    def test_value_off_its_ruler_is_refused(self) -> None:
        with self.assertRaises(DocumentError):
            made(voice(), SetValue(module="filter", setting="cutoff", value=5))


class CopyTest(unittest.TestCase):
    def test_fragment_has_the_inner_connections_only(self) -> None:
        part = fragment(voice(), ["filter", "env"])
        self.assertEqual(lines_of(part), {"env.out>filter.cutoff"})
        self.assertIsNone(part.connections[0].scaled_by, "what scales it is outside")

    def test_paste_takes_free_names_and_the_player_that_is_there(self) -> None:
        part = fragment(voice(), ["player", "osc", "filter"])
        after = edited(voice(), [Paste(fragment=part)])
        self.assertEqual(set(after.touched), {"osc-2", "filter-2"})
        self.assertLessEqual({"player.pitch>osc-2.pitch", "osc-2.out>filter-2.in"}, lines_of(after.patch))

    def test_paste_into_an_empty_patch_gives_the_same(self) -> None:
        self.assertEqual(made(Patch(), Paste(fragment=voice())).connections, voice().connections)


class SectionTest(unittest.TestCase):
    def grouped(self) -> Patch:
        return made(voice(), GroupModules(modules=("filter", "amp"), label="Body"))

    def test_section_has_named_ways_in_and_out(self) -> None:
        section = self.grouped().sections[0]
        self.assertEqual((section.label, section.modules, section.open), ("Body", ("filter", "amp"), True))
        self.assertEqual({one.port for one in section.inputs}, {"filter.in", "filter.cutoff", "amp.level"})
        self.assertEqual([(one.name, one.port) for one in section.outputs], [("out", "amp.out")])

    def test_names_differ_where_ports_are_called_the_same(self) -> None:
        after = made(voice(), GroupModules(modules=("osc", "amp"), label="Ends"))
        names = [one.name for one in after.sections[0].outputs]
        self.assertEqual(len(names), len(set(names)))

    def test_ports_are_renamed_and_follow_what_is_connected(self) -> None:
        after = made(self.grouped(), ChangeSection(section="section", port="filter.cutoff", name="brightness"))
        self.assertIn(("brightness", "filter.cutoff"), [(one.name, one.port) for one in after.sections[0].inputs])
        gone = made(after, RemoveModules(modules=("filter",)))
        self.assertEqual(gone.sections[0].modules, ("amp",))
        self.assertNotIn("filter.cutoff", [one.port for one in gone.sections[0].inputs])

    def test_sound_is_the_same_with_and_without_it(self) -> None:
        self.assertEqual(self.grouped().connections, voice().connections)
        self.assertEqual(made(self.grouped(), TakeApart(section="section")), voice())

    def test_empty_section_dissolves(self) -> None:
        self.assertEqual(made(self.grouped(), RemoveModules(modules=("filter", "amp"))).sections, ())

    def test_player_and_output_stay_outside(self) -> None:
        with self.assertRaisesRegex(EditError, "stands outside"):
            made(voice(), GroupModules(modules=("player", "osc"), label="x"))

    def test_copied_section_is_a_section_again(self) -> None:
        closed = made(
            self.grouped(),
            ChangeSection(section="section", open=False),
            ChangeSection(section="section", port="amp.level", name="loudness"),
        )
        after = made(closed, Paste(fragment=fragment(closed, ["filter", "amp"])))
        self.assertEqual([one.label for one in after.sections], ["Body", "Body"])
        self.assertFalse(after.sections[1].open)
        self.assertIn(("loudness", "amp-2.level"), [(one.name, one.port) for one in after.sections[1].inputs])


class AnyEditTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
    @given(some.integers(0, 10_000), some.integers(2, 40))
    def test_any_series_of_edits_leaves_a_valid_patch(self, seed: int, count: int) -> None:
        dice = random.Random(seed)
        played = patch_of(min(count, 12), seed)
        for _ in range(20):
            moves = random_edits(played, dice, count)
            played = tried(played, moves)
            checked_patch(played)
            adapter: TypeAdapter[list[Edit]] = TypeAdapter(list[Edit])
            wire = adapter.dump_python(moves, mode="json", by_alias=True)
            self.assertEqual(adapter.validate_python(wire), moves, "moves survive the way over the wire")
        self.assertEqual(Patch.model_validate(played.to_json()), played)


if __name__ == "__main__":
    unittest.main()
