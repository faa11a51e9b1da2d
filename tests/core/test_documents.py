"""Patches and phrases that are wrong: the place and the remedy are named."""

import json
import unittest
from pathlib import Path
from typing import Any

from inner_tone.core.errors import DocumentError
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import read_phrase
from tests.support.patches import line, module

EXAMPLES = Path(__file__).resolve().parents[2] / "docs" / "examples"


class PatchTest(unittest.TestCase):
    def problems(self, data: Any) -> list[tuple[str, str]]:
        with self.assertRaises(DocumentError) as caught:
            read_patch(data)
        return [(problem.path, f"{problem.message} {problem.remedy}") for problem in caught.exception.problems]

    def assert_problem(self, data: Any, path: str, *words: str) -> None:
        found = self.problems(data)
        self.assertEqual([place for place, _ in found], [path], found)
        for word in words:
            self.assertIn(word, found[0][1])

    def test_example_is_read_and_written_back(self) -> None:
        data = json.loads((EXAMPLES / "foghorn.patch.json").read_text())
        patch = read_patch(data)
        self.assertEqual(read_patch(patch.to_json()), patch)
        self.assertEqual(patch.by_id["bell"].all_settings["slope"], 24)
        self.assertEqual(patch.by_id["out"].all_settings["level"], -9)

    def test_what_is_not_an_object_is_refused(self) -> None:
        self.assert_problem([], "", "a list")
        self.assert_problem("patch", "", "a text")

    def test_unknown_keys_are_named_with_the_nearest_known_one(self) -> None:
        self.assert_problem({"modles": []}, "modles", "Did you mean “modules”?")
        self.assert_problem({"modules": [{"id": "a", "type": "filter", "lable": ""}]}, "modules[0].lable", "“label”")

    def test_unknown_type_setting_and_choice(self) -> None:
        self.assert_problem({"modules": [module("a", "filtre")]}, "modules[0].type", "Did you mean “filter”?")
        wrong = {"modules": [module("a", "filter", cutof=400)]}
        self.assert_problem(wrong, "modules[0].settings.cutof", "A filter has no setting", "“cutoff”")
        wrong = {"modules": [module("a", "oscillator", wave="sawtoth")]}
        self.assert_problem(wrong, "modules[0].settings.wave", "Choose sine, triangle, saw or square.")

    def test_number_off_its_ruler(self) -> None:
        wrong = {"modules": [module("a", "filter", cutoff=50_000)]}
        self.assert_problem(wrong, "modules[0].settings.cutoff", "50,000 Hz is out of range", "20 Hz to 20,000 Hz")

    def test_text_where_a_number_belongs(self) -> None:
        wrong = {"modules": [module("a", "filter", cutoff="high")]}
        self.assert_problem(wrong, "modules[0].settings.cutoff", "It must be a number.")

    def test_what_is_of_another_kind_is_told_in_the_words_of_those_who_write_json(self) -> None:
        self.assert_problem({"modules": 3}, "modules", "This is a number. It must be a list.")
        self.assert_problem({"modules": ["a"]}, "modules[0]", "This is a text. It must be an object.")
        strange = {"modules": [{"id": 5, "type": "filter"}]}
        self.assert_problem(strange, "modules[0].id", "This is a number. It must be a text.")

    def test_numbers_that_are_none(self) -> None:
        for depth in (float("nan"), float("inf")):
            data = {"modules": [module("a", "amplifier")], "connections": [line("a.out", "a.in", depth)]}
            self.assertEqual(self.problems(data)[0][0], "connections[0].depth")
        self.assertTrue(self.problems({"modules": [module("a", "filter", cutoff=float("nan"))]}))
        self.assertTrue(self.problems({"modules": [module("a", "filter", cutoff=True)]}))

    def test_two_modules_of_one_name_and_two_outputs(self) -> None:
        found = self.problems({"modules": [module("a", "filter"), module("a", "filter")]})
        self.assertEqual([place for place, _ in found], ["modules[0].id", "modules[1].id"])
        self.assert_problem(
            {"modules": [module("a", "output"), module("b", "output")]}, "modules[1]", "only one output"
        )

    def test_connections_from_and_to_nowhere(self) -> None:
        modules = [module("reed", "oscillator"), module("amp", "amplifier")]
        wrong = {"modules": modules, "connections": [line("ried.out", "amp.in")]}
        self.assert_problem(wrong, "connections[0].from", "There is no module “ried”", "“reed”")
        wrong = {"modules": modules, "connections": [line("reed.out", "amp.levle")]}
        self.assert_problem(wrong, "connections[0].to", "An amplifier has no input “levle”", "“level”")
        wrong = {"modules": modules, "connections": [line("reed.out", "amp.in", 1, "amp.in")]}
        self.assert_problem(wrong, "connections[0].scaled_by", "has no output “in”")

    def test_doubled_connection(self) -> None:
        wrong = {
            "modules": [module("a", "amplifier")],
            "connections": [line("a.out", "a.in"), line("a.out", "a.in", 0.5)],
        }
        self.assert_problem(wrong, "connections[1]", "twice", "add up their depths")

    def test_every_problem_is_named_at_once(self) -> None:
        wrong = {"modules": [module("a", "filter", cutoff=1, resonance=3)], "connections": [line("b.out", "a.in")]}
        self.assertEqual(len(self.problems(wrong)), 3)

    def test_newer_version_is_refused_kindly(self) -> None:
        self.assert_problem({"version": 2}, "version", "newer Inner Tone")


class PhraseTest(unittest.TestCase):
    def assert_problem(self, data: Any, path: str, word: str) -> None:
        with self.assertRaises(DocumentError) as caught:
            read_phrase(data)
        problem = caught.exception.problems[0]
        self.assertEqual(problem.path, path)
        self.assertIn(word, f"{problem.message} {problem.remedy}")

    def test_example_is_read(self) -> None:
        phrase = read_phrase(json.loads((EXAMPLES / "foghorn.phrase.json").read_text()))
        self.assertEqual(phrase.seconds, 5.0)
        self.assertEqual(phrase.sample(2.5, 48_000), 75_000)

    def test_wrong_notes(self) -> None:
        self.assert_problem({"notes": [{"start": 0, "length": 0, "pitch": 60}]}, "notes[0].length", "at least 0.001")
        self.assert_problem({"notes": [{"start": 0, "length": 1, "pitch": 128}]}, "notes[0].pitch", "at most 127")
        self.assert_problem({"notes": [{"start": 0, "length": 1}]}, "notes[0].pitch", "missing")
        late = {"beats": 4, "notes": [{"start": 4, "length": 1, "pitch": 60}]}
        self.assert_problem(late, "notes[0].start", "the phrase has only 4")

    def test_wrong_gestures(self) -> None:
        back = {"gestures": [{"control": "wheel", "points": [[2, 0], [1, 1]]}]}
        self.assert_problem(back, "gestures[0].points", "Sort them by beat")
        strange = {"gestures": [{"control": "foot", "points": [[0, 0]]}]}
        self.assert_problem(strange, "gestures[0].control", "pattern")

    def test_titles_and_lists_have_bounds(self) -> None:
        self.assert_problem(
            {"title": "x" * 201}, "title", "The number of its characters is 201. It must be at most 200."
        )
        bare = {"gestures": [{"control": "wheel", "points": []}]}
        self.assert_problem(bare, "gestures[0].points", "The number of its entries is 0. It must be at least 1.")

    def test_phrase_that_is_too_long(self) -> None:
        self.assert_problem({"beats": 1000, "tempo": 20}, "beats", "at most 180")


if __name__ == "__main__":
    unittest.main()
