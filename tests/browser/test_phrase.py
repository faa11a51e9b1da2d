"""The phrase: its notes and movements written at the bench, by pointer, by keyboard and typed."""

import tempfile
from pathlib import Path
from typing import Any

import mido
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from inner_tone.demo.foghorn import STEPS
from tests.support.patches import phrase
from tests.support.writing import WritingTest

TUNE = phrase((0, 2, 45), (4, 1, 52), beats=8, tempo=120)


class PhraseTest(WritingTest):
    """A test with the foghorn's patch, and two notes in eight beats: A2 for two beats, E3 for one."""

    def setUp(self) -> None:
        self.begin(STEPS[4].patch, phrase=TUNE)
        self.body().send_keys("4")
        self.there("[data-field=notes]", "the score")

    def phrase(self) -> dict[str, Any]:
        return self.kept("phrase")

    def notes(self) -> list[tuple[float, float, float]]:
        return [(one["start"], one["length"], one["pitch"]) for one in self.phrase()["notes"]]

    def note(self, place: int) -> WebElement:
        found: WebElement = self.there(f"[data-field=notes] [data-piece='{place}']", f"note {place}")
        return found

    def focus_note(self, place: int) -> None:
        self.driver.execute_script("arguments[0].focus()", self.note(place))

    def said(self) -> str:
        """Return what is said of the note or the point in focus."""
        return str(self.driver.switch_to.active_element.get_attribute("aria-valuetext"))

    def wait_said(self, words: str) -> None:
        self.wait(lambda: self.said() == words, words)

    def type_in(self, field: str, text: str) -> None:
        entry = self.there(f"[aria-label='{field}, typed']", field)
        entry.send_keys(Keys.CONTROL, "a")
        entry.send_keys(text, Keys.ENTER)

    def undo(self) -> None:
        self.settle()
        self.push("Undo")


class PointerTest(PhraseTest):
    def drag(self, element: WebElement, across: float, down: float = 0.0, end: bool = False) -> None:
        """Drag a note by some beats and some semitones, by its middle or by its end."""
        box = self.css("[data-field=notes]").rect  # type: ignore[union-attr]
        beat, semitone = box["width"] / 8, box["height"] / 14
        at = element.rect["width"] / 2 - 3 if end else 0
        actions = ActionChains(self.driver).move_to_element_with_offset(element, round(at), 0).click_and_hold()
        actions.move_by_offset(8, 0).move_by_offset(-8, 0)
        actions.move_by_offset(round(across * beat), round(down * semitone)).release().perform()

    def test_note_is_drawn_where_the_pointer_is_pressed_and_as_long_as_it_is_dragged(self) -> None:
        heard = self.render_key()
        box = self.css("[data-field=notes]").rect  # type: ignore[union-attr]
        # the pitches go up from the lowest note with two to spare on either side, fourteen at the least
        row = box["height"] / 14
        field = self.css("[data-field=notes]")
        right, down = round(box["width"] * (2.5 / 8 - 0.5)) + 1, round(-box["height"] / 2 + row / 2)
        actions = ActionChains(self.driver).move_to_element_with_offset(field, right, down).click_and_hold()  # type: ignore[arg-type]
        actions.move_by_offset(20, 0).move_by_offset(round(box["width"] * 1.5 / 8) - 20, 0).release().perform()
        self.wait(lambda: len(self.notes()) == 3, "another note")
        start, length, pitch = self.notes()[1]
        self.assertEqual((start, length), (2.5, 1.5))
        self.assertGreater(pitch, 52)
        self.wait_said(self.note(1).get_attribute("aria-valuetext") or "")
        self.assertNotEqual(self.render_key(), heard)
        self.undo()
        self.wait(lambda: self.notes() == [(0, 2, 45), (4, 1, 52)], "what was there before, in one step back")

    def test_note_is_moved_and_made_longer(self) -> None:
        self.drag(self.note(1), across=-1.5, down=2)
        self.wait(lambda: self.notes()[1] == (2.5, 1, 50), "the note elsewhere")
        self.drag(self.note(0), across=-0.75, end=True)
        self.wait(lambda: self.notes()[0] == (0, 1.25, 45), "a shorter note")

    def test_click_on_a_note_only_chooses_it(self) -> None:
        self.note(1).click()
        self.assertEqual(self.css("[aria-label='Note, typed']").get_attribute("value"), "E3")  # type: ignore[union-attr]
        self.assertEqual(self.notes(), [(0, 2, 45), (4, 1, 52)])


