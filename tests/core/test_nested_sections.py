"""Sections within sections: what makes them, what keeps them apart, what becomes of them; and patches as texts."""

import random
import unittest

from inner_tone.core.errors import DocumentError, InnerToneError
from inner_tone.core.patch.difference import difference
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.model import Patch, Section
from inner_tone.core.patch.moves import GroupModules, Paste, RemoveModules, TakeApart
from inner_tone.core.patch.notation import notated
from inner_tone.core.patch.sections import around, grouped, nests
from inner_tone.core.patch.validate import checked_patch
from inner_tone.formats.map import source_of

VOICE = notated("""
    player: player
    tone: oscillator "Tone" wave=saw octave=-1
    lid: filter "Lid" cutoff=700
    amp: amplifier "Loudness"
    env: envelope "Course" attack=0.02
    wave: lfo "Wave" rate=3
    out: output level=-12
    player.pitch -> tone.pitch
    tone.out -> lid.in
    lid.out -> amp.in
    player.gate -> env.gate
    env.out -> amp.level * 0.8
    wave.out -> lid.cutoff * 12 by env.out
    amp.out -> out.left, out.right
""")
ALL = ("tone", "lid", "amp", "env", "wave")


def members(patch: Patch) -> dict[str, set[str]]:
    """Return what stands in each section."""
    return {one.id: set(one.modules) for one in patch.sections}


class NestedTest(unittest.TestCase):
    def test_one_within_another_whichever_is_made_first(self) -> None:
        inner, outer = ["lid", "wave"], ["tone", "lid", "amp", "env", "wave"]
        for first, second in ((inner, outer), (outer, inner)):
            patch = grouped(grouped(VOICE, "one", "One", first), "two", "Two", second)
            self.assertEqual(members(checked_patch(patch)), {"one": set(first), "two": set(second)})
            self.assertEqual([len(one.modules) for one in around(patch, "lid")], [2, 5])
            self.assertEqual([len(one.modules) for one in around(patch, "tone")], [5])

    def test_what_would_only_overlap_leaves_the_older_one(self) -> None:
        patch = grouped(grouped(VOICE, "one", "One", ["tone", "lid"]), "two", "Two", ["lid", "wave"])
        self.assertEqual(members(patch), {"one": {"tone"}, "two": {"lid", "wave"}})

    def test_any_sections_nest_or_have_nothing_in_common(self) -> None:
        chance = random.Random(7)
        for _ in range(300):
            patch = VOICE
            for number in range(chance.randrange(1, 7)):
                patch = grouped(patch, f"s{number}", "S", chance.sample(ALL, chance.randrange(1, 6)))
                if chance.random() < 0.3:
                    patch = made(patch, [RemoveModules(modules=(chance.choice(patch.modules[1:-1]).id,))]).patch
                if len(patch.modules) < 5:
                    break
            checked_patch(patch)
            found = [one.modules for one in patch.sections]
            for n, one in enumerate(found):
                for other in found[:n]:
                    self.assertTrue(nests(one, other) or not set(one) & set(other), found)

    def test_ports_are_those_through_which_each_is_connected(self) -> None:
        patch = grouped(grouped(VOICE, "in", "Inner", ["lid", "wave"]), "out-er", "Outer", list(ALL))
        inner, outer = patch.sections
        self.assertEqual({one.port for one in inner.inputs}, {"lid.in"})
        self.assertEqual({one.port for one in outer.inputs}, {"tone.pitch", "env.gate"})
        self.assertEqual({one.port for one in outer.outputs}, {"amp.out"})

    def test_the_inner_one_stays_when_the_outer_is_taken_apart(self) -> None:
        patch = grouped(grouped(VOICE, "in", "Inner", ["lid", "wave"]), "outer", "Outer", list(ALL))
        self.assertEqual(members(made(patch, [TakeApart(section="outer")]).patch), {"in": {"lid", "wave"}})

    def test_copied_with_all_that_stands_within(self) -> None:
        patch = grouped(grouped(VOICE, "in", "Inner", ["lid", "wave"]), "outer", "Outer", list(ALL))
        twice = made(patch, [Paste(fragment=patch)]).patch
        sizes = sorted(len(one.modules) for one in checked_patch(twice).sections)
        self.assertEqual(sizes, [2, 2, 5, 5])

    def test_told_as_instructions_and_built_by_them(self) -> None:
        patch = grouped(grouped(VOICE, "in", "Inner", ["lid", "wave"]), "outer", "Outer", list(ALL))
        said = difference(VOICE, patch)
        built = made(VOICE, [edit for one in said for edit in one.edits]).patch
        self.assertEqual(sorted(map(sorted, members(built).values())), sorted(map(sorted, members(patch).values())))

    def test_what_only_overlaps_is_refused_with_its_place(self) -> None:
        sections = tuple(Section(id=name, label="S", modules=some) for name, some in (("a", ALL[:2]), ("b", ALL[1:3])))
        with self.assertRaises(DocumentError) as caught:
            checked_patch(VOICE.model_copy(update={"sections": sections}))
        self.assertEqual([one.path for one in caught.exception.problems], ["sections[1].modules"])

    def test_on_paper_one_frame_stands_within_the_other(self) -> None:
        patch = grouped(grouped(VOICE, "in", "Inner", ["lid", "wave"]), "outer", "Outer", list(ALL))
        text = source_of(patch, "LR")
        outer = text.index("subgraph cluster_1")
        self.assertGreater(text.index("subgraph cluster_0"), outer)
        self.assertEqual(text.count("n2;"), 1, "each card stands in one frame alone")
        self.assertEqual(text.count("{"), text.count("}"))

    def test_grouped_by_an_edit(self) -> None:
        patch = made(
            VOICE, [GroupModules(modules=("lid", "wave"), label="In"), GroupModules(modules=ALL, label="Out")]
        ).patch
        self.assertEqual(sorted(len(one.modules) for one in patch.sections), [2, 5])


class NotationTest(unittest.TestCase):
    def test_what_it_says_is_what_is_there(self) -> None:
        patch = notated(
            'section s "Wind" closed: lid, wave\nvoices 3\n- env.out -> amp.level\nlid: cutoff=900 slope=24', VOICE
        )
        self.assertEqual(patch.voices, 3)
        self.assertEqual(patch.by_id["lid"].settings, {"cutoff": 900, "slope": 24})
        self.assertEqual([(one.label, one.open) for one in patch.sections], [("Wind", False)])
        self.assertFalse(any(line.target == "amp.level" for line in patch.connections))
        line = next(one for one in patch.connections if one.source == "wave.out")
        self.assertEqual((line.depth, line.scaled_by), (12.0, "env.out"))

    def test_a_module_goes_with_its_connections(self) -> None:
        patch = notated("- env", VOICE)
        self.assertNotIn("env", patch.by_id)
        self.assertFalse([one for one in patch.connections if "env" in {port.module for port in one.read}])

    def test_what_cannot_be_is_said_with_its_line(self) -> None:
        for text, word in (
            ("lid = filter", "nothing that can be done"),
            ("- nobody", "no such module"),
            ("- tone.out -> amp.in", "no such connection"),
            ("nobody: cutoff=3", "say its type"),
            ("lid: cutoff=90000", "out of range"),
            ("tone.out -> lid.nothing", "no input"),
        ):
            with self.assertRaisesRegex(InnerToneError, word):
                notated(text, VOICE)


if __name__ == "__main__":
    unittest.main()
