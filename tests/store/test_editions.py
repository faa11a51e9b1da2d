"""Editions and their learners, series, lessons that start from others, and search, as they are kept."""

import unittest
from typing import Any

from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from inner_tone.core.lesson.lesson import LessonDocument, Start
from inner_tone.core.lesson.step import following_step, told
from inner_tone.core.patch.model import Patch
from inner_tone.demo import foghorn
from inner_tone.demo.foghorn import DISTANT, LESSON, STEPS
from inner_tone.store import editions, lessons, rights, series, written
from inner_tone.store.errors import ConflictError, NotFoundError
from inner_tone.store.models import Account, Edition, Lesson
from inner_tone.store.search import found_steps, pieces, query_of
from tests.support.patches import settled
from tests.support.store import StoreTest, put


class LessonsTest(StoreTest):
    learner: Account

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.learner = cls.account("ole", "learner")

    def setUp(self) -> None:
        self.lesson = self.begin(LESSON)

    def begin(self, document: LessonDocument, start: Start | None = None) -> Lesson:
        with self.sessions.begin() as session:
            return lessons.create_lesson(session, self.owner.id, document, start)

    def retitle(self, title: str) -> None:
        with self.sessions.begin() as session:
            version = lessons.lesson(session, self.lesson.id).version
            lessons.describe_lesson(session, self.lesson.id, version, LessonDocument(title=title))

    def publish(self, notes: str = "") -> Edition:
        with self.sessions.begin() as session:
            document, _ = lessons.document_of(session, lessons.lesson(session, self.lesson.id))
            return editions.publish(session, self.lesson.id, document, self.owner.id, notes)


class EditionTest(LessonsTest):
    def test_edition_is_what_stood_then(self) -> None:
        self.assertEqual(self.publish("The first.").number, 1)
        self.retitle("Fog signal")
        self.assertEqual(self.publish().number, 2)
        with self.sessions.begin() as session:
            second, first = editions.editions_of(session, self.lesson.id)
            self.assertEqual(editions.document_in(first), LESSON)
            self.assertEqual((first.notes, first.publisher and first.publisher.name), ("The first.", "Imke"))
            self.assertEqual(editions.document_in(second).title, "Fog signal")
            self.assertEqual(first.step_ids, second.step_ids)
            with self.assertRaises(NotFoundError):
                editions.edition_of(session, self.lesson.id, 3)

    def test_only_what_has_been_read_is_published(self) -> None:
        self.retitle("Changed meanwhile")
        with self.sessions.begin() as session, self.assertRaises(ConflictError):
            editions.publish(session, self.lesson.id, LESSON, self.owner.id)

    def test_database_refuses_every_change_of_an_edition(self) -> None:
        self.publish()
        for statement in ("UPDATE editions SET notes = 'x'", "DELETE FROM editions", "TRUNCATE editions"):
            with self.assertRaisesRegex(DBAPIError, "stays as it is"), self.engine.begin() as connection:
                connection.execute(text(statement))


class FollowingTest(LessonsTest):
    def practised(self) -> int:
        with self.sessions.begin() as session:
            return editions.to_practise(session, self.learner, self.lesson.id)[1].number

    def follow(self, place: int, *, newest: bool = False) -> None:
        with self.sessions.begin() as session:
            editions.follow(session, self.learner, self.lesson.id, place, short=False, newest=newest)

    def test_learner_stays_on_the_edition_they_began_until_they_move_on(self) -> None:
        self.publish()
        self.follow(2)
        self.publish()
        self.assertEqual(self.practised(), 1)
        self.follow(3)
        self.assertEqual(self.practised(), 1)
        self.follow(3, newest=True)
        self.assertEqual(self.practised(), 2)

    def test_who_moves_on_stays_at_their_step(self) -> None:
        self.publish()
        self.follow(4)
        self.follow(2)
        with self.sessions.begin() as session:
            ids = [step.id for step in written.steps_of(session, self.lesson.id)]
            lessons.add_step(session, self.lesson.id, ids[0])
            lessons.delete_step(session, ids[3])
        self.publish()
        self.assertEqual(self.following(), (2, 4))
        self.follow(2, newest=True)
        self.assertEqual(self.following(), (3, 4), "one step has come before it, one behind it has gone")
        with self.sessions.begin() as session:
            lessons.delete_step(session, ids[2])
        self.publish()
        self.follow(3, newest=True)
        self.assertEqual(self.following(), (2, 3), "where the step is gone, it is the one before it")

    def following(self) -> tuple[int, int]:
        with self.sessions.begin() as session:
            found = editions.following_of(session, self.learner, self.lesson.id)
            assert found is not None
            return found.place, found.reached

    def test_who_has_not_begun_gets_the_newest(self) -> None:
        with self.assertRaisesRegex(NotFoundError, "not published"):
            self.practised()
        self.publish()
        self.publish()
        self.assertEqual(self.practised(), 2)

    def test_deleted_lesson_stays_for_those_who_have_begun_it(self) -> None:
        self.publish()
        self.follow(1)
        stranger = self.account("antje", "learner")
        with self.sessions.begin() as session:
            lessons.delete_lesson(session, self.lesson.id)
        self.assertEqual(self.practised(), 1)
        with self.sessions.begin() as session:
            with self.assertRaises(NotFoundError):
                editions.to_practise(session, stranger, self.lesson.id)
            self.assertNotIn(self.lesson.id, [one.lesson.id for one in editions.published(session, self.learner)])

    def test_published_lessons_by_words_with_what_was_begun_first(self) -> None:
        self.publish()
        dredger = LESSON.model_copy(update={"title": "Dredger", "steps": STEPS[:1]})
        other = self.begin(dredger)
        with self.sessions.begin() as session:
            editions.publish(session, other.id, dredger, self.owner.id)
        self.follow(1)
        with self.sessions.begin() as session:
            found = [one.lesson.id for one in editions.published(session, self.learner)]
            self.assertEqual(found[0], self.lesson.id)
            self.assertIn(other.id, found)
            for words, expected in (("dredg", [other.id]), ("dromedary", []), ("dredger envelope", [])):
                self.assertEqual([one.lesson.id for one in editions.published(session, self.learner, words)], expected)


