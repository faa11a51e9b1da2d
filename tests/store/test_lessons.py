"""Lessons and steps in the database: nothing is lost, nothing is overwritten."""

import threading
import unittest
import uuid

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError

from inner_tone.core.lesson.step import StepContent
from inner_tone.demo import foghorn
from inner_tone.demo.seed import seed
from inner_tone.store import lessons, renders
from inner_tone.store.database import Sessions, migrate, sessions
from inner_tone.store.lessons import ConflictError, NotFoundError
from inner_tone.store.models import Base, Lesson, Step
from tests.support.database import fresh_engine


class StoreTest(unittest.TestCase):
    engine: Engine
    sessions: Sessions

    @classmethod
    def setUpClass(cls) -> None:
        cls.engine = fresh_engine()
        cls.sessions = sessions(cls.engine)
        cls.addClassCleanup(cls.engine.dispose)

    def setUp(self) -> None:
        with self.sessions.begin() as session:
            self.lesson = lessons.create_lesson(session, "Foghorn", "", foghorn.STEPS)

    def titles(self) -> list[str]:
        with self.sessions.begin() as session:
            steps = lessons.steps_of(session, self.lesson.id)
            self.assertEqual([step.position for step in steps], list(range(len(steps))))
            return [lessons.content_of(step).title for step in steps]

    def step(self, place: int) -> Step:
        with self.sessions.begin() as session:
            return lessons.steps_of(session, self.lesson.id)[place]

    def history(self, step_id: uuid.UUID) -> list[tuple[str, int]]:
        with self.sessions.begin() as session:
            return [(row.action, row.version) for row in lessons.history_of(session, step_id)][::-1]


