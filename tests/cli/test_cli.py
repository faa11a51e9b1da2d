"""The command line: files in, files out, errors in one sentence."""

import json
import tempfile
import unittest
import zipfile
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from scipy.io import wavfile

from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.recipe import Recipe, charts
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.lesson.step import StepContent
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.formats.bundle import Bundle, bundle_bytes
from inner_tone.formats.picture import svg
from tests.support.command import run_alone, run_here

ROOT = Path(__file__).resolve().parents[2]
PATCH = "docs/examples/foghorn.patch.json"
PHRASE = "docs/examples/foghorn.phrase.json"


class CliCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def assert_refused(self, *words: str, saying: str) -> None:
        done = run_here(*words)
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertEqual(done.stderr.count("\n"), 1, done.stderr)
        self.assertIn(saying, done.stderr)


class CliTest(CliCase):
    def render(self, name: str, *more: str) -> Path:
        out = self.folder / name
        done = run_alone("render", "--patch", PATCH, "--phrase", PHRASE, "--out", str(out), *more)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        return out

    def test_render_twice_gives_the_same_file(self) -> None:
        first, second = self.render("one.wav"), self.render("two.wav")
        self.assertEqual(sha256(first.read_bytes()).digest(), sha256(second.read_bytes()).digest())
        rate, samples = wavfile.read(first)
        self.assertEqual((rate, samples.dtype, samples.shape[1]), (48_000, np.float32, 2))
        self.assertAlmostEqual(len(samples) / rate, 5.25)

    def test_what_would_take_long_is_refused_if_one_wishes(self) -> None:
        out = self.folder / "out.wav"
        wish = ["render", "--patch", PATCH, "--phrase", PHRASE, "--out", str(out)]
        done = run_here(*wish, "--most", "0.01")
        self.assertEqual((done.returncode, done.stdout, out.exists()), (2, "", False))
        self.assertIn("6 modules", done.stderr)
        self.assertEqual(run_here(*wish, "--most", "60").returncode, 0)

    def test_taps_are_mono_and_at_the_rate(self) -> None:
        tap = self.folder / "breath.wav"
        self.render("out.wav", "--tap", f"breath.out={tap}", "--rate", "44100")
        rate, samples = wavfile.read(tap)
        self.assertEqual((rate, samples.dtype, samples.ndim), (44_100, np.float32, 1))
        self.assertAlmostEqual(float(np.max(samples)), 1.0, places=3)

    def test_difference(self) -> None:
        data = json.loads((ROOT / PATCH).read_text())
        data["modules"][2]["settings"]["cutoff"] = 900
        other = self.folder / "other.json"
        other.write_text(json.dumps(data))
        done = run_here("difference", PATCH, str(other))
        self.assertEqual(
            json.loads(done.stdout)["instructions"],
            [{"kind": "set", "text": "Set Bell mouth’s cutoff to 900 Hz.", "module": "bell"}],
        )

    def test_checkup(self) -> None:
        done = run_here("checkup", "--patch", PATCH, "--phrase", PHRASE)
        self.assertEqual((done.returncode, json.loads(done.stdout)), (0, {"findings": []}))
        data = json.loads((ROOT / PATCH).read_text())
        data["connections"] = [one for one in data["connections"] if one["to"] != "amp.level"]
        silent = self.folder / "silent.json"
        silent.write_text(json.dumps(data))
        done = run_here("checkup", "--patch", str(silent), "--phrase", PHRASE)
        (found,) = json.loads(done.stdout)["findings"]
        self.assertEqual(list(found), ["code", "module", "port", "message", "measured", "remedy"])
        self.assertEqual((found["code"], found["module"], found["port"]), ("no-sound", "amp", "level"))
        self.assert_refused("checkup", "--patch", PHRASE, "--phrase", PHRASE, saying="format")

    def test_measure(self) -> None:
        time = np.arange(48_000) / 48_000
        file = self.folder / "tone.wav"
        wavfile.write(file, 48_000, (0.5 * 32767 * np.sin(2 * np.pi * 111.0 * time)).astype(np.int16))
        done = run_here("measure", str(file), "--note", "A2")
        self.assertEqual(done.returncode, 0, done.stderr)
        found = json.loads(done.stdout)
        keys = "pitch_hz note cents partials loudness_lufs peak_db rms_db dc envelope sentence facts"
        self.assertEqual(list(found), keys.split())
        self.assertEqual(list(found["envelope"]), ["attack_s", "decay_s", "sustain_db", "release_s"])
        self.assertEqual(found["note"], "A2")
        self.assertAlmostEqual(found["cents"], 1200 * np.log2(111 / 110), places=2)
        self.assertAlmostEqual(found["peak_db"], -6.02, places=2)
        self.assertEqual((found["partials"][0]["number"], len(found["partials"])), (1, 1))
        self.assert_refused("measure", str(file), "--note", "H2", saying="not the name of a note")
        self.assert_refused("measure", PATCH, saying="not a WAV file")
        self.assert_refused("measure", "no.wav", saying="no.wav")

    def test_look(self) -> None:
        wish = ("look", "--patch", PATCH, "--phrase", PHRASE, "--tap", "bell.out", "--lens")
        done = run_here(*wish, "spectrum", "--note", "2")
        self.assertEqual(done.returncode, 0, done.stderr)
        found = json.loads(done.stdout)
        self.assertEqual(list(found), ["sentence", "facts", "chart"])
        self.assertEqual(found["chart"]["seen"]["note"], 2)
        self.assertIn("pitch", found["facts"]["claims"])
        self.assert_refused(*wish, "spectrum", "--note", "9", saying="no note 9")
        self.assert_refused(*wish, "taste", saying="invalid choice")

    def test_errors(self) -> None:
        out = str(self.folder / "x.wav")
        self.assert_refused("render", "--patch", "no.json", "--phrase", PHRASE, "--out", out, saying="no.json")
        self.assert_refused("render", "--patch", PHRASE, "--phrase", PHRASE, "--out", out, saying="format")
        common = ("render", "--patch", PATCH, "--phrase", PHRASE, "--out")
        self.assert_refused(*common, "/nowhere/x.wav", saying="/nowhere/x.wav")
        self.assert_refused(*common, out, "--tap", "bell.nothing=y.wav", saying="“bell.nothing”")
        self.assert_refused(*common, out, "--tap", "bell", saying="MODULE.OUTPUT=WAV")
        self.assert_refused(*common, out, "--rate", "1000", saying="44100, 48000")
        broken = self.folder / "broken.json"
        broken.write_text('{"modules": [,]}')
        self.assert_refused("difference", str(broken), PATCH, saying="line 1, column 14")
        broken.write_bytes(b"\xff\xfe")
        self.assert_refused("difference", str(broken), PATCH, saying="UTF-8")
        self.assert_refused("sing", saying="invalid choice")


