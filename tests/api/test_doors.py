"""The doors: what is wrong with a request is a sentence, whatever it is, and browsers are told what they may do."""

import json
import unittest
from typing import Any

import httpx
from sqlalchemy import text

from inner_tone.api.access import COOKIE, TOKEN_HEADER
from inner_tone.api.crowd import MOST_UNDER_WAY, Crowd
from inner_tone.api.doors import LARGEST_JSON, LONGEST_ADDRESS, fits
from inner_tone.demo.foghorn import BLASTS, DISTANT
from inner_tone.store.database import MIGRATIONS, connect
from tests.support import plain
from tests.support.api import ApiTest
from tests.support.application import is_ready
from tests.support.patience import wait_for

PATCH = DISTANT.to_json()
PHRASE = BLASTS.model_dump(mode="json")
BIG = (2**31, 2**40, 10**30)
JSON = {"content-type": "application/json"}


def head() -> str:
    """Return the latest migration."""
    return max(file.name[:4] for file in (MIGRATIONS / "versions").glob("0*.py"))


class RefusedTest(ApiTest):
    """Each of these was an answer 500 once."""

    def setUp(self) -> None:
        super().setUp()
        self.lesson = self.client.post("/api/lessons", json={"title": "Surf"}).json()
        self.step = self.lesson["steps"][0]

    def refuse(self, answer: httpx.Response, *words: str) -> None:
        """Check that an answer says what is wrong, and that the application goes on."""
        self.assertIn(answer.status_code, (400, 401, 403, 404, 413, 422), answer.text[:200])
        detail = answer.json()["detail"]
        for word in words:
            self.assertIn(word, detail)
        self.assertEqual(self.client.get(f"/api/lessons/{self.lesson['id']}").status_code, 200)

    def test_what_is_no_character(self) -> None:
        step, lesson = f"/api/steps/{self.step['id']}", f"/api/lessons/{self.lesson['id']}"
        place = f"/api/practice/{self.lesson['id']}/steps/{self.step['id']}"
        wishes: list[tuple[str, str, Any]] = [
            ("POST", "/api/lessons", {"title": "a\0b"}),
            ("POST", "/api/lessons", {"title": "\ud800"}),
            ("PUT", lesson, {"version": 1, "title": "a\0"}),
            ("PUT", step, {"version": 1, "content": {**self.step["content"], "why": "x\0y"}}),
            ("POST", "/api/series", {"title": "a\0", "summary": ""}),
            ("POST", "/api/account/session", {"sign_in": "ma\0ren", "password": "x"}),
            ("POST", f"{place}/attempts", {"name": "a\0"}),
            ("POST", "/api/renders", {"patch": {**PATCH, "title": "a\0"}, "phrase": PHRASE}),
        ]
        for method, path, body in wishes:
            data = json.dumps(body).encode()
            self.refuse(self.client.request(method, path, content=data, headers=JSON), "no character")
        for path in ("/api/recordings/%00", "/api/renders/a%00b/sound", "/%00", "/assets/%00", "/api/search?words=%00"):
            self.refuse(self.client.get(path))

    def test_numbers_that_nothing_counts_to(self) -> None:
        step, lesson = self.step["id"], self.lesson["id"]
        for big in BIG:
            self.refuse(self.client.get(f"/api/steps/{step}/history", params={"before": big}), "before")
            self.refuse(self.client.get(f"/api/lessons/{lesson}/editions/{big}"), "number")
            self.refuse(self.client.get(f"/api/lessons/{lesson}/difference", params={"old": big}), "old")
            change = {"version": big, "content": {"why": "x"}}
            self.refuse(self.client.put(f"/api/steps/{step}", json=change), "version")
        many = json.dumps({"patch": PATCH, "phrase": PHRASE}).replace(": 420", ": " + "9" * 400, 1)
        self.assertIn("9" * 400, many)
        self.refuse(self.client.post("/api/renders", content=many, headers=JSON))

    def test_nothing_before_the_first_and_nothing_twice(self) -> None:
        lesson, step = f"/api/lessons/{self.lesson['id']}", f"/api/steps/{self.step['id']}"
        version = {"version": self.lesson["version"]}
        self.refuse(self.client.post(f"{lesson}/undo", json=version), "Nothing has been done")
        twice = {**version, "steps": [self.step["id"]] * 2}
        self.refuse(self.client.put(f"{lesson}/order", json=twice), "every step")
        self.refuse(self.client.post(f"{lesson}/order/effects", json=twice), "every step")
        self.refuse(self.client.post(f"{step}/join", json={"version": 1}), "first step")
        self.refuse(self.client.put(step, json={"version": 0, "content": {"title": "x"}}), "never stood")

    def test_more_than_anybody_means(self) -> None:
        line = {"control": "wheel", "points": [[0, 0.5]] * 20_001}
        note = {"start": 0, "length": 1, "pitch": 60}
        wishes = (
            ({"patch": PATCH, "phrase": {**PHRASE, "gestures": [line]}}, "gestures[0].points"),
            (
                {"patch": PATCH, "phrase": {**PHRASE, "notes": [note] * 4_097}},
                "notes",
            ),
            ({"patch": {**PATCH, "title": "x" * 201}, "phrase": PHRASE}, "patch.title"),
        )
        for wish, where in wishes:
            self.refuse(self.client.post("/api/renders", json=wish), where)
        change = {"version": self.step["version"], "content": {"why": "x" * 20_001}}
        self.refuse(self.client.put(f"/api/steps/{self.step['id']}", json=change), "why")
        for depth in (900, 9_000, 200_000):
            deep = '{"title":' + "[" * depth + "]" * depth + "}"
            self.refuse(self.client.post("/api/lessons", content=deep, headers=JSON))

    def test_times_that_are_hardly_any_and_points_beyond_the_end(self) -> None:
        for beats in (5e-324, 1e-300, 1e-7, 0.05):
            phrase = {**PHRASE, "beats": beats, "notes": [], "gestures": []}
            self.refuse(self.client.post("/api/renders", json={"patch": PATCH, "phrase": phrase}), "phrase.beats")
        late = {**PHRASE, "gestures": [{"control": "wheel", "points": [[0, 0], [900, 1]]}]}
        self.refuse(self.client.post("/api/renders", json={"patch": PATCH, "phrase": late}), "gestures[0].points[1]")

    def test_captions_with_dollars(self) -> None:
        recipe = {"view": {"kind": "wave", "taps": ["out.left"]}, "patch": PATCH, "phrase": PHRASE}
        for caption in ("$$", "cost $5 and $6", "$\\frac{", "\\"):
            for kind in ("svg", "png"):
                wish = {"recipe": recipe, "caption": caption}
                answer = self.client.post("/api/charts/picture", params={"format": kind}, json=wish)
                self.assertEqual(answer.status_code, 200, f"{caption}, {kind}")

    def test_token_that_is_not_ascii(self) -> None:
        answer = self.client.post("/api/lessons", json={"title": "x"}, headers={TOKEN_HEADER.encode(): "ü".encode()})
        self.assert_problem(answer, 403)

    def test_addresses_without_an_end_and_bodies_too_deep_or_too_large(self) -> None:
        self.refuse(self.client.get("/" + "a/" * LONGEST_ADDRESS), "4000")
        for body in ("[" * 100_000 + "]" * 100_000, '{"patch":' * 5_000 + "1" + "}" * 5_000, "[" * 100):
            self.refuse(self.client.post("/api/renders", content=body, headers=JSON))
        self.refuse(self.client.post("/api/renders", content=b"[" + b" " * LARGEST_JSON, headers=JSON), "larger")