class StepTest(StoreTest):
    def test_content_comes_back_as_it_went(self) -> None:
        with self.sessions.begin() as session:
            kept = [lessons.content_of(step) for step in lessons.steps_of(session, self.lesson.id)]
        self.assertEqual(kept, list(foghorn.STEPS))

    def test_change_is_kept_with_its_history(self) -> None:
        step = self.step(2)
        for version, title in ((1, "Once"), (2, "Twice")):
            with self.sessions.begin() as session:
                content = foghorn.STEPS[2].model_copy(update={"title": title})
                lessons.change_step(session, step.id, version, content)
        self.assertEqual(self.titles()[2], "Twice")
        self.assertEqual(self.history(step.id), [("created", 1), ("changed", 2), ("changed", 3)])

    def test_change_of_an_old_version_is_refused_and_overwrites_nothing(self) -> None:
        step = self.step(0)
        with self.sessions.begin() as session:
            lessons.change_step(session, step.id, 1, foghorn.STEPS[0].model_copy(update={"title": "Theirs"}))
        with self.assertRaises(ConflictError) as caught, self.sessions.begin() as session:
            lessons.change_step(session, step.id, 1, foghorn.STEPS[0].model_copy(update={"title": "Mine"}))
        self.assertEqual(caught.exception.current, 2)
        self.assertEqual(self.titles()[0], "Theirs")
        self.assertEqual(len(self.history(step.id)), 2)

    def test_of_many_who_change_at_once_one_wins(self) -> None:
        step = self.step(1)
        outcomes: list[str] = []
        start = threading.Barrier(8)

        def change(name: str) -> None:
            start.wait()
            try:
                with self.sessions.begin() as session:
                    content = foghorn.STEPS[1].model_copy(update={"title": name})
                    lessons.change_step(session, step.id, 1, content)
                outcomes.append(name)
            except ConflictError:
                outcomes.append("refused")

        threads = [threading.Thread(target=change, args=(f"writer {n}",)) for n in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(outcomes.count("refused"), 7)
        self.assertEqual([self.titles()[1]], [name for name in outcomes if name != "refused"])

    def test_added_step_stands_behind_the_one_named(self) -> None:
        with self.sessions.begin() as session:
            added = lessons.add_step(session, self.lesson.id, self.step(1).id)
            content = lessons.content_of(added)
        self.assertEqual(self.titles()[2], "New step")
        self.assertEqual(content.patch, foghorn.STEPS[1].patch)
        self.assertEqual(len(self.titles()), 6)

    def test_many_who_add_at_once_all_find_a_place(self) -> None:
        def add() -> None:
            with self.sessions.begin() as session:
                lessons.add_step(session, self.lesson.id, None)

        threads = [threading.Thread(target=add) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(self.titles()), 11)

    def test_first_step_of_an_empty_lesson(self) -> None:
        with self.sessions.begin() as session:
            empty = lessons.create_lesson(session, "Empty", "", [])
            added = lessons.add_step(session, empty.id, None)
            self.assertEqual([one.type for one in lessons.content_of(added).patch.modules], ["player", "output"])

    def test_duplicate_stands_behind_the_original(self) -> None:
        with self.sessions.begin() as session:
            lessons.duplicate_step(session, self.step(0).id)
        self.assertEqual(self.titles()[:2], [foghorn.STEPS[0].title, f"{foghorn.STEPS[0].title} (copy)"])

    def test_deleted_step_comes_back_where_it_was(self) -> None:
        before = self.titles()
        step = self.step(2)
        with self.sessions.begin() as session:
            lessons.delete_step(session, step.id)
        self.assertEqual(self.titles(), before[:2] + before[3:])
        with self.assertRaises(NotFoundError), self.sessions.begin() as session:
            lessons.change_step(session, step.id, 2, StepContent())
        with self.sessions.begin() as session:
            lessons.restore_step(session, step.id)
        self.assertEqual(self.titles(), before)
        self.assertEqual([action for action, _ in self.history(step.id)], ["created", "deleted", "restored"])

    def test_order(self) -> None:
        before = self.titles()
        with self.sessions.begin() as session:
            wanted = [step.id for step in lessons.steps_of(session, self.lesson.id)][::-1]
            lessons.order_steps(session, self.lesson.id, 1, wanted)
        self.assertEqual(self.titles(), before[::-1])
        with self.assertRaises(ConflictError), self.sessions.begin() as session:
            lessons.order_steps(session, self.lesson.id, 1, wanted)


class LessonTest(StoreTest):
    def test_shelf_shows_the_latest_change_first(self) -> None:
        with self.sessions.begin() as session:
            other = lessons.create_lesson(session, "Bell", "", [])
        with self.sessions.begin() as session:
            lessons.change_step(session, self.step(0).id, 1, foghorn.STEPS[0])
        with self.sessions.begin() as session:
            rows = [(row.id, steps) for row, steps in lessons.all_lessons(session)]
        self.assertEqual(rows[:2], [(self.lesson.id, 5), (other.id, 0)])

    def test_title_and_summary(self) -> None:
        with self.sessions.begin() as session:
            lessons.describe_lesson(session, self.lesson.id, 1, "Horn", "New")
        with self.assertRaises(ConflictError), self.sessions.begin() as session:
            lessons.describe_lesson(session, self.lesson.id, 1, "Old", "")
        with self.sessions.begin() as session:
            self.assertEqual(lessons.lesson(session, self.lesson.id).title, "Horn")

    def test_deleted_lesson_comes_back_with_its_steps(self) -> None:
        with self.sessions.begin() as session:
            lessons.delete_lesson(session, self.lesson.id)
        with self.assertRaises(NotFoundError), self.sessions.begin() as session:
            lessons.lesson(session, self.lesson.id)
        with self.sessions.begin() as session:
            lessons.restore_lesson(session, self.lesson.id)
        self.assertEqual(len(self.titles()), 5)


class HistoryTest(StoreTest):
    def test_history_refuses_every_change(self) -> None:
        for statement in (
            "UPDATE step_history SET action = 'changed'",
            "DELETE FROM step_history",
            "TRUNCATE step_history",
        ):
            with self.assertRaisesRegex(DBAPIError, "only ever added to"), self.engine.begin() as connection:
                connection.execute(text(statement))


class RenderTest(StoreTest):
    def test_sound_of_a_saved_step_is_kept(self) -> None:
        key = self.step(4).render_key
        with self.sessions.begin() as session:
            self.assertTrue(renders.belongs_to_step(session, key))
            self.assertFalse(renders.belongs_to_step(session, "none"))
            renders.keep(session, key, b"wave")
            renders.keep(session, key, b"again")
            self.assertEqual(renders.wav_of(session, key), b"wave")
            self.assertIsNone(renders.wav_of(session, "none"))

    def test_oldest_sounds_give_way(self) -> None:
        with self.sessions.begin() as session:
            for number in range(renders.MOST_KEPT + 5):
                renders.keep(session, f"key {number}", b"wave")
        with self.sessions.begin() as session:
            self.assertIsNone(renders.wav_of(session, "key 0"))
            self.assertIsNotNone(renders.wav_of(session, f"key {renders.MOST_KEPT + 4}"))


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
            self.assertEqual(session.query(Lesson).count(), 1)
        engine.dispose()


if __name__ == "__main__":
    unittest.main()
