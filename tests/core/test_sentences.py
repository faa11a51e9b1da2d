"""What the lenses say, word for word, of signals whose nature is known; the table is in docs/sentences.md."""

import re
import unittest
from itertools import zip_longest

from tests.support.sentences import PAGE, page, sentences, table

NUMBER = r"[−]?[\d,]+(?:\.\d+)?"
TRUE = re.compile(r"\{([−\d.]+) ± ([\d.]+) %\}")


def value(text: str) -> float:
    return float(text.replace("−", "-").replace(",", ""))


class SentenceTest(unittest.TestCase):
    def test_every_lens_says_what_is_there(self) -> None:
        for case, said in zip(table(), sentences(), strict=True):
            with self.subTest(lens=case.view.kind, signal=case.name):
                self.assert_says(said, case.sentence)

    def test_page_of_sentences_is_current(self) -> None:
        self.assertEqual(PAGE.read_text(), page())

    def assert_says(self, found: str, wanted: str) -> None:
        """The words must be the same, and each number in braces near enough."""
        words = [re.escape(part) for part in re.split(r"\{[^}]*\}", wanted)]
        match = re.fullmatch(f"({NUMBER})".join(words), found)
        self.assertIsNotNone(match, f"\n{found}\n{wanted}")
        for text, (true, percent) in zip_longest(match.groups() if match else (), TRUE.findall(wanted)):
            near = abs(value(true)) * float(percent) / 100.0
            self.assertAlmostEqual(value(text), value(true), delta=near, msg=found)


if __name__ == "__main__":
    unittest.main()
