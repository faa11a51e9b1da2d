"""A class in the browser: begun, joined by its code, followed as it goes on, answered, and left."""

import unittest
import uuid

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
        self.wait(lambda: self.find("//p[contains(., 'Nobody has joined yet')]"), "the empty class")
        self.assert_accessible()
        self.pick("A published lesson", f"{self.called} (by Maren Holt)")
        self.push("Set it")
        self.wait(lambda: self.find(f"//a[.='{self.called}']"), "the lesson to be set")
        assert code is not None
        return code

    def join(self, code: str) -> None:
        sign_in_browser(self.driver, self.application, self.learner)
        self.open("/shelf")
        self.enter("The code of a class", "wrong code")
        self.press(Keys.ENTER)
        self.wait(lambda: "no class with this code" in self.text_of("form [role=alert]"), "to be told")
        self.press(Keys.CONTROL, "a")
        self.press(f"{code[:3]} {code[3:]}".lower())
        self.press(Keys.ENTER)
        self.wait(lambda: self.css("[data-joined='Monday at the pier']"), "the class")
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
        self.wait(lambda: self.css("[data-own-keeping=kept]"), "the own bench")
        self.choose("Variants…", "Let it be shown to the class")
        self.wait(lambda: "may be shown" in self.text_of("[data-variant]"), "the agreement")
        self.push("How near am I?")
        self.wait(lambda: self.css("[data-near]"), "the answer")
        self.push("A hint")
        self.push("Ask the educator")
        self.wait(lambda: self.css("[data-questions] textarea"), "the place to ask")
        self.press("What is the attack of?")
        self.push("Ask")
        self.wait(lambda: "not answered yet" in self.text_of("[data-questions]"), "the question")

        sign_in_browser(self.driver, self.application, MAREN)
        self.driver.get(board)
        self.wait(lambda: self.css("[data-asks='Wiebke Hansen']"), "the question to be there")
        self.wait(lambda: self.find("//button[@aria-pressed='true'][contains(., '1 here')]"), "the step with her")
        self.assert_accessible()
        self.css("[data-question=open] textarea").send_keys("Of the envelope.")  # type: ignore[union-attr]
        self.push("Answer")
        self.wait(lambda: self.css("[data-question=answered]"), "the answer")
        self.click("[data-at-work='Wiebke Hansen'] td:nth-of-type(4) a")
        self.wait(lambda: self.css("[data-looked-at='Wiebke Hansen'] [data-may-show=true]"), "her bench")
        self.settle()
        self.assertFalse(self.find("//button[.='Undo']"), "nothing can be changed here")
        self.press("p")
        self.wait(lambda: self.css("[data-projector]"), "the projector’s view")
        self.press(Keys.ESCAPE)

        self.leave()
        sign_in_browser(self.driver, self.application, MAREN)
        self.driver.get(board)
        self.wait(lambda: self.find("//p[contains(., 'Nobody has joined the class yet')]"), "nobody to be there")

    def leave(self) -> None:
        """Leave the class, with one's work; the answer is there."""
        sign_in_browser(self.driver, self.application, self.learner)
        self.open(f"/practice/{self.lesson}/4")
        self.wait(lambda: "Of the envelope." in self.text_of("[data-questions]"), "the answer")
        self.open("/shelf")
        self.push("Leave…")
        self.wait(lambda: self.css("[role=dialog]"), "the question what becomes of the work")
        self.assert_accessible()
        self.push("Leave, and keep my work")
        self.wait(lambda: not self.css("[data-joined]"), "the class to be gone")
        self.open(f"/practice/{self.lesson}/4")
        self.wait(lambda: "Of the envelope." in self.text_of("[data-questions]"), "the work to be there")

    def test_a_bench_that_its_owner_keeps_to_herself_is_not_projected(self) -> None:
        sign_in_browser(self.driver, self.application, MAREN)
        self.open("/classes")
        self.click("//a[.='Tuesday evening on the mole']")
        self.click("//main//ol//a[.='Foghorn']")
        self.click("[data-at-work='Bente Carstens'] td:nth-of-type(4) a")
        self.wait(lambda: self.css("[data-looked-at='Bente Carstens'] [data-may-show=false]"), "her bench")
        self.settle()
        self.press("p")
        told = self.wait(lambda: self.css("[role=alert]"), "to be told")
        self.assertIn("has not agreed", told.text)
        self.assertFalse(self.css("[data-projector]"))
        self.push("Close")

    def test_who_is_in_no_class_sees_none(self) -> None:
        sign_in_browser(self.driver, self.application, JONAS)
        self.open(f"/classes/{uuid.uuid4()}")
        self.wait(lambda: self.css("[role=alert]"), "to be told")


if __name__ == "__main__":
    unittest.main()
