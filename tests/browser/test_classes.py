"""A class in the browser: begun, joined by its code, followed as it goes on, answered, and left."""

import unittest
import uuid

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.foghorn import LESSON
from inner_tone.demo.seed import JONAS, MAREN
from inner_tone.store.accounts import account_called
from inner_tone.store.database import connect, sessions
from inner_tone.store.editions import publish
from tests.support.browser import sign_in_browser
from tests.support.writing import WritingTest


class ClassTest(WritingTest):
    def setUp(self) -> None:
        self.learner = DemoAccount(
            sign_in=f"wiebke-{uuid.uuid4().hex[:6]}", name="Wiebke Hansen", role="learner", password="a long password"
        )
        self.called = f"A horn for {uuid.uuid4().hex[:6]}"
        document = LESSON.model_copy(update={"title": self.called})
        self.lesson = self.application.make(document)
        engine = connect(self.application.database)
        with sessions(engine).begin() as session:
            maren = account_called(session, MAREN.sign_in)
            assert maren is not None
            publish(session, uuid.UUID(self.lesson), document, maren.id)
        engine.dispose()

    def tearDown(self) -> None:
        sign_in_browser(self.driver, self.application, MAREN)

    def enter(self, label: str, text: str) -> None:
        self.click(f"//label[span[normalize-space()='{label}']]/input")
        self.press(text)

    def begin_class(self) -> str:
        """Begin a class and set the lesson to it; returns its code."""
        sign_in_browser(self.driver, self.application, MAREN)
        self.open("/classes")
        self.enter("A new class", "Monday at the pier")
        self.press(Keys.ENTER)
        code = self.attribute("[data-code]", "data-code")
        self.there("//p[contains(., 'Nobody has joined yet')]", "the empty class")
        self.assert_accessible()
        self.pick("A published lesson", f"{self.called} (by Maren Holt)")
        self.push("Set it")
        self.there(f"//a[.='{self.called}']", "the lesson to be set")
        assert code is not None
        return code

    def join(self, code: str) -> None:
        sign_in_browser(self.driver, self.application, self.learner)
        self.open("/shelf")
        self.enter("The code of a class", "wrong code")
        self.press(Keys.ENTER)
        self.says("form [role=alert]", "no class with this code", "to be told")
        self.press(Keys.CONTROL, "a")
        self.press(f"{code[:3]} {code[3:]}".lower())
        self.press(Keys.ENTER)
        self.there("[data-joined='Monday at the pier']", "the class")
        self.assert_accessible()

    def test_a_class_from_its_beginning_to_its_end(self) -> None:
        code = self.begin_class()
        board = f"{self.driver.current_url}/{self.lesson}"
        self.join(code)
        self.click(f"//section[@data-joined]//a[.='{self.called}']")
        self.settle()
        self.open(f"/practice/{self.lesson}/4")
        self.settle()
        self.push("My own bench")
        self.there("[data-own-keeping=kept]", "the own bench")
        self.choose("Variants…", "Let it be shown to the class")
        self.says("[data-variant]", "may be shown", "the agreement")
        self.push("How near am I?")
        self.there("[data-near]", "the answer")
        self.push("A hint")
        self.push("Ask the educator")
        self.there("[data-questions] textarea", "the place to ask")
        self.press("What is the attack of?")
        self.push("Ask")
        self.says("[data-questions]", "not answered yet", "the question")

        sign_in_browser(self.driver, self.application, MAREN)
        self.driver.get(board)
        self.there("[data-asks='Wiebke Hansen']", "the question to be there")
        self.there("//button[@aria-pressed='true'][contains(., '1 here')]", "the step with her")
        self.assert_accessible()
        self.css("[data-question=open] textarea").send_keys("Of the envelope.")  # type: ignore[union-attr]
        self.push("Answer")
        self.there("[data-question=answered]", "the answer")
        self.click("[data-at-work='Wiebke Hansen'] td:nth-of-type(4) a")
        self.there("[data-looked-at='Wiebke Hansen'] [data-may-show=true]", "her bench")
        self.settle()
        self.assertFalse(self.find("//button[.='Undo']"), "nothing can be changed here")
        self.press("p")
        self.there("[data-projector]", "the projector’s view")
        self.press(Keys.ESCAPE)

        self.leave()
        sign_in_browser(self.driver, self.application, MAREN)
        self.driver.get(board)
        self.there("//p[contains(., 'Nobody has joined the class yet')]", "nobody to be there")

    def leave(self) -> None:
        """Leave the class, with one's work; the answer is there."""
        sign_in_browser(self.driver, self.application, self.learner)
        self.open(f"/practice/{self.lesson}/4")
        self.says("[data-questions]", "Of the envelope.", "the answer")
        self.open("/shelf")
        self.push("Leave…")
        self.there("[role=dialog]", "the question what becomes of the work")
        self.assert_accessible()
        self.push("Leave, and keep my work")
        self.gone("[data-joined]", "the class to be gone")
        self.open(f"/practice/{self.lesson}/4")
        self.says("[data-questions]", "Of the envelope.", "the work to be there")

    def test_date_is_kept_once_it_is_whole_and_what_is_wrong_with_it_is_said(self) -> None:
        self.begin_class()
        field = f"input[aria-label='Date for “{self.called}”']"
        self.type_date(field, "120820")
        self.assertEqual(self.due(), None, "the year is not whole")
        ActionChains(self.driver).send_keys("26").perform()
        self.assertEqual(self.due(), None, "somebody is still typing")
        ActionChains(self.driver).send_keys(Keys.TAB, Keys.TAB).perform()
        self.wait(lambda: self.due() == "2026-12-08", "the date to be kept")
        self.type_date(field, f"12080026{Keys.ENTER}")
        self.says("[role=alert]", "year 26 cannot be meant", "to be told what is wrong")
        self.assertEqual(self.due(), "2026-12-08")
        self.assert_accessible()
        ActionChains(self.driver).send_keys(Keys.ESCAPE).perform()
        self.wait(lambda: self.attribute(field, "value") == "2026-12-08", "the date that is kept")
        self.type_date(field, f"{Keys.DELETE}{Keys.ENTER}")
        self.says("[role=alert]", "no whole date", "to be told that something is missing")
        self.assertEqual(self.due(), "2026-12-08", "what is half gone is not gone")

    def type_date(self, field: str, keys: str) -> None:
        """Type into a date from its first part on, key by key."""
        self.driver.execute_script("document.activeElement.blur()")
        self.focus(field)
        ActionChains(self.driver).send_keys(*keys).perform()

    def due(self) -> str | None:
        """Return for when the lesson is set, as it is kept."""
        with self.application.client() as client:
            found = client.get(f"/api/classes/{self.driver.current_url.rsplit('/', 1)[1]}").json()
        return str(found["lessons"][0]["due"]) if found["lessons"][0]["due"] else None

    def test_who_is_in_no_class_sees_none(self) -> None:
        sign_in_browser(self.driver, self.application, JONAS)
        self.open(f"/classes/{uuid.uuid4()}")
        self.there("[role=alert]", "to be told")


class EveningTest(WritingTest):
    def test_a_bench_that_its_owner_keeps_to_herself_is_not_projected(self) -> None:
        self.school.open_class()
        self.open("/classes")
        self.click("//a[.='Tuesday evening on the mole']")
        self.click("//main//ol//a[.='Foghorn']")
        self.click("[data-at-work='Bente Carstens'] td:nth-of-type(4) a")
        self.there("[data-looked-at='Bente Carstens'] [data-may-show=false]", "her bench")
        self.settle()
        self.press("p")
        told = self.there("[role=alert]", "to be told")
        self.assertIn("has not agreed", told.text)
        self.assertFalse(self.css("[data-projector]"))
        self.push("Close")


if __name__ == "__main__":
    unittest.main()
