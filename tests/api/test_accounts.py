"""Signing in and out over HTTP: the cookie, the limits, the other browsers."""

import unittest
from concurrent.futures import ThreadPoolExecutor

import httpx

from inner_tone.api.access import COOKIE
from inner_tone.api.accounts import DemoAccount
from inner_tone.api.limits import WRONG_FOR_ONE
from inner_tone.cli.invite import invited
from inner_tone.demo.seed import JONAS, MAREN
from tests.support import plain
from tests.support.api import ApiTest
from tests.support.application import Application, client_of


class SignInTest(ApiTest):
    alone = True  # tries are counted for an address

    def wish(self, who: DemoAccount, **other: str) -> dict[str, str]:
        return {"sign_in": who.sign_in, "password": who.password} | other

    def post(self, body: dict[str, str]) -> httpx.Response:
        return plain.post(f"{self.application.address}/api/account/session", json=body, timeout=30)

    def test_cookie_is_kept_from_scripts_and_other_sites(self) -> None:
        answer = self.post(self.wish(JONAS))
        cookie = answer.headers["set-cookie"].lower()
        for word in ("httponly", "samesite=strict", "path=/", "max-age="):
            self.assertIn(word, cookie)
        self.assertNotIn(answer.cookies[COOKIE], answer.text, "what the cookie holds is nowhere else")
        self.assertEqual(answer.json()["me"], {"sign_in": "jonas", "name": "Jonas Lind", "role": "learner"})

    def test_cookie_is_for_encrypted_connections_only_where_there_is_one(self) -> None:
        trusting = Application(trusted_proxies="127.0.0.0/8")
        self.addCleanup(trusting.stop)
        for application, scheme in ((trusting, "http"), (trusting, "https"), (self.application, "https")):
            address = f"{application.address}/api/account/session"
            answer = plain.post(address, json=self.wish(JONAS), headers={"X-Forwarded-Proto": scheme}, timeout=30)
            secure = scheme == "https" and application is trusting
            self.assertEqual("secure" in answer.headers["set-cookie"].lower(), secure)
            self.assertEqual("strict-transport-security" in answer.headers, secure)

    def test_who_asks_is_believed_of_a_trusted_proxy_alone(self) -> None:
        trusting = Application(trusted_proxies="127.0.0.1", watchers="192.0.2.7")
        self.addCleanup(trusting.stop)
        for application, near, far in ((trusting, 403, 200), (self.application, 200, 200)):
            for address, status in (("192.0.2.9", near), ("192.0.2.7", far)):
                told = {"X-Forwarded-For": address}
                answer = plain.get(f"{application.address}/metrics", headers=told, timeout=30)
                self.assertEqual(answer.status_code, status, answer.text)

    def test_wrong_password_and_unknown_name_are_told_alike(self) -> None:
        wrong = self.assert_problem(self.post(self.wish(MAREN, password="wrong")), 401)
        unknown = self.assert_problem(self.post(self.wish(MAREN, sign_in="nobody.at.all")), 401)
        self.assertEqual(wrong, unknown)

    def test_too_many_wrong_passwords_are_refused_for_a_while_even_if_one_is_right_then(self) -> None:
        who = DemoAccount(sign_in="target", name="Target", role="learner", password="a long password")
        self.application.client(who).close()
        for _ in range(WRONG_FOR_ONE.amount):
            self.assert_problem(self.post(self.wish(who, password="a guess")), 401)
        answer = self.post(self.wish(who))
        self.assert_problem(answer, 429)
        self.assertGreater(int(answer.headers["retry-after"]), 60)
        self.assertEqual(self.post(self.wish(MAREN)).status_code, 200, "others are let in")

    def test_strangers_wrong_passwords_do_not_lock_an_owner_out(self) -> None:
        who = DemoAccount(sign_in="owner", name="Owner", role="learner", password="a long password")
        self.application.client(who).close()
        own = plain.client(base_url=self.application.address, timeout=30)
        self.assertEqual(own.post("/api/account/session", json=self.wish(who)).status_code, 200)
        while self.post(self.wish(who, password="a guess")).status_code == 401:
            pass
        self.assert_problem(self.post(self.wish(who)), 429)
        self.assertEqual(own.post("/api/account/session", json=self.wish(who)).status_code, 200, "a known browser")
        for _ in range(WRONG_FOR_ONE.amount):
            self.assert_problem(own.post("/api/account/session", json=self.wish(who, password="a guess")), 401)
        self.assert_problem(own.post("/api/account/session", json=self.wish(who)), 429)

    def test_many_at_once_are_counted_before_they_are_known(self) -> None:
        who = DemoAccount(sign_in="crowded", name="Crowded", role="learner", password="a long password")
        self.application.client(who).close()
        with ThreadPoolExecutor(20) as pool:
            answers = list(pool.map(lambda _: self.post(self.wish(who, password="a guess")).status_code, range(20)))
        self.assertLessEqual(answers.count(401), WRONG_FOR_ONE.amount)
        self.assertEqual(set(answers), {401, 429})

    def test_tries_are_counted_after_a_start_anew_too(self) -> None:
        who = DemoAccount(sign_in="restarted", name="Restarted", role="learner", password="a long password")
        self.application.client(who).close()
        while self.post(self.wish(who, password="a guess")).status_code == 401:
            pass
        self.own.stop()
        self.own.start()
        self.assert_problem(self.post(self.wish(who)), 429)

    def test_accounts_that_cannot_be_made(self) -> None:
        made = {"sign_in": "hauke", "name": "Hauke", "role": "learner", "password": "a long password"}
        address = f"{self.application.address}/api/account"
        for change, where in (
            ({"password": "short"}, "password"),
            ({"sign_in": "two words"}, "sign_in"),
            ({"role": "owner"}, "role"),
            ({"name": ""}, "name"),
        ):
            problem = self.assert_problem(plain.post(address, json=made | change, timeout=30), 422)
            self.assertEqual([one["path"] for one in problem["problems"]], [where])
        for password, why in (
            ("password1234", "common"),
            ("aaaaaaaaaaaaaaa", "easy to guess"),
            ("haukehauke", "easily guessed"),
            ("1q2w3e4r5t", "easily guessed"),
        ):
            problem = self.assert_problem(plain.post(address, json=made | {"password": password}, timeout=30), 422)
            self.assertIn(why, problem["detail"])

    def test_making_an_account_does_not_tell_who_has_one(self) -> None:
        made = {"name": "Hauke", "role": "learner", "password": "seven grey gulls"}
        address = f"{self.application.address}/api/account"
        for name in ("maren", "nobody-at-all", "Maren"):
            answer = plain.post(address, json=made | {"sign_in": name}, timeout=30)
            self.assertEqual(answer.status_code, 201, answer.text)
            got = answer.json()["me"]["sign_in"]
            self.assertRegex(got, rf"^{name.casefold()}\d{{3,}}$")
            again = plain.post(f"{address}/session", json={"sign_in": got, "password": made["password"]}, timeout=30)
            self.assertEqual(again.status_code, 200, again.text)

    def test_who_may_make_an_account_is_the_operators_choice(self) -> None:
        choosy = Application(learners="nobody", educators="invited")
        self.addCleanup(choosy.stop)
        address = f"{choosy.address}/api/account"
        session = plain.get(f"{address}/session", timeout=30).json()
        self.assertEqual(session["admission"], {"learner": "nobody", "educator": "invited"})
        made = {"sign_in": "hauke", "name": "Hauke", "role": "educator", "password": "seven grey gulls"}

        def make(**change: str) -> httpx.Response:
            return plain.post(address, json=made | change, timeout=30)

        self.assert_problem(make(role="learner"), 403)
        self.assert_problem(make(), 403)
        self.assert_problem(make(invitation="2345-6789-abcd-efgh"), 403)
        for_learners = invited(choosy.database, "learner", 1)
        self.assert_problem(make(invitation=for_learners), 403)
        code = invited(choosy.database, "educator", 1)
        self.assert_problem(make(invitation=code, password="short"), 422)
        self.assertIn("taken", self.assert_problem(make(invitation=code, sign_in="maren"), 422)["detail"])
        answer = make(invitation=code.upper().replace("-", " "))  # as somebody may write it
        self.assertEqual((answer.status_code, answer.json()["me"]["sign_in"]), (201, "hauke"))
        self.assert_problem(make(invitation=code, sign_in="second"), 403)

    def test_an_invitation_is_used_once_by_many_at_once(self) -> None:
        code = invited(self.application.database, "learner", 1)
        wish = {"name": "Crew", "role": "learner", "password": "seven grey gulls", "invitation": code}
        address = f"{self.application.address}/api/account"

        def make(n: int) -> int:
            return plain.post(address, json=wish | {"sign_in": f"crew-{n}"}, timeout=60).status_code

        with ThreadPoolExecutor(8) as pool:
            answers = list(pool.map(make, range(8)))
        self.assertEqual(sorted(answers), [201] + [403] * 7)

    def test_sign_out_here_and_everywhere(self) -> None:
        who = DemoAccount(sign_in="elske", name="Elske", role="educator", password="a long password")
        self.application.know(who)
        clients = [client_of(self.application.address, who) for _ in range(4)]
        for client in clients:
            self.addCleanup(client.close)
        shown = clients[0].get("/api/account/sessions").json()
        self.assertEqual([one["here"] for one in shown].count(True), 1)
        self.assertEqual(len(shown), 4)
        self.assertEqual(clients[0].delete("/api/account/session").status_code, 204)
        self.assert_problem(clients[0].get("/api/lessons"), 401)
        self.assertEqual(clients[1].get("/api/lessons").status_code, 200)
        change = {"old": who.password, "new": "another long one"}
        self.assert_problem(clients[1].put("/api/account/password", json=change | {"old": "wrong"}), 422)
        self.assertEqual(clients[1].put("/api/account/password", json=change).status_code, 204)
        self.assertEqual([client.get("/api/lessons").status_code for client in clients], [401, 200, 401, 401])
        self.assertEqual(clients[1].delete("/api/account/sessions").status_code, 204)
        self.assert_problem(clients[1].get("/api/lessons"), 401)