class StartTest(LessonsTest):
    def setUp(self) -> None:
        super().setUp()
        start = Start(lesson=str(self.lesson.id), patch=DISTANT)
        begun = following_step(STEPS[4]).model_copy(update={"title": "Where we were"})
        louder = self.with_setting("out", level=-6.0)
        self.next = self.begin(
            LessonDocument(title="Fog", steps=(begun, begun.model_copy(update={"patch": louder}))), start
        )

    def with_setting(self, module: str, **settings: float) -> Patch:
        """Return the distant horn with other settings of one module."""
        found = DISTANT.by_id[module]
        other = found.model_copy(update={"settings": dict(found.settings) | settings})
        modules = tuple(other if one.id == module else one for one in DISTANT.modules)
        return DISTANT.model_copy(update={"modules": modules})

    def patches(self) -> list[tuple[Any, ...]]:
        with self.sessions.begin() as session:
            return [settled(written.content_of(one).patch) for one in written.steps_of(session, self.next.id)]

    def test_first_step_is_told_from_where_the_lesson_before_ends(self) -> None:
        with self.sessions.begin() as session:
            document, _ = lessons.document_of(session, self.next)
        first, second = told(document.steps, document.start)
        self.assertEqual(first.instructions, ())
        self.assertEqual(len(second.instructions), 1)

    def test_it_follows_when_the_lesson_before_has_changed_and_can_be_taken_back(self) -> None:
        before = self.patches()
        with self.sessions.begin() as session:
            last = written.steps_of(session, self.lesson.id)[4]
            content = written.content_of(last).model_copy(update={"patch": self.with_setting("bell", cutoff=300.0)})
            put(session, last.id, last.version, content)
        with self.sessions.begin() as session:
            changed = [(one.id, one.version) for one in lessons.follow_start(session, self.next.id)]
        self.assertEqual(len(changed), 2)
        for patch in self.patches():
            self.assertEqual(patch[1]["bell"][2]["cutoff"], 300.0)
        self.assertEqual(self.patches()[1][1]["out"][2]["level"], -6.0)
        with self.sessions.begin() as session:
            lessons.undo(session, self.next.id)
        self.assertEqual(self.patches(), before)
        with self.sessions.begin() as session:
            start = lessons.start_of(lessons.lesson(session, self.next.id))
        assert start is not None
        self.assertEqual(settled(start.patch), settled(DISTANT))

    def test_lesson_before_that_is_gone(self) -> None:
        with self.sessions.begin() as session:
            lessons.delete_lesson(session, self.lesson.id)
        with self.sessions.begin() as session, self.assertRaises(NotFoundError):
            lessons.follow_start(session, self.next.id)

    def test_first_step_is_split_from_where_the_lesson_starts(self) -> None:
        with self.sessions.begin() as session:
            step = written.steps_of(session, self.next.id)[0]
            both = self.with_setting("out", level=-6.0).model_copy(update={"voices": 2})
            content = written.content_of(step).model_copy(update={"patch": both})
            put(session, step.id, step.version, content)
        with self.sessions.begin() as session:
            first = written.content_of(lessons.split_step(session, step.id, step.version, 1))
            document, _ = lessons.document_of(session, lessons.lesson(session, self.next.id))
        self.assertEqual(set(first.patch.by_id), set(DISTANT.by_id), "it does not begin from nothing")
        self.assertEqual([len(one.instructions) for one in told(document.steps, document.start)][:2], [1, 1])

    def test_order_knows_where_the_lesson_starts(self) -> None:
        with self.sessions.begin() as session:
            steps = written.steps_of(session, self.next.id)
            lessons.order_steps(session, self.next.id, self.next.version, [steps[1].id, steps[0].id])
        with self.sessions.begin() as session:
            document, _ = lessons.document_of(session, lessons.lesson(session, self.next.id))
        first, second = told(document.steps, document.start)
        self.assertEqual([len(first.instructions), len(second.instructions)], [1, 0])