class PlateTest(CliCase):
    def bundle(self, *names: str) -> str:
        plates = tuple(
            Plate(
                id=name,
                caption="Far out.",
                recipe=Recipe(view=SpectrumView(taps=("amp.out",)), patch=DISTANT, phrase=BLASTS),
            )
            for name in names
        )
        path = self.folder / "foghorn.zip"
        step = StepContent(title="Far", patch=DISTANT, phrase=BLASTS, plates=plates)
        path.write_bytes(bundle_bytes(Bundle(LessonDocument(title="Foghorn", steps=(step,)))))
        return str(path)

    def test_plate_is_drawn_again_to_the_same_bytes(self) -> None:
        bundle = self.bundle("highs")
        first, second = self.folder / "a.svg", self.folder / "b.svg"
        for out in (first, second):
            done = run_alone("plate", bundle, "--out", str(out))
            self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertEqual(first.read_bytes(), second.read_bytes())
        self.assertEqual(first.read_bytes(), svg(charts(Recipe.model_validate(self.recipe())), "Far out."))

    def recipe(self) -> Any:
        with zipfile.ZipFile(self.folder / "foghorn.zip") as bundle:
            return json.loads(bundle.read("lesson.json"))["steps"][0]["plates"][0]["recipe"]

    def test_numbers_and_the_choice_among_several(self) -> None:
        bundle = self.bundle("highs", "lows")
        out = self.folder / "numbers.csv"
        self.assertEqual(run_here("plate", bundle, "--plate", "1/lows", "--out", str(out)).returncode, 0)
        self.assertIn("partials", out.read_text())
        self.assert_refused("plate", bundle, "--out", str(out), saying="Possible: 1/highs, 1/lows")
        self.assert_refused("plate", bundle, "--plate", "2/highs", "--out", str(out), saying="no plate “2/highs”")

    def test_wrong_files_are_refused(self) -> None:
        self.assert_refused("plate", self.bundle("a"), "--out", "a.gif", saying="does not end in .svg")
        self.assert_refused("plate", self.bundle(), "--out", "a.svg", saying="no plate in this lesson")
        self.assert_refused("plate", PATCH, "--out", "a.svg", saying="not a bundle")
        self.assert_refused("plate", "nowhere.zip", "--out", "a.svg", saying="No such file")


if __name__ == "__main__":
    unittest.main()
