"""`bin/inner-tone match`, `compare` and `instrument`: what they print, and what is said of bad input."""

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from inner_tone.core.patch.edit import made
from inner_tone.core.patch.moves import SetValue
from inner_tone.demo import foghorn
from tests.support.command import run_here

STEP = foghorn.LESSON.steps[3]
FIGURES = {"pitch_cents", "partials_db", "envelope_db", "spectrum_db"}


class FollowTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        barking = made(STEP.patch, [SetValue(module="breath", setting="attack", value=0.02)]).patch
        self.target = self.written("target.json", STEP.patch.to_json())
        self.mine = self.written("mine.json", barking.to_json())
        self.phrase = self.written("phrase.json", STEP.phrase.model_dump(mode="json"))

    def written(self, name: str, data: Any) -> str:
        path = self.folder / name
        path.write_text(json.dumps(data), encoding="utf-8")
        return str(path)

    def run_it(self, *arguments: str) -> tuple[int, str, str]:
        done = run_here(*arguments)
        return done.returncode, done.stdout, done.stderr

    def printed(self, *arguments: str) -> Any:
        status, out, err = self.run_it(*arguments)
        self.assertEqual((status, err), (0, ""))
        return json.loads(out)

    def test_match(self) -> None:
        found = self.printed("match", "--mine", self.mine, "--target", self.target, "--phrase", self.phrase)
        self.assertEqual(set(found), {"wiring", "sound", "advice"})
        self.assertEqual(
            found["wiring"], {"same": False, "remaining": [{"kind": "set", "text": "Set Breath’s attack to 350 ms."}]}
        )
        self.assertEqual(set(found["sound"]), {"same", *FIGURES})
        self.assertFalse(found["sound"]["same"])
        self.assertEqual((found["advice"][0]["module"], found["advice"][0]["setting"]), ("breath", "attack"))
        same = self.printed("match", "--mine", self.target, "--target", self.target, "--phrase", self.phrase)
        self.assertEqual((same["wiring"]["same"], same["sound"]["same"], same["advice"]), (True, True, []))

    def test_instrument_and_compare(self) -> None:
        for patch, same in ((self.target, True), (self.mine, False)):
            out = str(self.folder / "out.wav")
            status, _, err = self.run_it("instrument", "worn", "--patch", patch, "--phrase", self.phrase, "--out", out)
            self.assertEqual((status, err), (0, ""))
            found = self.printed("compare", "--target", self.target, "--phrase", self.phrase, "--recording", out)
            self.assertEqual(set(found), {"same", "confidence", "cannot_tell", "advice", *FIGURES})
            self.assertEqual((found["same"], found["cannot_tell"]), (same, None))
        self.assertEqual(found["advice"][0]["setting"], "attack")

    def test_what_cannot_be_told_and_what_cannot_be_read(self) -> None:
        silent = str(self.folder / "silent.flac")
        soundfile.write(silent, np.zeros(48_000 * 6), 48_000)
        found = self.printed("compare", "--target", self.target, "--phrase", self.phrase, "--recording", silent)
        self.assertEqual((found["same"], found["cannot_tell"]), (False, "There is nothing to be heard."))
        bad = self.written("bad.wav", "no sound")
        status, _, err = self.run_it("compare", "--target", self.target, "--phrase", self.phrase, "--recording", bad)
        self.assertEqual(status, 2)
        self.assertRegex(err, r"bad\.wav: This is not a sound file")
        status, _, err = self.run_it(
            "instrument", "kazoo", "--patch", self.target, "--phrase", self.phrase, "--out", bad
        )
        self.assertEqual(status, 2)
        self.assertIn("There is no instrument “kazoo”", err)


if __name__ == "__main__":
    unittest.main()
