"""Publishing, practising, series, search and templates over HTTP."""

import unittest
from typing import Any

from inner_tone.api.accounts import DemoAccount
from inner_tone.demo.seed import JONAS, SERIES
from tests.support.api import ApiTest

SECOND = DemoAccount(sign_in="wiebke", name="Wiebke Janssen", role="educator", password="a long password")


class EditionTest(ApiTest):
    def lesson(self, title: str) -> Any:
        row = next(row for row in self.get("/api/lessons") if row["title"] == title)
        return self.get(f"/api/lessons/{row['id']}")

    def publish(self, lesson: Any, **wish: Any) -> Any:
        """Publish; returns the edition, or why there is none."""
        body = {"version": lesson["version"], **wish}
        answer = self.client.post(f"/api/lessons/{lesson['id']}/editions", json=body)
        if answer.status_code != 202:
            return answer
        job = self.ended(answer.json())
        if job["state"] == "failed":
            return job["problem"]
        self.assertEqual((job["state"], job["result"]["lesson"]), ("done", lesson["id"]))
        editions = self.get(f"/api/lessons/{lesson['id']}/editions")
        return next(one for one in editions if one["number"] == job["result"]["number"])

    def test_concerns_stand_in_the_way_until_each_is_overruled(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Gulls", "template": "tone"}).json()
        step = lesson["steps"][0]
        content = step["content"] | {"why": "It has {the taste of Oscillator}.", "listen": "A tone."}
        self.client.put(f"/api/steps/{step['id']}", json={"version": step["version"], "content": content})
        (concern,) = self.client.post(f"/api/lessons/{lesson['id']}/review").json()
        self.assertEqual((concern["place"], concern["kind"]), (0, "field"))
        self.assertIn("to be looked at", self.publish(lesson)["detail"])
        self.assertIsNone(concern["overruled"])
        self.assertIn("to be looked at", self.publish(lesson, overruled={"other": "It is a joke."})["detail"])
        edition = self.publish(lesson, overruled={concern["key"]: "It is a joke."}, notes="First.")
        self.assertEqual((edition["number"], edition["notes"]), (1, "First."))
        self.assertRegex(edition["reason"], r"^Step 1: “the taste of Oscillator” means nothing here\. It is a joke\.$")
        (concern,) = self.client.post(f"/api/lessons/{lesson['id']}/review").json()
        self.assertEqual(concern["overruled"], "It is a joke.")
        content = step["content"] | {"why": "It has none.", "listen": "A tone."}
        self.client.put(f"/api/steps/{step['id']}", json={"version": step["version"] + 1, "content": content})
        edition = self.publish(lesson, overruled={concern["key"]: "It is a joke."})
        self.assertEqual((edition["number"], edition["reason"]), (2, ""), "where nothing is wrong there is no reason")
        told = self.get(f"/api/lessons/{lesson['id']}/difference?old=1&new=2")
        self.assertEqual([one["kind"] for one in told["steps"]], ["changed"])
        self.assertEqual(self.get(f"/api/lessons/{lesson['id']}/difference?old=2&new=0")["steps"], [])
        old = self.get(f"/api/lessons/{lesson['id']}/editions/1")
        self.assertEqual(old["edition"]["number"], 1)
        self.assertIn("taste", old["steps"][0]["content"]["why"])
        self.assert_problem(self.client.get(f"/api/lessons/{lesson['id']}/editions/9"), 404)

    def test_stale_version_is_not_published(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Stale", "template": "tone"}).json()
        lesson["version"] -= 1
        self.assert_problem(self.publish(lesson), 409)

    def test_learner_reads_the_demo_in_whole_and_short_form(self) -> None:
        learner = self.application.client(JONAS)
        self.addCleanup(learner.close)
        rows = {row["title"]: row for row in learner.get("/api/practice").json()}
        self.assertIn("Foghorn", rows)
        self.assertNotIn("Fog comes in", rows, "it is not published")
        bell = rows["Ship’s bell"]
        address = f"/api/practice/{bell['id']}"
        whole, short = learner.get(address).json(), learner.get(f"{address}?short=true").json()
        self.assertEqual((len(whole["steps"]), len(short["steps"])), (8, 7))
        self.assertIsNone(whole["right"])
        self.assertTrue(whole["target_first"])
        self.assertFalse(whole["edition"]["begun"])
        self.assertEqual(learner.put(address, json={"place": 3, "short": True}).json(), {"place": 3, "reached": 3})
        self.assertEqual(learner.put(address, json={"place": 1, "short": True}).json(), {"place": 1, "reached": 3})
        self.assertEqual(learner.put(address, json={"place": 3, "short": True}).json(), {"place": 3, "reached": 3})
        row = next(one for one in learner.get("/api/practice").json() if one["id"] == bell["id"])
        self.assertEqual([row[key] for key in ("place", "reached", "length", "done")], [3, 3, 7, 0])
        again = learner.get(address).json()
        self.assertEqual((again["edition"]["place"], len(again["steps"])), (3, 7))
        self.assert_problem(learner.get(f"/api/lessons/{bell['id']}"), 404)
        found = learner.get("/api/practice?words=nominal").json()
        self.assertNotIn("Foghorn", [row["title"] for row in found])
        self.assertIn(bell["id"], [row["id"] for row in found])

    def test_series_shows_to_others_what_is_published(self) -> None:
        (mine,) = [one for one in self.get("/api/series") if one["title"] == SERIES]
        self.assertEqual([one["title"] for one in mine["lessons"]], ["Foghorn", "Fog comes in"])
        self.assertEqual([one["continues"] for one in mine["lessons"]], [False, True])
        learner = self.application.client(JONAS)
        self.addCleanup(learner.close)
        theirs = learner.get(f"/api/series/{mine['id']}").json()
        self.assertEqual([one["title"] for one in theirs["lessons"]], ["Foghorn"])
        empty = self.client.post("/api/series", json={"title": "Nothing yet"}).json()
        self.assert_problem(learner.get(f"/api/series/{empty['id']}"), 404)
        stale = {"version": 99, "title": "x", "summary": "", "lessons": []}
        self.assert_problem(self.client.put(f"/api/series/{empty['id']}", json=stale), 409)

    def test_lesson_that_starts_from_another_is_told_what_has_changed_there(self) -> None:
        horn = self.lesson("Foghorn")
        later = self.client.post("/api/lessons", json={"title": "Later", "starts_from": horn["id"]}).json()
        self.assertEqual(later["start"]["title"], "Foghorn")
        self.assertEqual(later["start"]["moved_on"], [])
        self.assertEqual(later["steps"][0]["instructions"], [])
        empty = self.client.post("/api/lessons", json={"title": "Nothing"}).json()
        self.client.delete(f"/api/steps/{empty['steps'][0]['id']}")
        wish = {"title": "Later", "starts_from": empty["id"]}
        self.assertIn("no steps", self.assert_problem(self.client.post("/api/lessons", json=wish), 422)["detail"])
        self.assert_problem(self.client.post("/api/lessons", json={"title": "x", "template": "rock"}), 422)

    def test_lesson_before_stays_closed_to_those_it_is_not_shared_with(self) -> None:
        secret = self.client.post("/api/lessons", json={"title": "Secret", "template": "tone"}).json()
        later = self.client.post("/api/lessons", json={"title": "Open", "starts_from": secret["id"]}).json()
        step = secret["steps"][0]
        before = step["content"]["patch"]
        louder = [one | ({"settings": {"level": -3}} if one["id"] == "out" else {}) for one in before["modules"]]
        patch = before | {"modules": louder}
        body = {"version": step["version"], "content": step["content"] | {"patch": patch}}
        self.assertEqual(self.client.put(f"/api/steps/{step['id']}", json=body).status_code, 200)
        address = f"/api/lessons/{later['id']}"
        self.assertEqual(
            [one["text"] for one in self.get(address)["start"]["moved_on"]], ["Set Output’s level to −3 dB."]
        )
        second = self.application.client(SECOND)
        self.addCleanup(second.close)
        self.client.put(f"{address}/shares", json={"sign_in": SECOND.sign_in, "may_write": True})
        start = second.get(address).json()["start"]
        self.assertEqual((start["lesson"], start["title"], start["moved_on"]), (None, None, []))
        self.assert_problem(second.post(f"{address}/follow"), 404)
        taking = {"like": step["id"]}
        self.assert_problem(second.post(f"{address}/steps", json=taking), 404)
        self.assertEqual(self.client.post(f"{address}/steps", json=taking).json()["content"]["patch"], patch)

    def test_fields_and_links_of_a_step(self) -> None:
        step = self.lesson("Ship’s bell")["steps"][2]["content"]
        found = self.client.post("/api/fields", json={"content": step, "offer": True}).json()
        self.assertEqual(found["values"], {"the attack of Ring": "2 ms", "the decay of Ring": "2.5 s"})
        self.assertEqual(found["links"]["picture 1"], {"kind": "plate", "id": "plate-1", "text": "picture 1"})
        self.assertEqual(found["links"]["the detour A wooden one"]["kind"], "detour")
        self.assertIn("the module Prime", found["links_offered"])
        self.assertIn("the decay of Ring", found["offered"])

    def test_search_over_titles_texts_and_modules(self) -> None:
        found = self.get("/api/search?words=reverb")
        self.assertIn(("Ship’s bell", 7), [(one["lesson_title"], one["place"]) for one in found])
        self.assertTrue(all(len(one["excerpt"]) % 2 == 1 for one in found))


if __name__ == "__main__":
    unittest.main()