class SharingTest(ApiTest):
    SECOND = DemoAccount(sign_in="wiebke", name="Wiebke Janssen", role="educator", password="a long password")

    def test_lesson_is_shared_for_reading_then_for_writing_then_no_longer(self) -> None:
        second = self.application.client(self.SECOND)
        self.addCleanup(second.close)
        lesson = self.client.post("/api/lessons", json={"title": "Ours"}).json()
        address = f"/api/lessons/{lesson['id']}"
        self.assert_problem(second.get(address), 404)
        share = {"sign_in": "WIEBKE", "may_write": False}
        (row,) = self.client.put(f"{address}/shares", json=share).json()
        self.assertEqual((row["name"], row["may_write"]), ("Wiebke Janssen", False))
        self.assertEqual(second.get(address).json()["right"], "read")
        (shown,) = [one for one in second.get("/api/lessons").json() if one["id"] == lesson["id"]]
        self.assertEqual((shown["owner"], shown["right"]), ("Maren Holt", "read"))
        step = lesson["steps"][0]
        change = {"version": step["version"], "content": step["content"] | {"title": "From both"}}
        refused = self.assert_problem(second.put(f"/api/steps/{step['id']}", json=change), 403)
        self.assertIn("reading only", refused["detail"])
        self.client.put(f"{address}/shares", json=share | {"may_write": True})
        self.assertEqual(second.put(f"/api/steps/{step['id']}", json=change).status_code, 200)
        self.assert_problem(second.delete(address), 403)
        self.client.delete(f"{address}/shares/{row['account']}")
        self.assert_problem(second.get(address), 404)
        for nobody in ("jonas", "nobody.at.all"):
            self.assert_problem(self.client.put(f"{address}/shares", json=share | {"sign_in": nobody}), 404)

    def test_what_is_deleted_is_gone_for_all_but_its_owner(self) -> None:
        second = self.application.client(self.SECOND)
        self.addCleanup(second.close)
        lesson = self.client.post("/api/lessons", json={"title": "Gone soon"}).json()
        address, step = f"/api/lessons/{lesson['id']}", lesson["steps"][0]["id"]
        self.client.put(f"{address}/shares", json={"sign_in": "WIEBKE", "may_write": True})
        self.assertEqual(second.get(f"/api/steps/{step}/history").status_code, 200)
        self.client.delete(address)
        self.assert_problem(second.get(f"/api/steps/{step}/history"), 404)
        self.assert_problem(second.post(f"{address}/restore"), 404)
        self.assertEqual(self.client.get(f"/api/steps/{step}/history").status_code, 200)
        self.client.post(f"{address}/restore")
        self.assertEqual(second.get(f"/api/steps/{step}/history").status_code, 200)


if __name__ == "__main__":
    unittest.main()
