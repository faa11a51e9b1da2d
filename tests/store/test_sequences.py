"""Operations on lessons in random sequences: each followed by its undo leaves every step as it was, to the byte."""

import random
import unittest
import uuid
from collections.abc import Callable

from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.step import StepContent
from inner_tone.store import lessons, written
from inner_tone.store.models import Step
from tests.core.test_arranging import random_lesson
from tests.support.edits import random_edits, tried
from tests.support.store import StoreTest, put

SEQUENCES = 60  # a thousand have been tried, with seed 17
Standing = list[tuple[uuid.UUID, str]]


class SequencesTest(StoreTest):
    def begin(self, dice: random.Random) -> uuid.UUID:
        steps = [StepContent(title=f"Step {n}", patch=patch) for n, patch in enumerate(random_lesson(dice))]
        with self.sessions.begin() as session:
            return lessons.create_lesson(session, self.owner.id, LessonDocument(title="Any", steps=tuple(steps))).id

    def standing(self, lesson: uuid.UUID) -> Standing:
        """Return the steps in their order, each with all that is in it."""
        with self.sessions.begin() as session:
            steps = written.steps_of(session, lesson)
            return [(step.id, written.content_of(step).model_dump_json()) for step in steps]

    def steps(self, session: Session, lesson: uuid.UUID) -> list[Step]:
        return written.steps_of(session, lesson)

    def operation(self, session: Session, lesson: uuid.UUID, dice: random.Random) -> str:
        """Do something to a lesson as a whole; returns what. Raises InnerToneError where it means nothing."""
        steps = self.steps(session, lesson)
        step = dice.choice(steps)
        ways: dict[str, Callable[[], object]] = {
            "move": lambda: self.moved(session, lesson, dice),
            "split": lambda: lessons.split_step(session, step.id, step.version, 1),
            "join": lambda: lessons.join_step(session, step.id, step.version),
            "delete": lambda: lessons.delete_step(session, step.id),
            "carry": lambda: lessons.carry(session, step.id),
            "duplicate": lambda: lessons.duplicate_step(session, step.id),
            "take": lambda: lessons.take_step(session, lesson, step.id, written.content_of(dice.choice(steps))),
            "add": lambda: lessons.add_step(session, lesson, step.id, finishing=dice.random() < 0.5),
        }
        kind = dice.choice(list(ways))
        ways[kind]()
        return kind

    def moved(self, session: Session, lesson: uuid.UUID, dice: random.Random) -> None:
        ids = [step.id for step in self.steps(session, lesson)]
        moved = ids.pop(dice.randrange(len(ids)))
        ids.insert(dice.randrange(len(ids) + 1), moved)
        lessons.order_steps(session, lesson, lessons.lesson(session, lesson).version, ids)

    def edit(self, lesson: uuid.UUID, dice: random.Random) -> None:
        """Change a step as somebody does at the bench."""
        with self.sessions.begin() as session:
            step = dice.choice(self.steps(session, lesson))
            content = written.content_of(step)
            patch = tried(content.patch, random_edits(content.patch, dice, 14))
            put(session, step.id, step.version, content.model_copy(update={"patch": patch}))

    def undo(self, lesson: uuid.UUID) -> None:
        with self.sessions.begin() as session:
            lessons.undo(session, lesson)

    def sequence(self, dice: random.Random) -> dict[str, int]:
        """Try some operations on a lesson one after the other, each undone and done; then undo all that can be."""
        lesson = self.begin(dice)
        done: dict[str, int] = {}
        stood = [self.standing(lesson)]
        for _ in range(dice.randrange(2, 5)):
            if dice.random() < 0.4:
                self.edit(lesson, dice)
                stood = [self.standing(lesson)]  # what was done before is not undone past a change
            before = stood[-1]
            state = dice.getstate()
            kind = self.tried(lesson, dice)
            if kind is None:
                self.assertEqual(self.standing(lesson), before, "what is refused changes nothing")
                continue
            done[kind] = done.get(kind, 0) + 1
            after = self.standing(lesson)
            if after == before:
                continue
            self.undo(lesson)
            self.assertEqual(self.standing(lesson), before, kind)
            dice.setstate(state)
            self.assertEqual(self.tried(lesson, dice), kind)
            again = self.standing(lesson)
            self.assertEqual([text for _, text in again], [text for _, text in after], kind)
            stood.append(again)
        for earlier in reversed(stood[:-1]):
            self.undo(lesson)
            self.assertEqual(self.standing(lesson), earlier)
        return done

    def tried(self, lesson: uuid.UUID, dice: random.Random) -> str | None:
        try:
            with self.sessions.begin() as session:
                return self.operation(session, lesson, dice)
        except InnerToneError:
            return None

    def run_sequences(self, count: int, seed: int = 17) -> dict[str, int]:
        dice, done = random.Random(seed), dict[str, int]()
        for _ in range(count):
            for kind, times in self.sequence(dice).items():
                done[kind] = done.get(kind, 0) + times
        return done

    def test_every_operation_can_be_undone_to_the_byte(self) -> None:
        done = self.run_sequences(SEQUENCES)
        self.assertEqual(len(done), 8, done)


if __name__ == "__main__":
    unittest.main()
