"""What learners make of a lesson, for those who may read its desk: how far they are, attempts and questions."""

import uuid
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from inner_tone.api.access import Me, QuestionToAnswer, ReadableLesson
from inner_tone.api.attempt_schemas import (
    AttemptOut,
    PlayedOut,
    QuestionOut,
    StandingOut,
    attempt_out,
    played_out,
    question_out,
    standing_out,
)
from inner_tone.api.context import Database
from inner_tone.api.schemas import Incoming
from inner_tone.store import attempts as store
from inner_tone.store.models import Account

router = APIRouter(prefix="/api/lessons/{lesson_id}/learners", tags=["learners"])
answers = APIRouter(prefix="/api/questions", tags=["learners"])


class LearnerOut(BaseModel):
    """Somebody who follows the lesson: by step, how far they are and what they have made, given and asked."""

    id: uuid.UUID
    name: str
    standings: list[StandingOut]
    attempts: list[AttemptOut]
    played: list[PlayedOut]
    questions: list[QuestionOut]
    last_at: datetime


class AnswerWish(Incoming):
    """The answer to a question."""

    text: Annotated[str, Field(min_length=1, max_length=4_000)]


@router.get("")
def list_learners(session: Database, me: Me, lesson_id: ReadableLesson) -> list[LearnerOut]:
    """Return who does the lesson's steps: those whose question waits first, then those who did something last."""
    people: dict[uuid.UUID, tuple[Account, LearnerOut]] = {}

    def of(account: Account, at: datetime) -> LearnerOut:
        known = people.get(account.id)
        if known is None:
            made = LearnerOut(
                id=account.id, name=account.name, standings=[], attempts=[], played=[], questions=[], last_at=at
            )
            people[account.id] = account, made
            return made
        known[1].last_at = max(known[1].last_at, at)
        return known[1]

    for standing in store.all_standings(session, lesson_id):
        of(standing.account, standing.at).standings.append(standing_out(standing))
    for attempt in store.all_attempts(session, lesson_id):
        of(attempt.account, attempt.updated_at).attempts.append(attempt_out(attempt))
    for given in store.all_played(session, lesson_id):
        of(given.account, given.at).played.append(played_out(given))
    for question in store.all_questions(session, lesson_id):
        of(question.account, question.asked_at).questions.append(question_out(question))
    found = [one for account, one in people.values() if account.id != me.id]
    return sorted(found, key=lambda one: (all(q.answer for q in one.questions), -one.last_at.timestamp()))


@answers.put("/{question_id}")
def answer(session: Database, me: Me, question_id: QuestionToAnswer, wish: AnswerWish) -> QuestionOut:
    """Answer a question in a lesson whose desk one may read."""
    return question_out(store.answer(session, me, store.question_for(session, me, question_id), wish.text))
