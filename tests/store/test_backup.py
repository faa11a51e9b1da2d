"""Backups: what is restored is what was there, row by row."""

import tempfile
import unittest
from pathlib import Path

from sqlalchemy import Engine, select, text

from inner_tone.demo.seed import MAREN
from inner_tone.store import accounts, answers, lessons
from inner_tone.store.backup import MADE_AGAIN, BackupError, backup, restore
from inner_tone.store.database import connect, is_current, sessions
from inner_tone.store.models import Lesson
from tests.support.command import run_here
from tests.support.database import DEMO, fresh_url

TABLES = """
    SELECT quote_ident(table_schema) || '.' || quote_ident(table_name) FROM information_schema.tables
    WHERE table_type = 'BASE TABLE' AND table_schema IN ('public', 'procrastinate')
"""


def rows(engine: Engine) -> dict[str, list[str]]:
    """Return every row of every table as text."""
    with engine.connect() as connection:
        return {
            name: sorted(connection.execute(text(f"SELECT row::text FROM {name} AS row")).scalars())
            for name in connection.execute(text(TABLES)).scalars()
        }


class BackupTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.old = fresh_url(DEMO)
        self.engine = connect(self.old)
        self.addCleanup(self.engine.dispose)
        with sessions(self.engine).begin() as session:
            maren = accounts.account_called(session, MAREN.sign_in)
            assert maren is not None
            accounts.begin_sign_in(session, maren, "Möwe \N{SNOWMAN}")
            answers.keep_answer(session, "key", b"\0\1\2")
            lesson = session.scalars(select(Lesson)).first()
            assert lesson is not None
            lessons.delete_lesson(session, lesson.id)

    def test_every_row_comes_back(self) -> None:
        file, new = self.folder / "harbour.backup", fresh_url()
        self.assertEqual(backup(self.old, file), file.stat().st_size)
        self.assertEqual(file.stat().st_mode & 0o077, 0, "nobody else can read it")
        restore(new, file)
        engine = connect(new)
        self.addCleanup(engine.dispose)
        before, after = rows(self.engine), rows(engine)
        self.assertEqual(set(before), set(after))
        for name, found in before.items():
            kept = [] if name.removeprefix("public.") in MADE_AGAIN else found
            self.assertEqual(after[name], kept, name)
        self.assertGreater(sum(map(len, after.values())), 40)
        with sessions(engine).begin() as session:
            self.assertTrue(is_current(session))
            number = session.scalar(text("SELECT nextval(pg_get_serial_sequence('step_history', 'id'))"))
            self.assertGreater(number or 0, len(before["public.step_history"]), "numbers go on where they were")

    def test_what_cannot_be_done_is_said_and_changes_nothing(self) -> None:
        file = self.folder / "harbour.backup"
        backup(self.old, file)
        before = rows(self.engine)
        with self.assertRaisesRegex(BackupError, "not empty"):
            restore(self.old, file)
        cut = self.folder / "cut.backup"
        cut.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
        new = fresh_url()
        with self.assertRaisesRegex(BackupError, "pg_restore has failed"):
            restore(new, cut)
        engine = connect(new)
        self.addCleanup(engine.dispose)
        self.assertEqual(rows(engine), {}, "all or nothing")
        with self.assertRaisesRegex(BackupError, "no file"):
            restore(new, self.folder / "none")
        with self.assertRaisesRegex(BackupError, "pg_dump has failed"):
            backup("postgresql+psycopg://nobody@127.0.0.1:1/nothing", self.folder / "nothing")
        self.assertEqual(rows(self.engine), before)
        self.assertEqual({one.name for one in self.folder.iterdir()}, {"harbour.backup", "cut.backup"})

    def test_commands(self) -> None:
        file = self.folder / "harbour.backup"
        for command, database, said in (
            ("backup", self.old, "holds the whole database"),
            ("restore", fresh_url(), "is in the database"),
        ):
            done = run_here(command, str(file), INNER_TONE_DATABASE=database)
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            self.assertIn(said, done.stdout)


if __name__ == "__main__":
    unittest.main()
