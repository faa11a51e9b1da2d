"""`bin/inner-tone account`: accounts are made and given other passwords without the page."""

import unittest

from inner_tone.store import accounts
from inner_tone.store.database import connect, sessions
from tests.support.command import Answer, run_here
from tests.support.database import fresh_url


class AccountTest(unittest.TestCase):
    def setUp(self) -> None:
        self.database = fresh_url()

    def run_account(self, password: str, *arguments: str) -> Answer:
        return run_here("account", *arguments, "--database", self.database, given=f"{password}\n")

    def test_made_then_another_password(self) -> None:
        made = self.run_account("seven grey gulls", "hauke", "--role", "educator", "--name", "Hauke Petersen")
        self.assertEqual((made.returncode, made.stdout), (0, "Hauke Petersen (educator) can sign in as hauke.\n"))
        changed = self.run_account("nine white boats", "Hauke")
        self.assertEqual(changed.returncode, 0, changed.stderr)
        engine = connect(self.database)
        self.addCleanup(engine.dispose)
        with sessions(engine).begin() as session:
            self.assertEqual(accounts.account_with(session, "hauke", "nine white boats").name, "Hauke Petersen")

    def test_what_cannot_be_done_is_said(self) -> None:
        short = self.run_account("short", "hauke", "--role", "learner")
        self.assertEqual((short.returncode, short.stdout), (2, ""))
        self.assertIn("at least 10", short.stderr)
        nobody = self.run_account("seven grey gulls", "nobody")
        self.assertEqual(nobody.returncode, 2)
        self.assertIn("--role", nobody.stderr)


if __name__ == "__main__":
    unittest.main()
