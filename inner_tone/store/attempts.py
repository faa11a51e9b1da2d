"""What learners make of steps at benches of their own. Only they see it, and those who may read the lesson's desk."""

import uuid
from collections.abc import Sequence
from typing import Literal

from sqlalchemy import ColumnElement, delete, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload

from inner_tone.core.errors import InnerToneError
from inner_tone.core.patch.merge import merged
from inner_tone.core.patch.model import Patch
from inner_tone.store.accounts import EDUCATOR
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import (
    Account,
    Attempt,
    AttemptHistory,
    Played,
    Question,
    Recording,
    Standing,
    now,
)
from inner_tone.store.rights import Right, right_to, teaches
from inner_tone.store.sources import recording

MOST_ATTEMPTS = 12  # at one step
State = Literal["opened", "near", "done"]
ORDER: dict[str, int] = {"opened": 0, "near": 1, "done": 2}


def attempts_at(session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID) -> list[Attempt]:
    """Return what somebody has made of a step, the one changed last first."""
    query = select(Attempt).where(
        Attempt.account_id == account.id, Attempt.lesson_id == lesson_id, Attempt.step_id == step_id
    )
    return list(session.scalars(query.order_by(Attempt.updated_at.desc(), Attempt.id)))


def begin(
    session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID, name: str, patch: Patch
) -> Attempt:
    """Begin an attempt at a step with a patch. Raises InnerToneError where there are too many."""
    if len(attempts_at(session, account, lesson_id, step_id)) >= MOST_ATTEMPTS:
        raise InnerToneError(f"You have kept {MOST_ATTEMPTS} variants of this step. Delete one to make room.")
    made = Attempt(account_id=account.id, lesson_id=lesson_id, step_id=step_id, name=name, patch=patch.to_json())
    session.add(made)
    session.flush()
    record(session, made, "begun")
    stand(session, account, lesson_id, step_id, "opened")
    return made


def record(session: Session, attempt: Attempt, action: str, request: uuid.UUID | None = None) -> None:
    """Write an attempt's state into its history."""
    session.add(
        AttemptHistory(
            attempt_id=attempt.id, version=attempt.version, action=action, patch=attempt.patch, request=request
        )
    )


def own_attempt(session: Session, account: Account, attempt_id: uuid.UUID, *, lock: bool = False) -> Attempt:
    """Return an attempt of one's own; raises NotFoundError for anybody else's."""
    found = session.get(Attempt, attempt_id, with_for_update=lock or None)
    if found is None or found.account_id != account.id:
        raise NotFoundError("There is no such attempt. It may have been deleted.")
    return found


def change(
    session: Session,
    attempt: Attempt,
    version: int,
    patch: Patch,
    request: uuid.UUID | None = None,
    own: Sequence[uuid.UUID] = (),
    *,
    shown: bool = False,
) -> Attempt:
    """Keep a patch that was made of an attempt as it stood at a version.

    What another page has changed since stays, where this one has not changed the same. A wish that has come before is
    not fulfilled twice; `own` are those of the same page that may have been fulfilled since without its knowing.
    """
    rows = history_since(session, attempt, version) if attempt.version != version else []
    if request is not None and any(row.request == request for row in rows):
        return attempt
    others = [row for row in rows if row.request not in own]
    if others:
        patch = merged(patch_at(session, attempt, version), patch_of(attempt), patch).patch
    written = patch.to_json()
    if written != attempt.patch:
        attempt.patch = written
        attempt.version += 1
        attempt.updated_at = now()
        record(session, attempt, "shown" if shown else "changed", request)
    return attempt


def history_since(session: Session, attempt: Attempt, version: int) -> list[AttemptHistory]:
    """Return the states of an attempt after a version, the oldest first."""
    since = select(AttemptHistory).where(AttemptHistory.attempt_id == attempt.id, AttemptHistory.version > version)
    return list(session.scalars(since.order_by(AttemptHistory.id)))


def patch_of(attempt: Attempt) -> Patch:
    """Return what stands in an attempt."""
    return Patch.model_validate(attempt.patch)