class SeriesTest(LessonsTest):
    def test_order_membership_and_rights(self) -> None:
        other = self.begin(LESSON.model_copy(update={"title": "Bell"}))
        stranger = self.account("silke")
        with self.sessions.begin() as session:
            made = series.create_series(session, self.owner, "The harbour", "")
            series.append(session, self.owner, made.id, lessons.lesson(session, self.lesson.id))
            series.append(session, self.owner, made.id, lessons.lesson(session, other.id))
            ids = [one.id for one in series.lessons_in(session, made.id)]
            self.assertEqual(ids, [self.lesson.id, other.id])
            series.change_series(session, self.owner, made.id, 1, "Harbour sounds", "", ids[::-1])
            self.assertEqual([one.id for one in series.lessons_in(session, made.id)], ids[::-1])
            self.assertEqual(series.lessons_in(session, made.id, published=True), [])
        with self.sessions.begin() as session:
            with self.assertRaises(ConflictError):
                series.change_series(session, self.owner, made.id, 1, "Late", "", [])
            with self.assertRaises(NotFoundError):
                series.change_series(session, stranger, made.id, 2, "Mine", "", [])
        with self.sessions.begin() as session:
            theirs = series.create_series(session, stranger, "Theirs", "")
            with self.assertRaises(NotFoundError):
                series.change_series(session, stranger, theirs.id, 1, "Theirs", "", [self.lesson.id])
            series.delete_series(session, self.owner, made.id)
        with self.sessions.begin() as session:
            self.assertIsNone(lessons.lesson(session, other.id).series_id)
            with self.assertRaises(NotFoundError):
                series.series_with(session, made.id)


class SearchTest(LessonsTest):
    def found(self, words: str, who: Account | None = None) -> list[int]:
        with self.sessions.begin() as session:
            steps = found_steps(session, who or self.owner, words)
            return [one.place for one in steps if one.lesson.id == self.lesson.id]

    def test_titles_texts_and_modules_by_the_beginnings_of_words(self) -> None:
        self.assertEqual(self.found("brilliance"), [4])
        self.assertEqual(self.found("clicks"), [2, 3], "words are found in all their forms")
        self.assertEqual(self.found("envel"), [3, 4], "a type of module")
        self.assertEqual(self.found("bell mouth"), [4], "the educator’s name for one")
        self.assertEqual(self.found("saltmarsh mole"), [0], "what the lesson says of itself leads to its first step")
        self.assertEqual(self.found("filter dromedary"), [])
        for nothing in ("", "  ", "&|!", "'"):
            self.assertEqual(self.found(nothing), [])

    def test_only_ones_own_and_shared_lessons(self) -> None:
        second = self.account("wiebke")
        self.assertEqual(self.found("brilliance", second), [])
        with self.sessions.begin() as session:
            rights.share(session, self.lesson.id, second, may_write=False)
        self.assertEqual(self.found("brilliance", second), [4])

    def test_words_follow_a_change(self) -> None:
        with self.sessions.begin() as session:
            step = written.steps_of(session, self.lesson.id)[0]
            content = written.content_of(step).model_copy(update={"why": "About a dromedary."})
            put(session, step.id, step.version, content)
        self.assertEqual(self.found("dromedaries"), [0])

    def test_words_of_another_language_are_found_as_they_are_written(self) -> None:
        with self.sessions.begin() as session:
            step = written.steps_of(session, self.lesson.id)[0]
            put(
                session,
                step.id,
                step.version,
                written.content_of(step).model_copy(update={"why": "Es will übers Meer."}),
            )
        self.assertEqual(self.found("will über"), [0], "what is no word in English is one elsewhere")
        self.assertEqual(self.found("will unters"), [])

    def test_excerpt_has_the_words_in_every_second_piece(self) -> None:
        with self.sessions.begin() as session:
            (found,) = [one for one in found_steps(session, self.owner, "brilliance") if one.place == 4][:1]
        self.assertEqual([one.casefold() for one in found.excerpt[1::2]], ["brilliance"])
        self.assertEqual(pieces("a ‹‹b›› c"), ("a ", "b", " c"))
        self.assertEqual(query_of("Bell-mouth's 24"), "bell:* & mouth:* & s:* & 24:*")


class TakingTest(LessonsTest):
    def test_step_comes_into_another_lesson_without_what_it_waited_for(self) -> None:
        other = self.begin(LessonDocument(title="Other", steps=STEPS[:2]))
        waiting = STEPS[3].model_copy(update={"built_on": foghorn.BARE})
        with self.sessions.begin() as session:
            first = written.steps_of(session, other.id)[0]
            lessons.take_step(session, other.id, first.id, waiting)
        with self.sessions.begin() as session:
            contents = [written.content_of(one) for one in written.steps_of(session, other.id)]
        self.assertEqual([one.title for one in contents], [STEPS[place].title for place in (0, 3, 1)])
        self.assertEqual(contents[1], STEPS[3])


if __name__ == "__main__":
    unittest.main()
