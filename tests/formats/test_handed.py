"""What is handed out, against what it was made from: paper, one file, package and Markdown."""

import io
import json
import re
import subprocess
import tempfile
import unittest
import zipfile
from base64 import b64decode
from html.parser import HTMLParser
from typing import Any
from xml.etree import ElementTree

import numpy as np
import soundfile

from inner_tone.core.engine.render import render
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.sheet import laid_out, with_fields
from inner_tone.core.lesson.step import StepContent
from inner_tone.demo import bell, foghorn
from inner_tone.formats.html import Front, text_html
from inner_tone.formats.map import drawn
from inner_tone.work.errand import Workplace
from inner_tone.work.handed import Wanted, handed
from inner_tone.work.studio import Studio

EVIL = (
    '<script>alert("x")</script> ![](javascript:alert(1)) [x](javascript:alert(1)) ![](https://elsewhere.example/a.png)'
)
LESSON = LessonDocument(
    title='A horn <b>"&"</b>',
    summary="Of a & b.",
    steps=(
        foghorn.STEPS[3].model_copy(update={"why": f"The attack is {{the attack of Breath}}. {EVIL}", "plates": ()}),
        foghorn.STEPS[4],
    ),
    start=foghorn.STEPS[2].patch,
)
FRONT = Front(LESSON.title, LESSON.summary, "", "By Maren Holt; edition 1")


def made(form: Any, **wish: Any) -> bytes:
    return handed(Workplace(Studio(), long=True), Wanted(form, **wish), LESSON, FRONT, {}, {})


