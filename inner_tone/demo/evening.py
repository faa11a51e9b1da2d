"""The Tuesday evening class of Saltmarsh: who is in it, how far each is with the foghorn, and what they ask."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from inner_tone.api.following import task_at
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.patch.edit import made
from inner_tone.core.patch.match import match
from inner_tone.core.patch.model import Patch
from inner_tone.store import attempts, classes, editions
from inner_tone.store.accounts import LEARNER
from inner_tone.store.attempts import State
from inner_tone.store.models import Account, Lesson

TITLE = "Tuesday evening on the mole"
DUE = date(2026, 12, 8)


@dataclass(frozen=True)
class Person:
    """Somebody in the class: at which step they are, from 0, and how many of its instructions they have done."""

    name: str
    place: int
    follows: int = 0
    asks: str = ""
    lets_it_be_shown: bool = False


PEOPLE = (
    Person("Aenne Dirks", 3, 1),
    Person("Bente Carstens", 3, 1, "Mine still clicks at the end. Is that the envelope or the gate?"),
    Person("Fiete Ohlsen", 4, 0),
    Person("Greta Paulsen", 3, 0, lets_it_be_shown=True),
    Person("Hauke Brodersen", 1, 1, "What is the gate, if I only hold the key?"),
    Person("Imke Voss", 4, 2, lets_it_be_shown=True),
    Person("Kalle Thomsen", 3, 1),
    Person("Lene Matthiesen", 2, 0),
    Person("Momme Ketels", 0),
    Person("Ose Petersen", 3, 2),
    Person("Tjark Friedrichs", 1, 1),
)


def put_in(
    session: Session, educator: Account, lesson: Lesson, document: LessonDocument, prefix: str = "class"
) -> None:
    """Make the class of an educator that follows a published lesson; the sign-in names of its people begin alike."""
    found = classes.begin(session, educator, TITLE)
    wanted = [classes.SetLesson(lesson.id, DUE)]
    classes.change(session, found, found.version, TITLE, is_open=True, wanted=wanted)
    edition = editions.latest_of(session, lesson.id)
    assert edition is not None
    for one in PEOPLE:
        called = f"{prefix}-{one.name.split()[0].lower()}"
        account = Account(sign_in=called, name=one.name, role=LEARNER, password_hash="")
        session.add(account)
        session.flush()
        classes.join(session, account, found.code)
        follow(session, account, lesson, document, edition.step_ids, one)


def follow(
    session: Session, account: Account, lesson: Lesson, document: LessonDocument, ids: Sequence[str], person: Person
) -> None:
    """Let somebody follow a lesson to where they are: the steps before are done, theirs is begun."""
    place = min(person.place, len(ids) - 1)
    editions.follow(session, account, lesson.id, place, short=False)
    for number in range(place + 1):
        step_id = uuid.UUID(ids[number])
        task = task_at(document, number)
        edits = [edit for said in task.said[: person.follows] for edit in said.edits]
        mine: Patch = task.goal if number < place else made(task.start, edits).patch
        attempt = attempts.begin(session, account, lesson.id, step_id, "My bench", mine)
        attempt.may_show = person.lets_it_be_shown
        state: State = "done" if number < place else "opened"
        attempts.stand(session, account, lesson.id, step_id, state)
        if number == place and mine != task.start:
            shown = match(mine, task.goal, task.start).shown(task.said)
            left = [said.text for said, done in zip(task.said, shown, strict=True) if not done]
            attempts.note_left(session, account, lesson.id, step_id, left)
        if number == place and person.asks:
            attempts.ask(session, account, lesson.id, step_id, attempt.id, "", person.asks)
