"""Signing in and out over HTTP: the cookie, the limits, the other browsers."""

import unittest
from concurrent.futures import ThreadPoolExecutor

import httpx

from inner_tone.api.access import COOKIE
from inner_tone.api.accounts import DemoAccount
from inner_tone.api.limits import WRONG_FOR_ONE
from inner_tone.demo.seed import JONAS, MAREN
from tests.support.api import ApiTest
from tests.support.application import client_of


class SignInTest(ApiTest):
    def wish(self, who: DemoAccount, **other: str) -> dict[str, str]:
        return {"sign_in": who.sign_in, "password": who.password} | other

    def post(self, body: dict[str, str]) -> httpx.Response:
        return httpx.post(f"{self.application.address}/api/account/session", json=body, timeout=30)

    def test_cookie_is_kept_from_scripts_and_other_sites(self) -> None:
        answer = self.post(self.wish(JONAS))
        cookie = answer.headers["set-cookie"].lower()
        for word in ("httponly", "samesite=strict", "path=/", "max-age="):
            self.assertIn(word, cookie)
        self.assertNotIn(answer.cookies[COOKIE], answer.text, "what the cookie holds is nowhere else")
        self.assertEqual(answer.json()["me"], {"sign_in": "jonas", "name": "Jonas Lind", "role": "learner"})

    def test_cookie_is_for_encrypted_connections_only_where_there_is_one(self) -> None:
        for scheme in ("http", "https"):  # as a server in front of ours tells
            address = f"{self.application.address}/api/account/session"
            answer = httpx.post(address, json=self.wish(JONAS), headers={"X-Forwarded-Proto": scheme}, timeout=30)
            self.assertEqual("secure" in answer.headers["set-cookie"].lower(), scheme == "https")

    def test_wrong_password_and_unknown_name_are_told_alike(self) -> None:
        wrong = self.assert_problem(self.post(self.wish(MAREN, password="wrong")), 401)
        unknown = self.assert_problem(self.post(self.wish(MAREN, sign_in="nobody.at.all")), 401)
        self.assertEqual(wrong, unknown)

    def test_too_many_wrong_passwords_are_refused_for_a_while_even_if_one_is_right_then(self) -> None:
        who = DemoAccount(sign_in="target", name="Target", role="learner", password="a long password")
        self.application.client(who).close()
        for _ in range(WRONG_FOR_ONE.amount - 1):  # one went before the account was made
            self.assert_problem(self.post(self.wish(who, password="a guess")), 401)
        answer = self.post(self.wish(who))
        self.assert_problem(answer, 429)
        self.assertGreater(int(answer.headers["retry-after"]), 60)
        self.assertEqual(self.post(self.wish(MAREN)).status_code, 200, "others are let in")

    def test_strangers_wrong_passwords_do_not_lock_an_owner_out(self) -> None:
        who = DemoAccount(sign_in="owner", name="Owner", role="learner", password="a long password")
        self.application.client(who).close()
        own = httpx.Client(base_url=self.application.address, timeout=30)
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
        self.application.stop()
        self.application.start()
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
            problem = self.assert_problem(httpx.post(address, json=made | change, timeout=30), 422)
            self.assertEqual([one["path"] for one in problem["problems"]], [where])
        problem = self.assert_problem(httpx.post(address, json=made | {"sign_in": "Maren"}, timeout=30), 422)
        self.assertIn("taken", problem["detail"])

    def test_sign_out_here_and_everywhere(self) -> None:
        who = DemoAccount(sign_in="elske", name="Elske", role="educator", password="a long password")
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
        (shown,) = second.get("/api/lessons").json()
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
