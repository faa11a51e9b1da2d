"""`bin/inner-tone play`: what a render gives, and what is said of events that are none."""

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from tests.support.application import ROOT
from tests.support.command import Answer, run_here

EXAMPLE = ROOT / "docs" / "examples" / "subtractive-voice"


class PlayTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def play(self, events: Any, *more: str) -> Answer:
        file = self.folder / "events.json"
        file.write_text(events if isinstance(events, str) else json.dumps(events))
        out = str(self.folder / "played.wav")
        return run_here("play", "--patch", f"{EXAMPLE}.patch.json", "--events", str(file), "--out", out, *more)

    def test_events_of_a_phrase_give_the_samples_of_its_render(self) -> None:
        phrase = json.loads(Path(f"{EXAMPLE}.phrase.json").read_text())
        beat_s = 60.0 / phrase["tempo"]
        events: list[dict[str, Any]] = [{"at_s": phrase["beats"] * beat_s, "kind": "end"}]
        for note in phrase["notes"]:
            on = {"kind": "note_on", "pitch": note["pitch"], "velocity": note.get("velocity", 0.8)}
            events.append({"at_s": note["start"] * beat_s, **on})
            end = min(phrase["beats"], note["start"] + note["length"]) * beat_s
            events.append({"at_s": end, "kind": "note_off", "pitch": note["pitch"]})
        rendered, tap = self.folder / "rendered.wav", self.folder / "tap.wav"
        both = ["--patch", f"{EXAMPLE}.patch.json", "--phrase", f"{EXAMPLE}.phrase.json"]
        self.assertEqual(run_here("render", *both, "--out", str(rendered)).returncode, 0)
        wanted = soundfile.read(rendered, dtype="float32")[0]
        for block in (64, 4096):
            told = self.play(events, "--block", str(block), "--tap", f"out.left={tap}", "--tempo", str(phrase["tempo"]))
            self.assertEqual(told.returncode, 0, told.stderr)
            np.testing.assert_array_equal(soundfile.read(self.folder / "played.wav", dtype="float32")[0], wanted)
            self.assertEqual(len(soundfile.read(tap)[0]), len(wanted))

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        for events, words in (
            ("no json", "not JSON"),
            ({"format": "x"}, "no list of events"),
            ([{"kind": "note_on", "pitch": 60}, {"kind": "note_on", "pitch": 600}], "events[1].pitch"),
            ([{"kind": "set", "module": "nobody", "setting": "x", "value": 1}], "no module “nobody”"),
            ([{"kind": "patch", "patch": {"modules": [{"id": "a", "type": "organ"}]}}], "no module type “organ”"),
        ):
            told = self.play(events)
            self.assertEqual(told.returncode, 2, told.stderr)
            self.assertIn(words, told.stderr)
            self.assertFalse((self.folder / "played.wav").exists())
        self.assertIn("--block", self.play([], "--block", "0").stderr)
        self.assertIn("nobody.out", self.play([], "--tap", f"nobody.out={self.folder / 'x.wav'}").stderr)


if __name__ == "__main__":
    unittest.main()
