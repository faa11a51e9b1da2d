"""Patches and phrases from files at the bench: in the place of what is there, and beside it; dropped, and refused."""

import json
import unittest
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from inner_tone.demo.fog import LESSON as FOG
from inner_tone.demo.foghorn import BLASTS
from tests.support.writing import WritingTest

DROP = """
  const [name, text] = arguments;
  const carried = new DataTransfer();
  carried.items.add(new File([text], name, { type: "application/json" }));
  const map = document.querySelector("[data-map]");
  for (const kind of ["dragover", "drop"])
    map.dispatchEvent(new DragEvent(kind, { dataTransfer: carried, bubbles: true, cancelable: true }));
"""
PATCH = FOG.steps[-1].patch
FIELD = "[role=dialog] input[type=file]"
AS_FILE = json.dumps(PATCH.to_json()).encode()


class DocumentTest(WritingTest):
    def cards(self) -> int:
        return len(self.all_css("[data-map] [data-card]"))

    def give(self, file: Path) -> None:
        """Open the panel and choose a file in it."""
        self.choose("Do…", "Open a patch or a phrase from a file…")
        self.choose_file(FIELD, file)

    def test_a_patch_from_a_file_takes_the_place_or_stands_beside(self) -> None:
        self.open_foghorn(2)
        before = self.cards()
        file = self.file("fog.json", AS_FILE)
        self.give(file)
        self.push("In the place of this patch")
        self.wait(lambda: self.cards() == len(PATCH.modules), "the patch of the file")
        self.settle()
        self.push("Undo")
        self.wait(lambda: self.cards() == before, "what was there")
        self.settle()
        self.give(file)
        self.push("Beside what is here")
        self.wait(lambda: self.cards() > len(PATCH.modules), "both")
        self.settle()

    def test_a_file_that_was_refused_is_chosen_again_once_it_is_mended(self) -> None:
        self.open_foghorn(2)
        file = self.file("fog.json", b'{"format": "inner-tone/patch", "modules": 3}')
        self.give(file)
        self.says("[role=dialog] [role=alert]", "modules", "to be told")
        file.write_bytes(AS_FILE)
        self.choose_file(FIELD, file)
        self.push("In the place of this patch")
        self.wait(lambda: self.cards() == len(PATCH.modules), "the patch of the file")
        self.settle()

    def test_what_is_dropped_is_opened_or_refused(self) -> None:
        self.open_foghorn(5)
        self.driver.execute_script(DROP, "horn.json", json.dumps({"format": "inner-tone/patch", "modules": 3}))
        self.there("//*[@role='status'][contains(., 'modules')]", "to be told")
        phrase = BLASTS.model_copy(update={"title": "From a file", "tempo": 133.0})
        self.driver.execute_script(DROP, "phrase.json", phrase.model_dump_json())
        self.there("//*[contains(., 'at 133')]", "the phrase")
        self.settle()
        self.press(Keys.ESCAPE)


if __name__ == "__main__":
    unittest.main()
