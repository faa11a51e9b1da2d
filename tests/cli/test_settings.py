"""An application that is set up by its environment: what it says of wrong settings, what it logs, how it ends."""

import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import httpx
from sqlalchemy import make_url

from benchmarks.patches import voice
from inner_tone.api.settings import Settings, settings_from
from inner_tone.core.errors import InnerToneError
from inner_tone.demo.seed import MAREN
from tests.support import plain
from tests.support.application import ROOT, client_of, is_ready
from tests.support.command import run_here
from tests.support.database import DEMO, fresh_url
from tests.support.patches import phrase
from tests.support.patience import wait_for

COMMAND = [sys.executable, "-m", "inner_tone.cli", "serve"]


def figures_of(address: str) -> str:
    """Return the figures of an application."""
    return plain.get(f"{address}/metrics", timeout=30).text


class ServeTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.log = (self.folder / "log").open("w+")
        self.addCleanup(self.log.close)

    def serve(self, **settings: str) -> str:
        """Start an application whose database's password stands in a file; returns its address."""
        url = make_url(fresh_url(DEMO))
        passwords = self.folder / "pgpass"
        passwords.touch(mode=0o600)
        passwords.write_text(f"127.0.0.1:{url.port}:*:{url.username}:{url.password}\n")
        told = {f"INNER_TONE_{name.upper()}": value for name, value in settings.items()}
        told["INNER_TONE_DATABASE"] = url._replace(password=None).render_as_string()
        environment = {**os.environ, **told, "PGPASSFILE": str(passwords)}
        self.process = subprocess.Popen(
            COMMAND, cwd=ROOT, env=environment, stdout=subprocess.PIPE, stderr=self.log, text=True
        )
        for cleanup in (self.process.wait, self.process.kill):
            self.addCleanup(cleanup)
        assert self.process.stdout is not None
        self.addCleanup(self.process.stdout.close)
        return self.process.stdout.readline().removeprefix("Inner Tone answers at ").strip().rstrip("/")

    def written(self) -> list[dict[str, Any]]:
        """Return the lines of the log."""
        self.log.seek(0)
        return [json.loads(line) for line in self.log.read().splitlines()]

    def lines_of(self, number: str) -> list[dict[str, Any]]:
        """Return what is written of a request; that happens when it has been answered."""
        return wait_for(lambda: [one for one in self.written() if one["request"] == number], 10, "a line")

    def test_password_from_a_file_and_a_line_for_each_request(self) -> None:
        address = self.serve(log="json")
        wait_for(lambda: is_ready(address), 30, "an application that is ready")
        with client_of(address, MAREN) as client:
            lesson = client.get("/api/lessons").json()[0]["id"]
            answer = client.get(f"/api/lessons/{lesson}", headers={"X-Request-ID": "made up"})
            missing = client.get("/api/nowhere")
        number = answer.headers["x-request-id"]
        self.assertNotEqual(number, "made up")
        (line,) = self.lines_of(number)
        self.assertEqual((line["route"], line["status"]), ("/api/lessons/{lesson_id}", 200))
        self.assertGreater(line["milliseconds"], 0)
        (line,) = self.lines_of(missing.headers["x-request-id"])
        self.assertEqual(line["status"], 404)
        self.assertNotIn("127.0.0.1", json.dumps(self.written()), "nobody's address")
        self.assertNotIn(lesson, json.dumps(self.written()))
        figures = figures_of(address)
        counted = 'inner_tone_requests_total{method="GET",route="/api/lessons/{lesson_id}",status="200"} 1.0'
        self.assertIn(counted, figures)
        for name in ("inner_tone_work_waiting", "inner_tone_work_processes 2", "inner_tone_live_sessions 0"):
            self.assertIn(name, figures)

    def ended_under_way(self, *notes: tuple[float, float, float], beats: float) -> httpx.Response:
        """Return what is answered to a wish for a render while the application is told to end."""
        address = self.serve()
        wish = {"patch": voice(voices=16).to_json(), "phrase": phrase(*notes, beats=beats).model_dump(mode="json")}
        answers: list[httpx.Response] = []
        wait_for(lambda: is_ready(address), 60, "the processes that work")
        with client_of(address, MAREN) as client:
            first = phrase((0.0, 0.25, 45.0), beats=0.25).model_dump(mode="json")
            client.post("/api/renders", json={**wish, "phrase": first})  # has loaded what there is to load
            asking = threading.Thread(target=lambda: answers.append(client.post("/api/renders", json=wish)))
            asking.start()
            wait_for(lambda: answers or "inner_tone_work_under_way 1" in figures_of(address), 30, "work under way")
            self.process.send_signal(signal.SIGTERM)
            self.assertIn(self.process.wait(30), (0, -signal.SIGTERM))
            asking.join(20)
        (answer,) = answers
        return answer

    def test_what_is_under_way_is_answered_before_it_ends(self) -> None:
        chord = [(0.0, 2.0, 40.0 + 3 * key) for key in range(16)]  # half a second's work: within the grace, busy or not
        answer = self.ended_under_way(*chord, beats=2.0)
        self.assertEqual(answer.status_code, 200)

    def test_what_takes_too_long_is_said_to_be_ended(self) -> None:
        notes = [(start, 20.0, 40.0 + 3 * key) for start in (0.0, 20.0, 40.0) for key in range(16)]
        answer = self.ended_under_way(*notes, beats=60.0)
        self.assertEqual(answer.status_code, 503, answer.text)
        self.assertIn("The application is ending", answer.json()["detail"])
        self.assertIn("retry-after", answer.headers)


class SettingsTest(unittest.TestCase):
    def test_wrong_settings_are_said_with_their_names(self) -> None:
        for name, value in (
            ("port", "lighthouse"),
            ("trusted_proxies", "harbour"),
            ("educators", "some"),
            ("jobs", "-1"),
            ("workers", "0"),
        ):
            with self.assertRaisesRegex(InnerToneError, f"INNER_TONE_{name.upper()} is set to what it cannot be"):
                settings_from(**{name: value})
        done = run_here("serve", INNER_TONE_PORT="lighthouse", INNER_TONE_DATABASE="postgresql+psycopg://")
        self.assertEqual((done.returncode, done.stdout, done.stderr.count("\n")), (2, "", 1))
        self.assertIn("INNER_TONE_PORT", done.stderr)

    def test_a_name_that_is_nearly_a_setting_is_said(self) -> None:
        said = "INNER_TONE_HOST is no setting. Did you mean “INNER_TONE_HOSTS”"
        wrong = mock.patch.dict(os.environ, {"INNER_TONE_HOST": "lessons.example"})
        with wrong, self.assertRaisesRegex(InnerToneError, said):
            settings_from()

    def test_lists_are_written_with_commas(self) -> None:
        found = settings_from(hosts="lessons.example, *.school.example", trusted_proxies="10.0.0.0/8,::1")
        self.assertEqual(found.hosts, ("lessons.example", "*.school.example"))
        self.assertEqual(found.trusted_proxies, ("10.0.0.0/8", "::1"))
        self.assertEqual(Settings().hosts, ("localhost", "127.0.0.1", "[::1]"))


if __name__ == "__main__":
    unittest.main()