class ToldTest(ApiTest):
    def test_browsers_are_told_what_they_may_do(self) -> None:
        for path in ("/", "/api/lessons", "/nowhere", "/api/nowhere"):
            headers = self.client.get(path).headers
            policy = headers["content-security-policy"]
            self.assertIn("script-src 'self';", policy)
            self.assertIn("frame-ancestors 'none'", policy)
            self.assertEqual(headers["x-content-type-options"], "nosniff")
            self.assertEqual(headers["referrer-policy"], "same-origin")
        self.assertEqual(self.client.get("/api/account/session").headers["cache-control"], "no-store")

    def test_only_names_of_ours_are_answered(self) -> None:
        for name, status in (("127.0.0.1:80", 200), ("LOCALHOST", 200), ("harbour.example", 421), ("", 421)):
            answer = self.client.get("/api/account/session", headers={"Host": name})
            self.assertEqual(answer.status_code, status, name)
        watched = plain.get(f"{self.application.address}/health", headers={"Host": "10.0.0.7"})
        self.assertEqual(watched.status_code, 200, "who watches many nodes asks them by their addresses")
        for name, known, fitting in (
            ("lessons.school.example", "*.school.example", True),
            ("school.example", "*.school.example", False),
            ("lessonsschool.example", "*.school.example", False),
            ("anything", "*", True),
            ("other.example", "lessons.example", False),
        ):
            self.assertEqual(fits(name, known), fitting, name)

    def test_it_tells_whether_it_lives_and_whether_it_can_work(self) -> None:
        self.assertEqual(plain.get(f"{self.application.address}/health").json(), {"status": "alive"})
        wait_for(lambda: is_ready(self.application.address), 30, "the workers")
        told = plain.get(f"{self.application.address}/ready").json()
        self.assertEqual(told, {"status": "ready", "database": "ready", "workers": "ready"})
        engine = connect(self.application.database)
        with engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '0001'"))
        self.assertEqual(plain.get(f"{self.application.address}/ready").status_code, 503)
        with engine.begin() as connection:
            connection.execute(text(f"UPDATE alembic_version SET version_num = '{head()}'"))
        engine.dispose()

    def test_head_is_what_get_is_without_a_body(self) -> None:
        for path in ("/", "/shelf", "/icon.svg", "/api/lessons", "/api/nowhere"):
            head, whole = self.client.head(path), self.client.get(path)
            self.assertEqual((head.status_code, head.content), (whole.status_code, b""))
            self.assertEqual(head.headers["content-type"], whole.headers["content-type"])

    def test_files_are_compressed_ahead_and_kept_for_good(self) -> None:
        page = self.client.get("/").text
        script = page.partition('src="')[2].partition('"')[0]
        plain = self.client.get(script, headers={"accept-encoding": "identity"})
        short = self.client.get(script, headers={"accept-encoding": "gzip"})
        self.assertEqual(short.headers["content-encoding"], "gzip")
        self.assertEqual(short.headers["content-type"], plain.headers["content-type"])
        self.assertEqual(short.content, plain.content)
        self.assertLess(int(short.headers["content-length"]), 0.5 * int(plain.headers["content-length"]))
        self.assertIn("immutable", short.headers["cache-control"])


