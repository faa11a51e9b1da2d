"""Patches and phrases as files of their own: opened as they were saved, and refused with a sentence."""

import json
import unittest

from inner_tone.core.phrase import Phrase
from inner_tone.demo.foghorn import BLASTS, DISTANT
from tests.support.api import ApiTest


class DocumentTest(ApiTest):
    def opened(self, data: bytes):  # type: ignore[no-untyped-def]
        return self.client.post("/api/documents/opened", content=data)

    def test_what_was_saved_is_opened_the_same(self) -> None:
        patch = self.opened(json.dumps(DISTANT.to_json()).encode()).json()
        self.assertEqual(type(DISTANT).model_validate(patch["patch"]), DISTANT)
        self.assertIsNone(patch["phrase"])
        phrase = self.opened(BLASTS.model_dump_json().encode()).json()
        self.assertEqual(Phrase.model_validate(phrase["phrase"]), BLASTS)

    def test_each_file_that_is_none_is_refused_with_what_is_wrong(self) -> None:
        patch = DISTANT.to_json()
        wrong = {
            b"": "not JSON",
            b"\xff\xfe": "not JSON",
            b"[" * 100_000: "nested too deep",
            b"[]": "neither a patch nor a phrase",
            b'"inner-tone/patch"': "neither a patch nor a phrase",
            b'{"format": ["inner-tone/patch"]}': "neither a patch nor a phrase",
            b'{"format": "inner-tone/lesson"}': "from the shelf",
            json.dumps({**patch, "version": 99}).encode(): "newer Inner Tone",
            json.dumps({**patch, "modules": [{"id": "x", "type": "nothing"}]}).encode(): "nothing",
            json.dumps({**patch, "modules": 3}).encode(): "modules",
            b'{"format": "inner-tone/phrase", "tempo": 1e999}': "tempo",
            b'{"format": "inner-tone/phrase", "beats": -1}': "beats",
        }
        for data, words in wrong.items():
            with self.subTest(data=data[:60]):
                problem = self.assert_problem(self.opened(data), 422)
                said = problem["detail"] + " ".join(one["path"] + one["message"] for one in problem["problems"])
                self.assertIn(words, said)

    def test_a_file_that_is_too_large_is_not_read(self) -> None:
        self.assertIn("no patch or phrase", self.assert_problem(self.opened(b" " * (9 * 1024 * 1024)), 422)["detail"])


if __name__ == "__main__":
    unittest.main()