class MidiTest(PhraseTest):
    def test_phrase_is_taken_from_a_file_in_which_a_track_is_chosen_and_what_is_none_changes_nothing(self) -> None:
        before = self.notes()
        with tempfile.TemporaryDirectory() as folder:
            two, bad = Path(folder) / "two.mid", Path(folder) / "bad.mid"
            file = mido.MidiFile(ticks_per_beat=480)
            for pitch, count in ((48, 1), (60, 2)):
                beat = [mido.Message("note_on", note=pitch), mido.Message("note_off", note=pitch, time=480)]
                file.tracks.append(
                    mido.MidiTrack([mido.MetaMessage("track_name", name=f"Part {count}"), *beat * count])
                )
            file.save(two)
            bad.write_bytes(two.read_bytes()[:-4])
            self.choose_file("input[aria-label='A MIDI file']", bad)
            self.says("[role=dialog]", "ends before", "what is wrong with the file")
            self.press(Keys.ESCAPE)
            self.assertEqual(self.notes(), before)
            self.choose_file("input[aria-label='A MIDI file']", two)
            self.there("//button[starts-with(., 'Part 2, 2 notes')]", "the tracks").click()
            self.wait(lambda: len(self.notes()) == 2, "the notes of the track")
            self.undo()
            self.wait(lambda: self.notes() == before, "the notes before to be back")


class KeyboardTest(PhraseTest):
    def test_arrows_move_a_note_and_its_end(self) -> None:
        self.focus_note(1)
        self.assertEqual(self.said(), "E3 at beat 5, 1 beat long")
        self.press(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ARROW_LEFT, Keys.PAGE_DOWN)
        self.wait_said("F♯2 at beat 4.75, 1 beat long")
        self.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
        self.wait_said("F♯2 at beat 4.75, 1.25 beats long")
        self.assertEqual(self.notes()[1], (3.75, 1.25, 42))

    def test_note_that_passes_another_keeps_the_focus(self) -> None:
        self.focus_note(1)
        for left in range(1, 17):
            self.press(Keys.ARROW_LEFT)
            self.wait_said(f"E3 at beat {5 - left / 4:g}, 1 beat long")
        self.press(Keys.ARROW_DOWN, Keys.PAGE_DOWN)
        self.wait_said("D♯2 at beat 1, 1 beat long")
        self.assertEqual(self.notes(), [(0, 1, 39), (0, 2, 45)])

    def test_note_is_added_behind_and_deleted(self) -> None:
        self.focus_note(0)
        self.press(Keys.ENTER)
        self.wait_said("A2 at beat 3, 2 beats long")
        self.press(Keys.DELETE)
        self.wait(lambda: self.notes() == [(0, 2, 45), (4, 1, 52)], "the note to go")
        self.assertEqual(len(self.modules()), len(STEPS[4].patch.modules), "the card that is selected stays")
        self.undo()
        self.wait(lambda: self.notes() == [(0, 2, 45), (2, 2, 45), (4, 1, 52)], "deleting alone to be taken back")

    def test_last_note_may_go_and_another_come(self) -> None:
        for left in (1, 0):
            self.focus_note(0)
            self.press(Keys.BACKSPACE)
            self.wait(lambda left=left: len(self.notes()) == left, "the note to go")
        self.assertIn("No notes yet", self.text_of("[data-field=notes]"))
        self.push("Add a note")
        self.wait(lambda: self.notes() == [(0, 1, 57)], "a note")

    def test_typed_values_are_taken_and_wrong_ones_are_explained(self) -> None:
        self.focus_note(1)
        self.type_in("Note", "c#3")
        self.type_in("Begins at beat", "6.5")
        self.type_in("Lasts", "0.4")
        self.wait(lambda: self.notes()[1] == (5.5, 0.4, 49), "the note as typed")
        self.type_in("Note", "h9")
        self.says("[role=alert]", "“h9” is no note", "what is wrong")
        self.type_in("Note", "A1 +50 cents")
        self.wait(lambda: self.notes()[1] == (5.5, 0.4, 33.5), "a note between the keys")

    def test_tempo_and_length(self) -> None:
        self.type_in("Beats a minute", "60")
        self.type_in("Length", "4")
        self.says("[role=alert]", "Choose from 4.25 beats", "the last note's beginning")
        self.type_in("Length", "4.5")
        self.wait(lambda: self.notes() == [(0, 2, 45), (4, 0.5, 52)], "the last note cut at the end")
        self.assertEqual((self.phrase()["tempo"], self.phrase()["beats"]), (60, 4.5))

    def test_change_is_taken_back_after_a_reload(self) -> None:
        self.focus_note(1)
        self.press(Keys.ARROW_UP)
        self.wait(lambda: self.notes()[1] == (4, 1, 53), "the note to be kept higher")
        self.driver.refresh()
        self.settle()
        self.undo()
        self.wait(lambda: self.notes()[1] == (4, 1, 52), "the note as it was")

    def test_the_name(self) -> None:
        name = self.css("[aria-label='Name of the phrase']")
        name.send_keys("Two calls")  # type: ignore[union-attr]
        self.says("[aria-label=Playing]", "Two calls", "the name beside the sound")
        self.assertEqual(self.phrase()["title"], "Two calls")