def patch_at(session: Session, attempt: Attempt, version: int) -> Patch:
    """Return what stood in an attempt at a version; raises NotFoundError."""
    query = select(AttemptHistory).where(AttemptHistory.attempt_id == attempt.id, AttemptHistory.version == version)
    found = session.scalars(query.limit(1)).one_or_none()
    if found is None:
        raise NotFoundError("The attempt has never stood at this version.")
    return Patch.model_validate(found.patch)


def forget(session: Session, which: ColumnElement[bool]) -> None:
    """Delete attempts with their history."""
    session.execute(text("SELECT set_config('inner_tone.forgetting', 'on', true)"))
    ids = select(Attempt.id).where(which)
    session.execute(update(Question).where(Question.attempt_id.in_(ids)).values(attempt_id=None))
    session.execute(delete(AttemptHistory).where(AttemptHistory.attempt_id.in_(ids)))
    session.execute(delete(Attempt).where(which))
    session.execute(text("SELECT set_config('inner_tone.forgetting', 'off', true)"))


def history_of(
    session: Session, attempt: Attempt, before: int | None = None, limit: int | None = None
) -> list[AttemptHistory]:
    """Return the states that an attempt has had, the newest first, at most `limit`, only older ones than `before`."""
    query = select(AttemptHistory).where(AttemptHistory.attempt_id == attempt.id)
    if before is not None:
        query = query.where(AttemptHistory.version < before)
    return list(session.scalars(query.order_by(AttemptHistory.id.desc()).limit(limit)))


def stand(
    session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID, state: State, *, shown: bool = False
) -> Standing:
    """Note how far somebody has come with a step; nobody falls back, and what was shown before it was done stays so."""
    row = insert(Standing).values(
        account_id=account.id, lesson_id=lesson_id, step_id=step_id, state="opened", shown=False, at=now()
    )
    session.execute(row.on_conflict_do_nothing())
    found = session.get_one(Standing, (account.id, lesson_id, step_id), with_for_update=True)
    found.shown = found.shown or (shown and found.state != "done")
    if ORDER[state] > ORDER[found.state]:
        found.state, found.at = state, now()
    session.flush()
    return found


def note_left(session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID, left: list[str]) -> None:
    """Note which of a step's instructions somebody's bench does not show yet; nothing for who has no bench there."""
    which = (Standing.account_id == account.id, Standing.lesson_id == lesson_id, Standing.step_id == step_id)
    session.execute(update(Standing).where(*which, Standing.left_to_do != left).values(left_to_do=left))


def standings_of(session: Session, account: Account, lesson_id: uuid.UUID) -> list[Standing]:
    """Return how far somebody has come with the steps of a lesson."""
    query = select(Standing).where(Standing.account_id == account.id, Standing.lesson_id == lesson_id)
    return list(session.scalars(query))


def ask(
    session: Session,
    account: Account,
    lesson_id: uuid.UUID,
    step_id: uuid.UUID,
    attempt_id: uuid.UUID | None,
    place: str,
    words: str,
) -> Question:
    """Put a question to the educator at a place of a step."""
    if attempt_id is not None:
        own_attempt(session, account, attempt_id)
    asked = Question(
        account_id=account.id,
        lesson_id=lesson_id,
        step_id=step_id,
        attempt_id=attempt_id,
        place=place,
        text=words,
    )
    session.add(asked)
    session.flush()
    return asked


def questions_of(session: Session, account: Account, lesson_id: uuid.UUID) -> list[Question]:
    """Return what somebody has asked in a lesson, the newest first."""
    query = select(Question).where(Question.lesson_id == lesson_id, Question.account_id == account.id)
    return list(session.scalars(query.options(joinedload(Question.account)).order_by(Question.asked_at.desc())))


def all_questions(session: Session, lesson_id: uuid.UUID) -> list[Question]:
    """Return what learners have asked in a lesson, what is not answered first, the newest first."""
    query = select(Question).where(Question.lesson_id == lesson_id).options(joinedload(Question.account))
    return list(session.scalars(query.order_by(Question.answer != "", Question.asked_at.desc())))


