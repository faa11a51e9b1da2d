"""Migrations: they make what the models say, and keep what was there."""

import threading
import unittest
import uuid

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from inner_tone.demo import foghorn
from inner_tone.demo.seed import MAREN, seed
from inner_tone.store import accounts, lessons, written
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.models import Base, Lesson
from tests.support.database import fresh_engine, fresh_url


class MigrationTest(unittest.TestCase):
    def test_migrations_make_what_the_models_say(self) -> None:
        engine = fresh_engine()
        with engine.connect() as connection:
            context = MigrationContext.configure(connection, opts={"compare_type": True})
            self.assertEqual(compare_metadata(context, Base.metadata), [])
        engine.dispose()

    def test_migrating_twice_and_at_once_is_harmless(self) -> None:
        engine = fresh_engine()
        threads = [threading.Thread(target=migrate, args=(engine,)) for _ in range(3)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        seed(sessions(engine))
        seed(sessions(engine))
        with sessions(engine).begin() as session:
            self.assertEqual(session.query(Lesson).count(), 3)
        engine.dispose()

    def test_lessons_from_before_accounts_come_to_the_demos_educator_and_are_found(self) -> None:
        engine = connect(fresh_url())
        self.addCleanup(engine.dispose)
        migrate(engine, "0002")
        lesson, step = uuid.uuid4(), uuid.uuid4()
        with engine.begin() as connection:
            connection.execute(
                text("INSERT INTO lessons VALUES (:id, 'Old horn', '', 1, now(), now(), NULL)"), {"id": lesson}
            )
            connection.execute(
                text("INSERT INTO steps VALUES (:id, :lesson, 0, 1, CAST(:content AS jsonb), '', now(), now(), NULL)"),
                {"id": step, "lesson": lesson, "content": foghorn.STEPS[4].model_dump_json(by_alias=True)},
            )
        migrate(engine)
        with sessions(engine).begin() as session:
            earlier = accounts.account_called(session, "earlier")
            assert earlier is not None
            self.assertEqual(lessons.lesson(session, lesson).owner_id, earlier.id)
            self.assertIn("Bell mouth", written.steps_of(session, lesson)[0].words)
            self.assertEqual(written.content_of(written.steps_of(session, lesson)[0]), foghorn.STEPS[4])
        seed(sessions(engine))
        with sessions(engine).begin() as session:
            self.assertEqual(lessons.lesson(session, lesson).owner.sign_in, MAREN.sign_in)
            self.assertEqual(session.query(Lesson).count(), 1, "no demo lessons beside one's own")

    def test_database_guards_what_is_only_added_to(self) -> None:
        engine = connect(fresh_url())
        self.addCleanup(engine.dispose)
        migrate(engine)
        with engine.connect() as connection:
            names = (
                connection.execute(
                    text("SELECT tgname FROM pg_trigger WHERE NOT tgisinternal AND tgname NOT LIKE 'procrastinate%'")
                )
                .scalars()
                .all()
            )
        guarded = {f"{one}_is_append_only" for one in ("step_history", "attempt_history")}
        guarded |= {"editions_are_append_only", "operations_are_append_only", "attempt_history_goes_as_a_whole"}
        self.assertEqual(set(names), guarded)


if __name__ == "__main__":
    unittest.main()
