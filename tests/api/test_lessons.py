"""Lessons and steps over HTTP, and errors as problem details."""

import unittest
import uuid
from typing import Any

import httpx

from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import SetValue
from tests.support.api import ApiTest


def foghorn(test: ApiTest) -> Any:
    """Return the demo lesson."""
    row = next(row for row in test.get("/api/lessons") if row["title"] == "Foghorn")
    return test.get(f"/api/lessons/{row['id']}")


TARGET = {"target_first": True, "target_note": "Listen."}


class LessonTest(ApiTest):
    def test_lesson_with_its_steps_and_instructions(self) -> None:
        lesson = foghorn(self)
        self.assertEqual(len(lesson["steps"]), 5)
        self.assertEqual(
            lesson["steps"][1]["instructions"][0]["text"],
            "Insert an amplifier named Loudness between Reed and Harbour.",
        )

    def test_begin_describe_delete_restore(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Bell"}).json()
        self.assertEqual(len(lesson["steps"]), 1)
        address = f"/api/lessons/{lesson['id']}"
        change = {"version": lesson["version"], "title": "Ship’s bell", "summary": "A clang."} | TARGET
        described = self.client.put(address, json=change).json()
        self.assertEqual((described["title"], described["target_note"]), ("Ship’s bell", "Listen."))
        self.assert_problem(self.client.put(address, json=change), 409)
        self.assertEqual(self.client.delete(address).status_code, 204)
        self.assert_problem(self.client.get(address), 404)
        self.assertEqual(self.client.post(f"{address}/restore").json()["summary"], "A clang.")
        self.client.delete(address)

    def test_steps_are_added_duplicated_ordered_deleted_and_restored(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Steps"}).json()
        address = f"/api/lessons/{lesson['id']}"
        first = lesson["steps"][0]["id"]
        added = self.client.post(f"{address}/steps", json={"after": first}).json()
        copy = self.client.post(f"/api/steps/{added['id']}/duplicate").json()
        now = self.get(address)
        self.assertEqual([step["id"] for step in now["steps"]], [first, added["id"], copy["id"]])
        order = {"version": now["version"], "steps": [copy["id"], first, added["id"]]}
        now = self.client.put(f"{address}/order", json=order).json()
        self.assertEqual([step["id"] for step in now["steps"]], order["steps"])
        self.assert_problem(self.client.put(f"{address}/order", json=order), 409)
        short = {"version": now["version"], "steps": [first]}
        self.assert_problem(self.client.put(f"{address}/order", json=short), 422)
        self.assertEqual(self.client.delete(f"/api/steps/{first}").status_code, 204)
        self.assertEqual(len(self.get(address)["steps"]), 2)
        self.client.post(f"/api/steps/{first}/restore")
        self.assertEqual([step["id"] for step in self.get(address)["steps"]], order["steps"])
        self.assert_problem(self.client.post(f"/api/steps/{first}/restore"), 404)
        actions = [row["action"] for row in self.get(f"/api/steps/{first}/history")]
        self.assertEqual(actions, ["restored", "deleted", "created"])
        self.client.delete(address)

    def test_what_is_not_there(self) -> None:
        nobody = uuid.uuid4()
        self.assert_problem(self.client.get(f"/api/lessons/{nobody}"), 404)
        self.assert_problem(self.client.delete(f"/api/steps/{nobody}"), 404)
        self.assert_problem(self.client.post(f"/api/lessons/{nobody}/steps", json={}), 404)
        self.assert_problem(self.client.get("/api/nowhere"), 404)

    def test_what_cannot_be_read(self) -> None:
        self.assert_problem(self.client.get("/api/lessons/17"), 422)
        self.assert_problem(self.client.post("/api/lessons", json={"title": ""}), 422)
        self.assert_problem(self.client.post("/api/lessons", json={"titel": "x"}), 422)
        self.assert_problem(self.client.post("/api/lessons", content=b"{"), 422)


class StepCase(ApiTest):
    def change(self, step: Any, **content: Any) -> httpx.Response:
        body = {"version": step["version"], "content": {**step["content"], **content}}
        return self.client.put(f"/api/steps/{step['id']}", json=body)


class StepTest(StepCase):
    def test_change_is_kept(self) -> None:
        step = foghorn(self)["steps"][0]
        changed = self.change(step, why="Because.").json()
        self.assertEqual(changed["version"], step["version"] + 1)
        self.assertEqual(foghorn(self)["steps"][0]["content"]["why"], "Because.")

    def test_only_what_is_new_needs_to_be_sent(self) -> None:
        step = foghorn(self)["steps"][0]
        body = {"version": step["version"], "content": {"listen": "The horn alone."}}
        kept = self.client.put(f"/api/steps/{step['id']}", json=body).json()
        self.assertEqual(kept["content"], {**step["content"], "listen": "The horn alone."})

    def test_settings_stand_for_the_patch(self) -> None:
        step = foghorn(self)["steps"][1]
        settings = [{"kind": "set", "module": "reed", "setting": "fine", "value": 3.0}]
        body = {"version": step["version"], "content": {"why": "It beats."}, "settings": settings}
        kept = self.client.put(f"/api/steps/{step['id']}", json=body).json()
        patch = edited(
            Patch.model_validate(step["content"]["patch"]), [SetValue.model_validate(one) for one in settings]
        ).patch
        self.assertEqual(Patch.model_validate(kept["content"].pop("patch")), patch)
        del step["content"]["patch"]
        for content in (kept["content"], step["content"]):
            content.pop("built_on")  # what later steps still stand on, the first time that a patch changes
        self.assertEqual(kept["content"], {**step["content"], "why": "It beats."})
        self.assertTrue(any("fine" in one["text"] for one in kept["instructions"]), kept["instructions"])

    def test_settings_of_what_somebody_else_took_out_are_a_conflict(self) -> None:
        step = foghorn(self)["steps"][2]
        patch = step["content"]["patch"]
        rest = [one for one in patch["connections"] if "reed" not in one["from"] + one["to"]]
        modules = [one for one in patch["modules"] if one["id"] != "reed"]
        self.assertEqual(self.change(step, patch={**patch, "modules": modules, "connections": rest}).status_code, 200)
        settings = [{"kind": "set", "module": "reed", "setting": "fine", "value": 3.0}]
        body = {"version": step["version"], "content": {}, "settings": settings}
        problem = self.assert_problem(self.client.put(f"/api/steps/{step['id']}", json=body), 409)
        self.assertEqual(problem["current"], step["version"] + 1)

    def test_change_that_is_there_already_is_no_conflict(self) -> None:
        """As when the answer to an earlier try was lost."""
        step = foghorn(self)["steps"][3]
        first = self.change(step, why="Once.").json()
        again = self.client.put(
            f"/api/steps/{step['id']}", json={"version": step["version"], "content": {"why": "Once."}}
        )
        self.assertEqual((again.status_code, again.json()["version"]), (200, first["version"]))

    def test_answer_has_what_the_whole_lesson_would_tell_of_this_step_and_the_next(self) -> None:
        for place in range(5):
            step = foghorn(self)["steps"][place]
            patch = step["content"]["patch"]
            patch["modules"][0]["label"] = f"Keeper {place}"
            patch["modules"].append({"id": f"new-{place}", "type": ("lfo", "noise", "delay", "clock", "hold")[place]})
            kept = self.change(step, patch=patch).json()
            lesson = foghorn(self)["steps"]
            following = kept.pop("following")
            self.assertTrue(kept.pop("later"), "a type came in, whose purpose a later step may have told")
            self.assertEqual(kept, lesson[place])
            self.assertEqual(following, lesson[place + 1] if place < 4 else None)
        self.assertFalse(self.change(lesson[4], why="It is far away.").json()["later"])

    def test_second_of_two_is_told_and_nothing_is_overwritten(self) -> None:
        step = foghorn(self)["steps"][1]
        self.assertEqual(self.change(step, title="Theirs").status_code, 200)
        problem = self.assert_problem(self.change(step, title="Mine"), 409)
        self.assertEqual(problem["current"], step["version"] + 1)
        self.assertEqual(foghorn(self)["steps"][1]["content"]["title"], "Theirs")

    def test_wrong_patch_is_refused_with_every_place(self) -> None:
        step = foghorn(self)["steps"][2]
        patch = {"modules": [{"id": "a", "type": "filter", "settings": {"cutoff": 1, "cutof": 2}}]}
        problem = self.assert_problem(self.change(step, patch=patch), 422)
        self.assertEqual(
            [one["path"] for one in problem["problems"]],
            ["modules[0].settings.cutoff", "modules[0].settings.cutof"],
        )
        self.assertEqual(foghorn(self)["steps"][2]["version"], step["version"])


class KilledTest(StepCase):
    alone = True

    def test_what_was_answered_as_kept_survives_a_kill(self) -> None:
        for round_number in range(3):
            step = foghorn(self)["steps"][3]
            title = f"Kept {round_number}"
            self.assertEqual(self.change(step, title=title).status_code, 200)
            self.own.kill()
            self.own.start()
            self.assertEqual(foghorn(self)["steps"][3]["content"]["title"], title)


if __name__ == "__main__":
    unittest.main()
