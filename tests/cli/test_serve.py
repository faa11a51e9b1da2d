"""`bin/inner-tone serve`: it says where it answers, answers there only, and stops when told."""

import re
import signal
import subprocess
import sys
import unittest

from tests.support import plain
from tests.support.application import ROOT
from tests.support.command import run_here
from tests.support.database import fresh_url


class ServeTest(unittest.TestCase):
    def test_answers_where_it_says_until_it_is_told_to_stop(self) -> None:
        command = [sys.executable, "-m", "inner_tone.cli", "serve", "--database", fresh_url()]
        process = subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, text=True)
        assert process.stdout is not None
        for cleanup in (process.stdout.close, process.wait, process.kill):
            self.addCleanup(cleanup)
        said = process.stdout.readline()
        found = re.fullmatch(r"Inner Tone answers at (http://127\.0\.0\.1:\d+/)\n", said)
        assert found is not None, said
        answer = plain.get(found[1] + "api/account/session", timeout=30)
        self.assertEqual((answer.status_code, answer.json()["me"]), (200, None))
        process.send_signal(signal.SIGTERM)
        self.assertIn(process.wait(30), (0, -signal.SIGTERM))

    def test_database_that_is_not_there_is_said_in_one_line(self) -> None:
        nowhere = "postgresql+psycopg://nobody@127.0.0.1:1/nothing"
        for database, words in (
            (nowhere, "“nothing” at 127.0.0.1:1 does not answer"),
            ("harbour", "is not the address"),
        ):
            done = run_here("serve", "--database", database)
            self.assertEqual((done.returncode, done.stdout), (2, ""))
            self.assertEqual(done.stderr.count("\n"), 1, done.stderr)
            self.assertIn(words, done.stderr)


if __name__ == "__main__":
    unittest.main()
