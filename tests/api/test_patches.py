"""Patches over HTTP: edits, offers, placements, pictures, sections, listening, findings, history."""

import unittest
from typing import Any

from inner_tone.core.modules import CATALOGUE
from inner_tone.demo.foghorn import BLASTS, DISTANT, SILENCED
from tests.support.api import ApiTest

PATCH = DISTANT.to_json()
PHRASE = BLASTS.model_dump(mode="json")


class EditsTest(ApiTest):
    def edit(self, *edits: dict[str, Any], patch: dict[str, Any] = PATCH) -> Any:
        return self.client.post("/api/patches/edits", json={"patch": patch, "edits": list(edits)})

    def test_edits_are_made_one_after_the_other(self) -> None:
        answer = self.edit(
            {"kind": "rename", "module": "bell", "label": "Trumpet"},
            {"kind": "set", "module": "bell", "setting": "cutoff", "value": 700},
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        bell = next(one for one in answer.json()["patch"]["modules"] if one["id"] == "bell")
        self.assertEqual((bell["label"], bell["settings"]["cutoff"]), ("Trumpet", 700))
        self.assertEqual(answer.json()["touched"], ["bell"])

    def test_what_cannot_be_done_is_explained(self) -> None:
        gone = self.edit({"kind": "disconnect", "line": {"from": "reed.out", "to": "out.left"}})
        self.assertIn("There is no connection from reed.out", self.assert_problem(gone, 422)["detail"])
        self.assert_problem(self.edit({"kind": "dance"}), 422)
        off = self.edit({"kind": "set", "module": "bell", "setting": "cutoff", "value": 1})
        self.assertIn("out of range", self.assert_problem(off, 422)["detail"])

    def test_offers_from_an_output_and_to_an_input(self) -> None:
        wish: dict[str, Any] = {"patch": PATCH, "port": "breath.out"}
        offers = self.client.post("/api/patches/offers", json=wish).json()
        self.assertIn("steers cutoff, in semitones", [one["reason"] for one in offers])
        wish = {"patch": PATCH, "port": "bell.cutoff", "into": True}
        self.assertTrue(
            all(one["line"]["to"] == "bell.cutoff" for one in self.client.post("/api/patches/offers", json=wish).json())
        )
        self.assert_problem(self.client.post("/api/patches/offers", json={"patch": PATCH, "port": "bell.nose"}), 422)

    def test_placements_can_be_sent_back_as_edits(self) -> None:
        found = self.client.post("/api/patches/placements", json={"patch": PATCH, "selected": "bell"}).json()
        self.assertEqual(set(found), set(CATALOGUE) - {"player", "output"})
        answer = self.edit(*found["lfo"][0]["edits"])
        self.assertEqual(answer.json()["touched"][0], "lfo")

    def test_picture_of_a_module(self) -> None:
        wish = {"module": {"id": "f", "type": "filter", "settings": {"cutoff": 500}}}
        found = self.client.post("/api/patches/picture", json=wish).json()
        self.assertEqual((found["kind"], found["handles"][0]["moves_x"]), ("response", "cutoff"))
        wish = {"module": {"id": "f", "type": "filter", "settings": {"cutoff": 5}}}
        self.assert_problem(self.client.post("/api/patches/picture", json=wish), 422)

    def test_fragment_can_be_pasted(self) -> None:
        part = self.client.post("/api/patches/fragment", json={"patch": PATCH, "modules": ["bell", "amp"]}).json()
        answer = self.edit({"kind": "paste", "fragment": part})
        self.assertEqual(answer.json()["touched"], ["bell-2", "amp-2"])


class SectionsTest(ApiTest):
    def test_section_is_kept_used_elsewhere_and_forgotten(self) -> None:
        group = {"kind": "group", "modules": ["bell", "amp"], "label": "Horn body"}
        grouped = self.client.post("/api/patches/edits", json={"patch": PATCH, "edits": [group]}).json()["patch"]
        kept = self.client.post("/api/sections", json={"patch": grouped, "section": "section"})
        self.assertEqual(kept.status_code, 201, kept.text)
        listed = self.get("/api/sections")
        self.assertEqual([one["label"] for one in listed], ["Horn body"])
        paste = {"patch": {"modules": []}, "edits": [{"kind": "paste", "fragment": listed[0]["fragment"]}]}
        pasted = self.client.post("/api/patches/edits", json=paste).json()["patch"]
        self.assertEqual(pasted["sections"][0]["label"], "Horn body")
        self.assertEqual(self.client.delete(f"/api/sections/{listed[0]['id']}").status_code, 204)
        self.assertEqual(self.get("/api/sections"), [])
        self.assert_problem(self.client.delete(f"/api/sections/{listed[0]['id']}"), 404)

    def test_section_that_is_not_there_cannot_be_kept(self) -> None:
        self.assert_problem(self.client.post("/api/sections", json={"patch": PATCH, "section": "ghost"}), 422)


class CheckupTest(ApiTest):
    def render(self, patch: dict[str, Any], **more: Any) -> Any:
        answer = self.client.post("/api/renders", json={"patch": patch, "phrase": PHRASE, **more})
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def test_findings_come_with_the_render_and_mend_it(self) -> None:
        found = self.render(SILENCED.to_json())
        self.assertEqual([one["code"] for one in found["findings"]], ["no-sound"])
        self.assertEqual(found["reach"], ["reed"])
        wish = {"patch": SILENCED.to_json(), "edits": found["findings"][0]["edits"]}
        mended = self.client.post("/api/patches/edits", json=wish).json()["patch"]
        self.assertNotIn("no-sound", [one["code"] for one in self.render(mended)["findings"]])

    def test_findings_name_modules_as_they_are_called_now(self) -> None:
        self.render(SILENCED.to_json())
        renamed = SILENCED.to_json()
        renamed["modules"][2]["label"] = "Door"
        self.assertIn("Door", self.render(renamed)["findings"][0]["message"])

    def test_listening_changes_the_sound_and_not_the_patch(self) -> None:
        whole = self.render(PATCH)
        past = self.render(PATCH, listening={"bypassed": ["bell"]})
        self.assertNotEqual(whole["key"], past["key"])
        silent = self.render(PATCH, listening={"muted": ["reed"]})
        self.assertEqual(silent["measures"]["out.left"]["greatest"], 0.0)


class HistoryTest(ApiTest):
    def test_history_comes_in_pages(self) -> None:
        lesson = self.client.post("/api/lessons", json={"title": "Paged"}).json()
        step = lesson["steps"][0]
        for version in range(1, 6):
            content = {**step["content"], "title": f"state {version}"}
            answer = self.client.put(f"/api/steps/{step['id']}", json={"version": version, "content": content})
            self.assertEqual(answer.status_code, 200, answer.text)
        first = self.get(f"/api/steps/{step['id']}/history?limit=2")
        self.assertEqual([one["version"] for one in first], [6, 5])
        rest = self.get(f"/api/steps/{step['id']}/history?before=5&limit=500")
        self.assertEqual([one["version"] for one in rest], [4, 3, 2, 1])


if __name__ == "__main__":
    unittest.main()
