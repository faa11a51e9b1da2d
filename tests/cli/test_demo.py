"""`bin/demo`'s process: it starts its own database server and leaves nothing behind."""

import os
import re
import signal
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path

from inner_tone.demo.seed import ACCOUNTS, MAREN
from tests.support import plain
from tests.support.application import ROOT, client_of
from tests.support.patience import wait_for


def name_of(process: int) -> str:
    """Return what a process is called: those of the application are all called as the demo."""
    return Path(f"/proc/{process}/comm").read_text(encoding="utf-8")


class DemoTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def start(self) -> tuple[subprocess.Popen[str], str]:
        """Start the demo on the test's folder; returns the process and its address."""
        command = [sys.executable, "-m", "inner_tone.demo", "--data", str(self.folder)]
        demo = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True, start_new_session=True)
        lines: list[str] = []
        assert demo.stdout is not None
        threading.Thread(target=lambda: lines.extend(iter(demo.stdout.readline, "")), daemon=True).start()  # type: ignore[union-attr]
        self.addCleanup(demo.stdout.close)
        self.addCleanup(demo.kill)
        wait_for(lambda: "Stop it" in "".join(lines), 180, "the demo")
        self.said = "".join(lines)
        found = re.search(r"http://\S+", self.said)
        assert found is not None
        return demo, found.group()

    def server_processes(self) -> list[int]:
        """Return the database servers that run on the test's folder."""
        found = []
        for process in Path("/proc").glob("[0-9]*"):
            try:
                if str(self.folder).encode() in (process / "cmdline").read_bytes():
                    found.append(int(process.name))
            except OSError:
                continue
        return found

    def test_it_says_who_can_sign_in_runs_not_as_root_and_ends_when_told(self) -> None:
        demo, address = self.start()
        self.assertEqual({one.role for one in ACCOUNTS}, {"educator", "learner"})
        offered = plain.get(address + "api/account/session").json()["demo"]
        self.assertEqual([one["sign_in"] for one in offered], [one.sign_in for one in ACCOUNTS])
        for one in ACCOUNTS:
            self.assertIn(f"Sign in as {one.sign_in} with the password “{one.password}”", self.said)
        self.assertEqual(client_of(address, MAREN).get("/api/lessons").json()[0]["title"], "Foghorn")
        servers = [pid for pid in self.server_processes() if not name_of(pid).startswith("python")]
        self.assertTrue(servers)
        for pid in servers:
            self.assertNotEqual(os.stat(f"/proc/{pid}").st_uid, 0)
            self.assertIn(b"listen_addresses=127.0.0.1", Path(f"/proc/{pid}/cmdline").read_bytes())
        demo.send_signal(signal.SIGTERM)
        self.assertEqual(demo.wait(30), 0)
        self.assertEqual(self.server_processes(), [])

    def test_server_that_a_killed_demo_left_behind_is_taken_over_and_stopped(self) -> None:
        demo, address = self.start()
        lesson = client_of(address, MAREN).post("/api/lessons", json={"title": "Kept"}).json()
        demo.kill()
        demo.wait()
        self.assertTrue(self.server_processes(), "the killed demo could not stop its server")
        demo, address = self.start()
        self.assertEqual(client_of(address, MAREN).get(f"/api/lessons/{lesson['id']}").json()["title"], "Kept")
        demo.send_signal(signal.SIGINT)
        self.assertEqual(demo.wait(30), 0)
        self.assertEqual(self.server_processes(), [])


if __name__ == "__main__":
    unittest.main()
