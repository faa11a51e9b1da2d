"""Pictures on paper, numbers, bundles and sounds as files."""

import csv
import io
import subprocess
import tempfile
import unittest
import zipfile
from pathlib import Path

import numpy as np
import soundfile
from PIL import Image

from inner_tone.core.errors import DocumentError, InnerToneError
from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.response import ResponseView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.sweep import SweepView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View
from inner_tone.core.lens.recipe import Behind, Recipe, charts
from inner_tone.core.lens.strip import Strip
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.lesson.step import StepContent
from inner_tone.demo.foghorn import BLASTS, BREATHED, DISTANT
from inner_tone.formats.audio import flac_bytes
from inner_tone.formats.bundle import LESSON, Bundle, bundle_bytes, read_bundle
from inner_tone.formats.numbers import csv_bytes, plain
from inner_tone.formats.picture import png, svg
from tests.support.sounds import sines

BEFORE = Behind(legend="the step before", patch=BREATHED)
VIEWS: list[View] = [
    WaveView(taps=("bell.out", "amp.out"), stacked=True),
    SpectrumView(taps=("amp.out",)),
    SweepView(taps=("amp.out",)),
    LevelView(taps=("amp.out",)),
    ResponseView(taps=("bell.out",), phase=True),
]
CAPTION = "Above 420 Hz the partials grow weaker & weaker: <24 dB> per octave."


def recipe(view: View, strip: Strip | None = None) -> Recipe:
    return Recipe(view=view, patch=DISTANT, phrase=BLASTS, behind=None if strip else BEFORE, strip=strip)


class PictureTest(unittest.TestCase):
    def test_every_lens_is_drawn_valid_and_to_the_same_bytes(self) -> None:
        for view in VIEWS:
            with self.subTest(view.kind):
                first = svg(charts(recipe(view)), CAPTION)
                self.assertEqual(first, svg(charts(recipe(view)), CAPTION))
                self.assertNotIn(b"<dc:date>", first)
                done = subprocess.run(["xmllint", "--noout", "-"], input=first, capture_output=True, check=False)
                self.assertEqual((done.returncode, done.stderr), (0, b""))

    def test_strip_stands_in_a_row(self) -> None:
        strip = Strip(module="bell", setting="cutoff", values=(100, 400, 1600))
        data = png(charts(recipe(SpectrumView(taps=("bell.out",)), strip)), CAPTION)
        width, height = Image.open(io.BytesIO(data)).size
        self.assertGreater(width, 2 * height)

    def test_long_caption_has_room(self) -> None:
        short = Image.open(io.BytesIO(png(charts(recipe(VIEWS[1])), "Short."))).size
        long = Image.open(io.BytesIO(png(charts(recipe(VIEWS[1])), "A long caption. " * 40))).size
        self.assertEqual(short[0], long[0])
        self.assertGreater(long[1], short[1] + 100)


class NumbersTest(unittest.TestCase):
    def rows(self, view: View) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO(csv_bytes(charts(recipe(view))).decode())))

    def test_partials_are_among_the_numbers(self) -> None:
        rows = self.rows(SpectrumView(taps=("amp.out",)))
        first = next(row for row in rows if row["series"] == "partials")
        self.assertAlmostEqual(float(first["x"]), 55.0, places=2)
        self.assertEqual((first["x unit"], first["y unit"], first["name"]), ("Hz", "dB", "1"))
        self.assertEqual({row["series"] for row in rows}, {"Loudness", "the step before", "partials"})

    def test_names_are_no_formulas(self) -> None:
        for name in ("=1+2", "+1", "-1", "@sum", "\t=1"):
            self.assertEqual(plain(name), f"'{name}")
        for one in ("Reed", "1 kHz", -3.5, 0.0):
            self.assertEqual(plain(one), one)

    def test_levels_of_a_sweep(self) -> None:
        rows = self.rows(SweepView(taps=("amp.out",)))
        loudest = max(rows, key=lambda row: float(row["low"]))
        self.assertAlmostEqual(float(loudest["y"]), 55.0, delta=3.0)

    def test_every_lens_has_numbers(self) -> None:
        for view in VIEWS:
            self.assertGreater(len(self.rows(view)), 100, view.kind)


class SoundTest(unittest.TestCase):
    def test_flac_is_the_sound_to_24_bits(self) -> None:
        signal = sines(0.2, (440.0, 0.5))
        found, rate = soundfile.read(io.BytesIO(flac_bytes(signal, 48_000.0)))
        self.assertEqual(rate, 48_000)
        np.testing.assert_allclose(found, signal, atol=2.0**-22)


class BundleTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "foghorn.zip"
        plate = Plate(id="plate-1", caption=CAPTION, recipe=recipe(VIEWS[1]))
        step = StepContent(title="Far out", patch=DISTANT, phrase=BLASTS, plates=(plate,))
        self.lesson = LessonDocument(title="Foghorn", steps=(step,))

    def write(self, name: str, text: str) -> None:
        with zipfile.ZipFile(self.path, "w") as bundle:
            bundle.writestr(name, text)

    def test_there_and_back(self) -> None:
        data = bundle_bytes(Bundle(self.lesson))
        self.assertEqual(data, bundle_bytes(Bundle(self.lesson)))
        self.path.write_bytes(data)
        self.assertEqual(read_bundle(self.path), self.lesson)

    def test_what_is_none_says_why(self) -> None:
        self.path.write_bytes(b"not a bundle")
        with self.assertRaisesRegex(InnerToneError, "not a bundle"):
            read_bundle(self.path)
        self.write("sounds.json", "{}")
        with self.assertRaisesRegex(InnerToneError, "no lesson.json"):
            read_bundle(self.path)
        self.write(LESSON, "{")
        with self.assertRaisesRegex(InnerToneError, "not JSON"):
            read_bundle(self.path)
        self.write(LESSON, '{"title": "A", "steps": [{"patch": {"modules": [{"id": "a", "type": "violin"}]}}]}')
        with self.assertRaises(DocumentError) as caught:
            read_bundle(self.path)
        self.assertEqual(caught.exception.problems[0].path, "steps[0].modules[0].type")


if __name__ == "__main__":
    unittest.main()
