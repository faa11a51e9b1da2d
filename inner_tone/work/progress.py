"""The progress of a class as a CSV file: one row for each member and step."""

import uuid
from collections.abc import Iterator

from pydantic import BaseModel
from sqlalchemy.orm import Session

from inner_tone.formats.numbers import table_bytes
from inner_tone.store import classes, editions
from inner_tone.store.models import Account
from inner_tone.work.jobs import Finish, Running
from inner_tone.work.made import file_made

COLUMNS = ("name", "lesson", "step", "title", "state", "some shown", "since", "variants", "questions", "left to do")


class ProgressWish(BaseModel):
    """The progress of a class is to be written down."""

    class_id: uuid.UUID


async def write_progress(running: Running) -> Finish:
    """Return what keeps the progress of a class; raises NotFoundError for who teaches it no longer."""
    wish = ProgressWish.model_validate(running.wish)

    def found(session: Session) -> tuple[str, list[uuid.UUID]]:
        one = classes.taught(session, session.get_one(Account, running.account_id), wish.class_id)
        return one.title, [lesson.lesson_id for lesson in classes.lessons_of(session, one.id)]

    title, lessons = await running.node.stored(found)
    written: list[Row] = []
    for place, lesson_id in enumerate(lessons):

        def rows(session: Session, lesson_id: uuid.UUID = lesson_id) -> list[Row]:
            return list(rows_of(session, wish.class_id, lesson_id))

        written += await running.node.stored(rows)
        await running.tell((place + 1) / len(lessons))
    return file_made(running, f"{title}.csv", "text/csv; charset=utf-8", table_bytes(COLUMNS, written))


Row = list[str | float]


def rows_of(session: Session, class_id: uuid.UUID, lesson_id: uuid.UUID) -> Iterator[Row]:
    """Yield what each member of a class has done of each step of a lesson, by name and by step."""
    latest = editions.newest_of(session, [lesson_id])[lesson_id]
    work = classes.work_in(session, class_id, lesson_id)
    for member in classes.members_of(session, class_id):
        mine = {one.step_id: one for one in work.standings.get(member.account_id, [])}
        for place, identity in enumerate(latest.step_ids):
            step_id = uuid.UUID(identity)
            standing = mine.get(step_id)
            yield [
                member.account.name,
                latest.lesson["title"],
                place + 1,
                latest.lesson["steps"][place]["title"],
                standing.state if standing else "not opened",
                ("yes" if standing.shown else "no") if standing else "",
                standing.at.isoformat(timespec="seconds") if standing else "",
                sum(one.step_id == step_id for one in work.attempts.get(member.account_id, [])),
                sum(one.step_id == step_id for one in work.questions.get(member.account_id, [])),
                "; ".join(standing.left_to_do) if standing and standing.state != "done" else "",
            ]