class Tags(HTMLParser):
    """Reads which tags a page has, and what stands in their attributes."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[tuple[str, dict[str, str | None]]] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.found.append((tag, dict(attrs)))


class PaperTest(unittest.TestCase):
    data: bytes

    @classmethod
    def setUpClass(cls) -> None:
        cls.data = made("pdf")

    def words(self, data: bytes) -> str:
        with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
            file.write(data)
            file.flush()
            done = subprocess.run(["pdftotext", "-layout", file.name, "-"], capture_output=True, text=True, check=True)
        return re.sub(r"\s+", " ", done.stdout)

    def info(self, data: bytes) -> str:
        with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
            file.write(data)
            file.flush()
            return subprocess.run(["pdfinfo", file.name], capture_output=True, text=True, check=True).stdout

    def test_all_that_makes_the_sound_again_stands_on_it(self) -> None:
        words = self.words(self.data)
        for one in ("An envelope that gives it breath", "The attack is 350 ms.", "attack 350 ms", "release 900 ms"):
            self.assertIn(one, words)
        for one in ("cutoff 420 Hz", "Harbour, left and right", "the gate of Breath", "A3 at beat 0", "Notes"):
            self.assertIn(one, words)

    def test_it_is_tagged_and_of_the_wanted_size(self) -> None:
        info = self.info(self.data)
        self.assertRegex(info, r"Tagged:\s+yes")
        self.assertIn("A4", info)
        self.assertIn("letter", self.info(made("pdf", paper="Letter")))

    def test_the_same_lesson_is_the_same_bytes(self) -> None:
        self.assertEqual(made("pdf"), self.data)

    def test_without_solutions_no_value_stands_in_what_is_to_be_done(self) -> None:
        words = self.words(made("pdf", solutions=False))
        self.assertIn("Set Breath’s attack to", words)
        for value in ("900 ms", "420 Hz", "octave −2"):
            self.assertNotIn(value, words)


class OneFileTest(unittest.TestCase):
    page: str

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = made("html").decode()

    def test_nothing_leads_out_of_it_and_nobodys_text_becomes_a_script(self) -> None:
        tags = Tags()
        tags.feed(self.page)
        self.assertEqual(sum(tag == "script" for tag, _ in tags.found), 2)
        for tag, attributes in tags.found:
            for name in ("src", "href"):
                value = attributes.get(name) or ""
                self.assertTrue(value.startswith(("data:", "#")) or not value, f"{tag} {value[:60]}")
        self.assertIn("&lt;script&gt;alert", self.page)
        self.assertNotIn("javascript:alert", self.page.replace("javascript:alert(1))", ""))

    def test_every_sound_is_that_of_the_render(self) -> None:
        kept = json.loads(re.search(r'id="sounds">(.*?)</script>', self.page, re.DOTALL)[1])  # type: ignore[index]
        keys = re.findall(r'data-sound="([0-9a-f]+)"', self.page)
        self.assertEqual(set(keys), set(kept["data"]))
        self.assertEqual(len(keys), 4, "each step and what is before it")
        samples, rate = soundfile.read(io.BytesIO(b64decode(kept["data"][keys[0]])))
        step = LESSON.steps[0]
        done = render(step.patch, step.phrase)
        self.assertEqual(rate, 48_000)
        level = np.sqrt(np.mean(samples[:, 0] ** 2)) / np.sqrt(np.mean(done.left**2))
        self.assertAlmostEqual(20 * np.log10(level), 0.0, delta=0.5)

    def test_with_flac_the_sound_is_exact(self) -> None:
        page = made("html", sound="flac").decode()
        kept = json.loads(re.search(r'id="sounds">(.*?)</script>', page, re.DOTALL)[1])  # type: ignore[index]
        key = re.search(r'data-sound="([0-9a-f]+)"', page)[1]  # type: ignore[index]
        samples, _ = soundfile.read(io.BytesIO(b64decode(kept["data"][key])))
        done = render(LESSON.steps[0].patch, LESSON.steps[0].phrase)
        self.assertLess(np.max(np.abs(samples[:, 0] - done.left)), 2.0**-22)

    def test_each_moment_has_its_wave_and_its_spectrum(self) -> None:
        self.assertEqual(self.page.count('class="moment"'), 2 * len(LESSON.steps))
        self.assertEqual(self.page.count('class="pair"><svg'), 2 * len(LESSON.steps))

    def test_it_is_valid_html(self) -> None:
        with tempfile.NamedTemporaryFile(suffix=".html") as file:
            file.write(self.page.encode())
            file.flush()
            done = subprocess.run(["tidy", "-q", "-e", file.name], capture_output=True, text=True, check=False)
        wrong = [line for line in done.stderr.splitlines() if "Error" in line]
        self.assertEqual(wrong, [])

    def test_a_package_has_what_platforms_look_for(self) -> None:
        with zipfile.ZipFile(io.BytesIO(made("package"))) as packed:
            self.assertEqual(packed.namelist(), ["imsmanifest.xml", "index.html"])
            manifest = ElementTree.fromstring(packed.read("imsmanifest.xml"))
            self.assertIn("LMSInitialize", packed.read("index.html").decode())
        spaces = {"c": "http://www.imsproject.org/xsd/imscp_rootv1p1p2"}
        self.assertEqual(manifest.findtext("c:metadata/c:schemaversion", None, spaces), "1.2")
        self.assertEqual(manifest.findtext(".//c:item/c:title", None, spaces), LESSON.title)
        resource = manifest.find("c:resources/c:resource", spaces)
        item = manifest.find(".//c:item", spaces)
        assert resource is not None and item is not None
        self.assertEqual(item.get("identifierref"), resource.get("identifier"))


class MarkdownTest(unittest.TestCase):
    def test_it_names_only_pictures_that_are_there(self) -> None:
        with zipfile.ZipFile(io.BytesIO(made("markdown"))) as packed:
            text = packed.read("lesson.md").decode()
            names = set(packed.namelist()) - {"lesson.md"}
        self.assertEqual(set(re.findall(r"\]\((pictures/[^)]+)\)", text)), names)
        self.assertIn("| Breath | Envelope | attack 350 ms, sustain 0.8, release 900 ms |", text)
        self.assertTrue(text.startswith('# A horn \\<b\\>"&"\\</b\\>\n'))


class MapTest(unittest.TestCase):
    def test_every_module_is_there_once_and_inside(self) -> None:
        for patch in (foghorn.DISTANT, bell.LESSON.steps[-1].patch):
            found = drawn(patch)
            root = ElementTree.fromstring(found.svg)
            texts = [one.text for one in root.iter("{http://www.w3.org/2000/svg}text")]
            for module in patch.modules:
                self.assertEqual(texts.count(module.title), 1, module.title)
            _, _, width, height = (float(one) for one in root.get("viewBox", "").split())
            for one in root.iter("{http://www.w3.org/2000/svg}rect"):
                self.assertLess(float(one.get("x", 0)) + float(one.get("width", 0)), width)
                self.assertLess(float(one.get("y", 0)) + float(one.get("height", 0)), height)

    def test_names_that_mean_something_to_the_layout_are_only_names(self) -> None:
        modules = tuple(
            one.model_copy(update={"label": 'a"];}b -> c <'}) if one.id == "reed" else one
            for one in foghorn.DISTANT.modules
        )
        self.assertIn("a&quot;];}b -&gt; c &lt;", drawn(foghorn.DISTANT.model_copy(update={"modules": modules})).svg)


class SheetTest(unittest.TestCase):
    def test_fields_in_code_and_those_that_mean_nothing_stay(self) -> None:
        read = {"the cutoff of Bell": "420 Hz", "nothing": None}
        text = "At {the cutoff of Bell}, `{the cutoff of Bell}`, {nothing}."
        self.assertEqual(with_fields(text, read), "At 420 Hz, `{the cutoff of Bell}`, {nothing}.")

    def test_what_a_step_has_not_changed_is_not_new(self) -> None:
        first, second = laid_out(LESSON, lambda step: {})
        new = {row.title for row in second.modules if row.new}
        self.assertEqual(new, {"Bell mouth"})
        self.assertEqual([row.title for row in first.modules if row.new], ["Breath"])
        changed = {row.title for row in second.modules for value in row.values if value.new}
        self.assertEqual(changed, {"Bell mouth"})

    def test_a_lesson_without_sound_or_steps_can_be_handed_out(self) -> None:
        empty = LessonDocument(title="Empty", steps=(StepContent(title="Nothing"),))
        for document in (empty, LessonDocument(title="None")):
            for form in ("pdf", "html", "package", "markdown"):
                front = Front(document.title, "", "", "By nobody")
                data = handed(Workplace(Studio(), long=True), Wanted(form), document, front, {}, {})
                self.assertGreater(len(data), 100)

    def test_markdown_becomes_text_pictures_and_tables_and_nothing_else(self) -> None:
        found = text_html("# A\n\n<img src=x onerror=alert(1)>\n\n|a|b|\n|-|-|\n|1|2|", {})
        self.assertIn("<h4>A</h4>", found)
        self.assertIn("<table>", found)
        self.assertNotIn("<img", found)


if __name__ == "__main__":
    unittest.main()
