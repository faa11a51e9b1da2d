"""Migrations: they make what the models say, and keep what was there."""

import threading
import unittest

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from inner_tone.demo.seed import seed
from inner_tone.store.database import connect, migrate, sessions
from inner_tone.store.errors import DatabaseError
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

    def test_database_of_a_version_that_nobody_knows_is_refused_and_stays_as_it_is(self) -> None:
        engine = fresh_engine()
        self.addCleanup(engine.dispose)
        seed(sessions(engine))
        with engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '0012'"))
        with self.assertRaisesRegex(DatabaseError, "does not know"):
            migrate(engine)
        with sessions(engine).begin() as session:
            self.assertEqual(session.query(Lesson).count(), 3)

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