def own_question(session: Session, account: Account, question_id: uuid.UUID) -> Question:
    """Return a question of one's own; raises NotFoundError for anybody else's."""
    found = session.get(Question, question_id)
    if found is None or found.account_id != account.id:
        raise NotFoundError("There is no such question.")
    return found


def question_for(session: Session, account: Account, question_id: uuid.UUID) -> Question:
    """Return a question to those who may answer it; raises NotFoundError."""
    found = session.get(Question, question_id)
    if found is None or not may_see(session, account, found.account_id, found.lesson_id):
        raise NotFoundError("There is no such question.")
    return found


def may_see(session: Session, account: Account, learner_id: uuid.UUID, lesson_id: uuid.UUID) -> bool:
    """Tell whether somebody may see what a learner does in a lesson: at its desk, or as who teaches them in a class."""
    return right_to(session, account, lesson_id) is not Right.NONE or teaches(session, account, learner_id, lesson_id)


def attempt_for(session: Session, account: Account, attempt_id: uuid.UUID) -> Attempt:
    """Return an attempt to those who may look at it; raises NotFoundError."""
    found = session.get(Attempt, attempt_id)
    if found is None or not may_see(session, account, found.account_id, found.lesson_id):
        raise NotFoundError("There is no such attempt, or it is not for you to look at.")
    return found


def answer(session: Session, account: Account, asked: Question, words: str) -> Question:
    """Answer a question."""
    asked.answer, asked.answered_by, asked.answered_at = words, account.id, now()
    session.flush()
    return asked


def all_attempts(session: Session, lesson_id: uuid.UUID) -> list[Attempt]:
    """Return what learners have made of a lesson's steps, what was changed last first."""
    query = select(Attempt).where(Attempt.lesson_id == lesson_id).options(joinedload(Attempt.account))
    return list(session.scalars(query.order_by(Attempt.updated_at.desc())))


def all_standings(session: Session, lesson_id: uuid.UUID) -> list[Standing]:
    """Return how far learners have come with a lesson's steps."""
    query = select(Standing).where(Standing.lesson_id == lesson_id).options(joinedload(Standing.account))
    return list(session.scalars(query))


def give(
    session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID, recording: Recording, name: str
) -> Played:
    """Note that a recording was given of a step."""
    row = Played(account_id=account.id, lesson_id=lesson_id, step_id=step_id, recording_key=recording.key, name=name)
    session.add(row)
    session.flush()
    return row


def played_at(session: Session, account: Account, lesson_id: uuid.UUID, step_id: uuid.UUID) -> list[Played]:
    """Return the recordings that somebody has given of a step, the newest first."""
    query = select(Played).where(
        Played.account_id == account.id, Played.lesson_id == lesson_id, Played.step_id == step_id
    )
    return list(session.scalars(query.order_by(Played.at.desc())))


def all_played(session: Session, lesson_id: uuid.UUID) -> list[Played]:
    """Return the recordings that learners have given of a lesson's steps, the newest first."""
    query = select(Played).where(Played.lesson_id == lesson_id).options(joinedload(Played.account))
    return list(session.scalars(query.order_by(Played.at.desc())))


def own_played(session: Session, account: Account, played_id: uuid.UUID) -> Played:
    """Return a recording that one has given; raises NotFoundError for anybody else's."""
    found = session.get(Played, played_id)
    if found is None or found.account_id != account.id:
        raise NotFoundError("There is no such recording.")
    return found


def may_hear(session: Session, account: Account, recording: Recording) -> bool:
    """Tell whether somebody may hear a recording: one's own, an educator's, one given of a lesson that one may read."""
    if recording.owner_id == account.id or session.get_one(Account, recording.owner_id).role == EDUCATOR:
        return True
    given = select(Played.account_id, Played.lesson_id).where(Played.recording_key == recording.key).distinct()
    return any(may_see(session, account, *one) for one in session.execute(given))


def heard_by(session: Session, account: Account, key: str) -> Recording:
    """Return a recording that somebody may hear; raises NotFoundError for any other."""
    found = recording(session, key)
    if not may_hear(session, account, found):
        raise NotFoundError("There is no such recording.")
    return found
