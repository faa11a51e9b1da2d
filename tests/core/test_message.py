"""Messages: every key has a template with the very arguments that it is given, and every template is asked for."""

import ast
import re
import unittest
from collections.abc import Iterator
from string import Formatter

from inner_tone.core.english import TEMPLATES
from inner_tone.core.message import Fact, Listed, Message, Name, Number, Opening, Pitch, Pitched, Quantity, Worded, say
from tests.support.application import ROOT

ANYTHING = "\0"


def arguments_of(template: str) -> set[str]:
    return {name for _, name, _, _ in Formatter().parse(template) if name is not None}


def key_in(node: ast.expr) -> str | None:
    """Return the key that is written at a place, with what is put in where it runs as ANYTHING."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if isinstance(node, ast.JoinedStr):
        return "".join(str(one.value) if isinstance(one, ast.Constant) else ANYTHING for one in node.values)
    return None


def keys_at(node: ast.expr) -> list[str]:
    """Return the keys that may stand at a place of the source."""
    if isinstance(node, ast.IfExp):
        return [*keys_at(node.body), *keys_at(node.orelse)]
    key = key_in(node)
    return [key] if key else []


def asked() -> Iterator[tuple[str, set[str] | None, str]]:
    """Yield each key that is asked for in the core, its arguments if all are written there, and where that is."""
    for path in sorted((ROOT / "inner_tone").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
                continue
            place = f"{path.name}:{node.lineno}"
            named = {word.arg for word in node.keywords if word.arg} if all(w.arg for w in node.keywords) else None
            match node.func.id, node.args:
                case "say", [first]:
                    yield from ((key, named, place) for key in keys_at(first))
                case "counted", [first, _]:
                    both = None if named is None else {*named, "count"}
                    yield from ((f"{key}.{end}", both, place) for key in keys_at(first) for end in ("one", "many"))
                case "Message", [first, *_]:
                    yield from ((key, None, place) for key in keys_at(first))
                case "do", [_, _, third]:
                    both_voices = ((key, end) for key in keys_at(third) or [ANYTHING] for end in ("", ".brief"))
                    yield from ((f"do.{key}{end}", None, place) for key, end in both_voices)
                case "play", [_, second]:
                    yield from (
                        (f"do.play.{key}", None, place) for key in keys_at(second) or ["move", "move.otherwise"]
                    )


class KeysTest(unittest.TestCase):
    def test_what_is_asked_for_is_there_with_its_arguments(self) -> None:
        for key, named, place in asked():
            found = [one for one in TEMPLATES if re.fullmatch(re.escape(key).replace(ANYTHING, "[^.]*"), one)]
            with self.subTest(key, place=place):
                self.assertTrue(found, "there is a template")
                if named is not None:
                    for one in found:
                        self.assertEqual(arguments_of(TEMPLATES[one]), named)

    def test_what_is_there_is_asked_for(self) -> None:
        patterns = [re.escape(key).replace(ANYTHING, "[^.]*") for key, _, _ in asked()]
        whole = "|".join([*patterns, r"list\..*"])
        self.assertEqual([key for key in TEMPLATES if not re.fullmatch(whole, key)], [])
        self.assertGreater(len(TEMPLATES), 300)

    def test_no_template_says_the_same_under_another_key_of_its_subject(self) -> None:
        seen: dict[tuple[str, str], str] = {}
        for key, text in TEMPLATES.items():
            subject = key.partition(".")[0]
            if len(text) > 20 and not key.endswith(".brief"):
                self.assertNotIn((subject, text), seen, f"{key} and {seen.get((subject, text))}")
                seen[subject, text] = key


class WordsTest(unittest.TestCase):
    def test_arguments_in_words(self) -> None:
        for what, words in (
            (Number(0.12345), "0.123"),
            (Number(12345.0, 2), "12,345"),
            (Quantity(0.35, "s"), "350 ms"),
            (Quantity(2.0, "st", moves=True), "+2 semitones"),
            (Pitch(440.0), "440 Hz (A4)"),
            (Pitch(8.0), "8 Hz"),
            (Pitched(69.12), "A4 +12 cents"),
            (Pitched(68.99), "A4 −1 cent"),
            (Listed(["a", "b", "c"]), "a, b and c"),
            (Listed([Name("Reed"), Name("Bell")]), "Reed and Bell"),
            (Opening("the pitch of Reed"), "The pitch of Reed"),
            (Worded("24 dB per octave"), "24 dB per octave"),
        ):
            self.assertEqual(str(Message("", {"it": what}, "{it}")), words)

    def test_names_and_values_are_facts_by_the_names_of_their_arguments(self) -> None:
        inner = say("do.port", port="cutoff", module=Name("Bell"))
        whole = Message("", {"target": inner, "by": Fact("depth", Quantity(2.0, "st"))}, "Move {target} by {by}.")
        self.assertEqual(
            [(one.text, one.role, one.fact) for one in whole.parts],
            [
                ("Move the cutoff of ", "plain", ""),
                ("Bell", "name", "target"),
                (" by ", "plain", ""),
                ("2 semitones", "value", "depth"),
                (".", "plain", ""),
            ],
        )

    def test_braces_in_a_name_are_only_braces(self) -> None:
        self.assertEqual(str(say("do.remove", module=Name("{module} {0}"))), "Remove {module} {0}.")


if __name__ == "__main__":
    unittest.main()
