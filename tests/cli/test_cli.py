"""The command line: files in, files out, errors in one sentence."""

import json
import subprocess
import sys
import tempfile
import unittest
from hashlib import sha256
from pathlib import Path

import numpy as np
from scipy.io import wavfile

ROOT = Path(__file__).resolve().parents[2]
PATCH = "docs/examples/foghorn.patch.json"
PHRASE = "docs/examples/foghorn.phrase.json"


class CliTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_cli(self, *words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "inner_tone.cli", *words], cwd=ROOT, capture_output=True, text=True, check=False
        )

    def assert_refused(self, *words: str, saying: str) -> None:
        done = self.run_cli(*words)
        self.assertEqual((done.returncode, done.stdout), (2, ""))
        self.assertEqual(done.stderr.count("\n"), 1, done.stderr)
        self.assertIn(saying, done.stderr)

    def render(self, name: str, *more: str) -> Path:
        out = self.folder / name
        done = self.run_cli("render", "--patch", PATCH, "--phrase", PHRASE, "--out", str(out), *more)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        return out

    def test_render_twice_gives_the_same_file(self) -> None:
        first, second = self.render("one.wav"), self.render("two.wav")
        self.assertEqual(sha256(first.read_bytes()).digest(), sha256(second.read_bytes()).digest())
        rate, samples = wavfile.read(first)
        self.assertEqual((rate, samples.dtype, samples.shape[1]), (48_000, np.float32, 2))
        self.assertAlmostEqual(len(samples) / rate, 5.25)

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
        done = self.run_cli("difference", PATCH, str(other))
        self.assertEqual(
            json.loads(done.stdout)["instructions"],
            [{"kind": "set", "text": "Set Bell mouth’s cutoff to 900 Hz.", "module": "bell"}],
        )

    def test_checkup(self) -> None:
        done = self.run_cli("checkup", "--patch", PATCH, "--phrase", PHRASE)
        self.assertEqual((done.returncode, json.loads(done.stdout)), (0, {"findings": []}))
        data = json.loads((ROOT / PATCH).read_text())
        data["connections"] = [one for one in data["connections"] if one["to"] != "amp.level"]
        silent = self.folder / "silent.json"
        silent.write_text(json.dumps(data))
        done = self.run_cli("checkup", "--patch", str(silent), "--phrase", PHRASE)
        (found,) = json.loads(done.stdout)["findings"]
        self.assertEqual(list(found), ["code", "module", "port", "message", "measured", "remedy"])
        self.assertEqual((found["code"], found["module"], found["port"]), ("no-sound", "amp", "level"))
        self.assert_refused("checkup", "--patch", PHRASE, "--phrase", PHRASE, saying="format")

    def test_measure(self) -> None:
        time = np.arange(48_000) / 48_000
        file = self.folder / "tone.wav"
        wavfile.write(file, 48_000, (0.5 * 32767 * np.sin(2 * np.pi * 111.0 * time)).astype(np.int16))
        done = self.run_cli("measure", str(file), "--note", "A2")
        self.assertEqual(done.returncode, 0, done.stderr)
        found = json.loads(done.stdout)
        keys = "pitch_hz note cents partials loudness_lufs peak_db rms_db dc envelope sentence"
        self.assertEqual(list(found), keys.split())
        self.assertEqual(list(found["envelope"]), ["attack_s", "decay_s", "sustain_db", "release_s"])
        self.assertEqual(found["note"], "A2")
        self.assertAlmostEqual(found["cents"], 1200 * np.log2(111 / 110), places=2)
        self.assertAlmostEqual(found["peak_db"], -6.02, places=2)
        self.assertEqual((found["partials"][0]["number"], len(found["partials"])), (1, 1))
        self.assert_refused("measure", str(file), "--note", "H2", saying="not the name of a note")
        self.assert_refused("measure", PATCH, saying="not a WAV file")
        self.assert_refused("measure", "no.wav", saying="no.wav")

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


if __name__ == "__main__":
    unittest.main()
