"""Signing in and out, making an account, and what each role finds."""

import unittest

from selenium.webdriver.common.keys import Keys

from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.seed import JONAS, MAREN
from tests.support.browser import BrowserTest, sign_in_browser

HAUKE = DemoAccount(sign_in="hauke", name="Hauke Petersen", role="educator", password="a long password")


HOLD_REFUSALS = """
    const fetched = window.fetch;
    window.held = [];
    window.letGo = () => { window.fetch = fetched; window.held.forEach((release) => release()); };
    window.fetch = async (request) => {
        const answer = await fetched(request);
        if (answer.status === 401) await new Promise((release) => window.held.push(release));
        return answer;
    };
"""
HOLD_THE_LESSON = """
    const fetched = window.fetch;
    let release;
    const kept = new Promise((resolve) => { release = resolve; });
    window.fetch = async (request) => {
        const answer = await fetched(request);
        if (request.method === "GET" && /lessons[/][^/]+$/.test(request.url)) await kept;
        if (request.method === "PUT" && request.url.includes("/api/steps/") && answer.ok) setTimeout(release, 300);
        return answer;
    };
"""
HOLD_THE_SIGN_IN = """
    const fetched = window.fetch;
    let release;
    window.refused = false;
    const tried = new Promise((resolve) => { release = resolve; });
    window.fetch = async (request) => {
        const answer = await fetched(request);
        if (request.method === "POST" && request.url.endsWith("/api/account/session")) await tried;
        if (answer.status === 403) { window.refused = true; release(); }
        return answer;
    };
"""


class AccountTest(BrowserTest):
    def setUp(self) -> None:
        self.driver.delete_all_cookies()

    def entry(self, label: str) -> None:
        """Put the focus into a field."""
        self.click(f"//label[span[normalize-space()='{label}']]/input")

    def enter(self, label: str, text: str) -> None:
        self.entry(label)
        self.press(Keys.CONTROL, "a")
        self.press(text)

    def test_sign_in_leads_to_where_one_wanted_to_be(self) -> None:
        self.open("/account")
        self.there("//h2[.='Sign in']", "the sign-in")
        self.assert_accessible()
        self.enter("Sign-in name", "maren")
        self.enter("Password", "not this one")
        self.press(Keys.ENTER)
        told = self.there("[role=alert]", "to be told")
        self.assertIn("name or the password is wrong", told.text)
        self.enter("Password", MAREN.password)
        self.press(Keys.ENTER)
        self.there("//h1[.='Maren Holt']", "the account")
        self.assert_accessible()

    def test_account_is_made_signed_out_everywhere_and_signed_in_again(self) -> None:
        self.open("/shelf")
        self.push("Make an account")
        self.enter("Sign-in name", "antje")
        self.enter("Your name, as others see it", "Antje Reimers")
        self.enter("Password", "short")
        self.press(Keys.ENTER)
        self.assertIn("at least 10", self.text_of("[role=alert]"))
        self.assert_accessible()
        self.enter("Password", "a harbour at night")
        self.press(Keys.ENTER)
        self.there("//h2[.='Your account is made']", "the account")
        name = self.text_of("section[aria-label='The new account'] p:nth-of-type(2)")
        self.assertRegex(name, r"^antje\d{3}$")
        self.assert_accessible()
        self.press(Keys.ENTER)
        self.there("//a[.='Antje Reimers']", "her name")
        self.there("//h2/a[text()='Foghorn']", "what is published")
        self.assertFalse(self.find("//a[text()='Open at the desk']"), "a learner has no desk")
        self.assert_accessible()
        self.open("/account")
        self.push("Sign out everywhere")
        self.there("//h2[.='Sign in']", "to be signed out")
        self.enter("Sign-in name", name.title())
        self.enter("Password", "a harbour at night")
        self.press(Keys.ENTER)
        self.there("//h1[.='Antje Reimers']", "the account again")

    def test_demo_offers_its_accounts(self) -> None:
        self.open("/shelf")
        self.there("//h2[.='Sign in']", "the sign-in")
        self.assertFalse(self.css("section[aria-label*='demo']"), "only the demo offers them")

    def write_and_be_signed_out(self) -> str:
        """Change the title of a lesson's step after the sign-in has ended elsewhere; returns the lesson's id."""
        sign_in_browser(self.driver, self.application, HAUKE)
        with self.application.client(HAUKE) as client:
            lesson = client.post("/api/lessons", json={"title": "Gulls", "template": "tone"}).json()
            self.open(f"/desk/{lesson['id']}/1")
            self.settle()
            self.driver.execute_script(HOLD_REFUSALS)  # the page must not notice while one types
            client.delete("/api/account/sessions")
        title = self.css("h1 textarea")
        assert title is not None
        title.send_keys(Keys.CONTROL, "a")
        title.send_keys("Gulls at dawn")
        self.driver.execute_script("letGo()")
        self.there("//h2[.='Sign in']", "to be asked to sign in")
        return str(lesson["id"])

    def sign_in_again(self) -> None:
        """Enter name and password where one is asked for them."""
        self.enter("Sign-in name", "hauke")
        self.enter("Password", HAUKE.password)
        self.press(Keys.ENTER)

    def assert_title_is_kept(self, lesson: str) -> None:
        """Check that what was written last is what the server has, and that the page says so."""
        self.there("[data-keeping=kept]", "everything kept")
        with self.application.client(HAUKE) as client:
            kept = client.get(f"/api/lessons/{lesson}").json()
        self.assertEqual(kept["steps"][0]["content"]["title"], "Gulls at dawn")

    def test_sign_in_that_ends_while_one_writes_loses_nothing(self) -> None:
        lesson = self.write_and_be_signed_out()
        self.sign_in_again()
        self.assert_title_is_kept(lesson)

    def test_answer_from_before_that_comes_late_does_not_sign_out_again(self) -> None:
        lesson = self.write_and_be_signed_out()
        self.driver.execute_script(HOLD_REFUSALS)
        self.wait(lambda: self.driver.execute_script("return held.length"), "another try to keep it")
        self.sign_in_again()
        self.there("[data-keeping]", "the desk again")
        self.driver.execute_script("letGo()")
        self.assert_title_is_kept(lesson)

    def test_change_that_is_sent_while_one_signs_in_is_kept(self) -> None:
        """The browser shows the new sign-in from the answer's arrival on, before the page has read its token."""
        lesson = self.write_and_be_signed_out()
        self.driver.execute_script(HOLD_THE_SIGN_IN)
        self.sign_in_again()
        self.wait(lambda: self.driver.execute_script("return refused"), "a try with the old token")
        self.assert_title_is_kept(lesson)

    def test_lesson_that_comes_after_what_one_wrote_was_kept_is_shown(self) -> None:
        """The desk asks for the lesson again, and what was written is kept before that is answered."""
        lesson = self.write_and_be_signed_out()
        self.driver.execute_script(HOLD_THE_LESSON)
        self.sign_in_again()
        self.assert_title_is_kept(lesson)
        title = self.css("h1 textarea")
        assert title is not None
        self.assertEqual(title.get_property("value"), "Gulls at dawn")

    def test_learner_at_the_desk_of_somebody_else_is_told(self) -> None:
        with self.application.client(MAREN) as client:
            lesson = client.get("/api/lessons").json()[0]
        sign_in_browser(self.driver, self.application, JONAS)
        self.open(f"/desk/{lesson['id']}/1")
        self.says("main [role=alert]", "no such lesson", "to be told")
        self.assert_accessible()


if __name__ == "__main__":
    unittest.main()