class CrowdTest(unittest.IsolatedAsyncioTestCase):
    async def test_the_many_of_one_are_refused_and_the_few_of_another_are_not(self) -> None:
        inside = 0

        async def app(scope: Any, receive: Any, send: Any) -> None:
            nonlocal inside
            inside += 1
            if scope["path"] == "/more":
                await self.ask(crowd, "one", "/more" if inside < MOST_UNDER_WAY else "/refused")
                await self.ask(crowd, "other", "/there")

        crowd = Crowd(app)
        self.refused: list[int] = []
        await self.ask(crowd, "one", "/more")
        self.assertEqual(self.refused[0], 429)
        self.assertEqual(crowd.under_way, {})
        await self.ask(crowd, "one", "/there")
        self.assertEqual(len(self.refused), 1)

    async def ask(self, crowd: Crowd, token: str, path: str) -> None:
        async def send(message: Any) -> None:
            if message["type"] == "http.response.start":
                self.refused.append(message["status"])

        async def receive() -> Any:
            return {"type": "http.request", "body": b"", "more_body": False}

        cookie = (b"cookie", f"a=b; {COOKIE}={token}".encode())
        await crowd({"type": "http", "method": "GET", "path": path, "headers": [cookie]}, receive, send)


if __name__ == "__main__":
    unittest.main()