class MovementTest(PhraseTest):
    def test_wheel_is_moved_by_points_and_taken_out(self) -> None:
        heard = self.render_key()
        self.push("Move a control…")
        self.push("Wheel")
        lane = self.there("[data-field=wheel]", "the lane")
        ActionChains(self.driver).move_to_element_with_offset(
            lane, 0, round(2 - lane.rect["height"] / 2)
        ).click().perform()
        self.wait(lambda: len(self.phrase()["gestures"][0]["points"]) == 2, "another point")
        (beat, value) = self.phrase()["gestures"][0]["points"][1]
        self.assertEqual(beat, 4)
        self.assertGreater(value, 0.9)
        self.press(Keys.PAGE_DOWN, Keys.ARROW_UP, Keys.ARROW_UP, Keys.ARROW_RIGHT)
        self.wait_said("10 % at beat 5.25")
        self.type_in("Stands at", "42.5")
        self.wait(lambda: self.phrase()["gestures"][0]["points"][1] == [4.25, 0.425], "the typed position")
        self.type_in("Wheel, point 2: at beat", "3.1")
        self.wait(lambda: self.phrase()["gestures"][0]["points"][1] == [2.1, 0.425], "the typed beat")
        self.settle()
        self.assertNotEqual(self.render_key(), heard, "the wheel steers the bell's mouth")
        self.assert_accessible()
        self.push("Take out the movement of Wheel")
        self.wait(lambda: self.phrase()["gestures"] == [], "no movement")

    def test_bend_goes_both_ways(self) -> None:
        self.push("Move a control…")
        self.push("Bend")
        point = self.there("[data-field=bend] [data-piece]", "the point")
        self.driver.execute_script("arguments[0].focus()", point)
        self.press(Keys.PAGE_DOWN)
        self.wait_said("−100 % at beat 1")
        self.press(Keys.ARROW_DOWN, Keys.ARROW_LEFT)
        self.wait(lambda: self.phrase()["gestures"] == [{"control": "bend", "points": [[0, -1]]}], "the lowest")


class ElsewhereTest(WritingTest):
    def phrases(self, lesson: str) -> list[int]:
        with self.application.client() as client:
            steps = client.get(f"/api/lessons/{lesson}").json()["steps"]
        return [len(one["content"]["phrase"]["notes"]) for one in steps]

    def test_phrase_is_given_to_the_later_steps(self) -> None:
        lesson = self.open_foghorn(3)
        before = self.phrases(lesson)
        self.body().send_keys("4")
        self.push("Add a note")
        self.push("Play it in 2 later steps too")
        self.gone("//button[contains(., 'Play it in')]", "nothing left to give")
        self.settle()
        after = self.phrases(lesson)
        self.assertEqual(after[:2], before[:2], "earlier steps play what they played")
        self.assertEqual(after[2:], [before[2] + 1] * 3)

    def test_detour_plays_the_phrase_of_its_step_until_it_has_its_own(self) -> None:
        self.open_foghorn(4)
        self.push("Branch off here")
        self.there("[data-detour] input", "the detour")
        self.body().send_keys("4")
        self.there("//*[starts-with(text(), 'The detour plays the phrase of its step')]", "whose it is")
        before = len(self.all_css("[data-field=notes] [data-piece]"))
        self.push("Add a note")
        self.wait(lambda: len(self.all_css("[data-field=notes] [data-piece]")) == before + 1, "one note more")
        self.settle()
        self.push("Back to the step")
        self.wait(lambda: len(self.all_css("[data-field=notes] [data-piece]")) == before, "the phrase of the step")
        self.push("Build it")
        self.wait(lambda: len(self.all_css("[data-field=notes] [data-piece]")) == before + 1, "that of the detour")
        self.push("Play the phrase of the step again")
        self.wait(lambda: len(self.all_css("[data-field=notes] [data-piece]")) == before, "that of the step again")

    def test_learner_reads_it(self) -> None:
        self.open_step(5, "practice")
        self.body().send_keys("4")
        note = self.there("[data-field=notes] [data-piece]", "the notes")
        self.assertEqual(note.get_attribute("aria-readonly"), "true")
        said = note.get_attribute("aria-valuetext")
        self.driver.execute_script("arguments[0].focus()", note)
        self.press(Keys.ARROW_UP, Keys.DELETE)
        self.assertEqual(self.css("[data-field=notes] [data-piece]").get_attribute("aria-valuetext"), said)  # type: ignore[union-attr]
        self.assert_accessible()
