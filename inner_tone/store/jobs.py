"""Jobs: what takes long, and is done while nobody waits for an answer."""

import uuid
from datetime import timedelta
from typing import Literal

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from inner_tone.core.errors import InnerToneError
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Job, Json, Made, now

State = Literal["waiting", "running", "done", "failed", "stopped"]
OPEN = ("waiting", "running")
MOST_OPEN = 5  # of one account
KEPT = timedelta(hours=1)  # so long is known what has come of a job
LOST = timedelta(seconds=10)  # after which a job that nobody was told of is told of again


class TooManyJobsError(InnerToneError):
    """Somebody has asked for as many jobs as anybody may at once."""


def ask(session: Session, account_id: uuid.UUID, kind: str, words: str, wish: Json) -> Job:
    """Write down a job; raises TooManyJobsError."""
    count = select(func.count()).where(Job.account_id == account_id, Job.state.in_(OPEN))
    if (session.scalar(count) or 0) >= MOST_OPEN:
        raise TooManyJobsError(f"You have asked for {MOST_OPEN} long jobs already. Wait until one of them is done.")
    job = Job(account_id=account_id, kind=kind, words=words, wish=wish)
    session.add(job)
    session.flush()
    return job


def job_of(session: Session, account_id: uuid.UUID, job_id: uuid.UUID) -> Job:
    """Return a job of somebody; raises NotFoundError."""
    found = session.get(Job, job_id)
    if found is None or found.account_id != account_id:
        raise NotFoundError("There is no such job, or it was done long ago.")
    return found


def made_of(session: Session, account_id: uuid.UUID, job_id: uuid.UUID) -> Made:
    """Return the file that a job of somebody has made; raises NotFoundError."""
    job_of(session, account_id, job_id)
    found = session.get(Made, job_id)
    if found is None:
        raise NotFoundError("This job has made no file.")
    return found


def jobs_of(session: Session, account_id: uuid.UUID) -> list[Job]:
    """Return the jobs of somebody, the newest first."""
    return list(session.scalars(select(Job).where(Job.account_id == account_id).order_by(Job.asked_at.desc(), Job.id)))


def begin(session: Session, job_id: uuid.UUID) -> Job | None:
    """Return a job that is to be done now, or done again; nothing if it has ended already."""
    job = session.get(Job, job_id, with_for_update=True)
    if job is None or job.state not in OPEN:
        return None
    job.state, job.part = "running", 0.0
    return job


def tell(session: Session, job_id: uuid.UUID, part: float) -> None:
    """Note how much of a job is done, 0 to 1."""
    session.execute(update(Job).where(Job.id == job_id, Job.state == "running").values(part=part))


def held(session: Session, job_id: uuid.UUID) -> bool:
    """Hold a job that is about to be done; tell whether it is still wanted."""
    job = session.get(Job, job_id, with_for_update=True)
    return job is not None and job.state == "running"


def end(session: Session, job_id: uuid.UUID, state: State, result: Json | None = None, why: Json | None = None) -> None:
    """Note how a job has ended, unless it has already."""
    ended = update(Job).where(Job.id == job_id, Job.state.in_(OPEN))
    part = {"part": 1.0} if state == "done" else {}
    session.execute(ended.values(state=state, result=result, problem=why, ended_at=now(), **part))


def lost(session: Session) -> list[uuid.UUID]:
    """Return the jobs that wait for longer than it takes to tell somebody of them."""
    return list(session.scalars(select(Job.id).where(Job.state == "waiting", Job.asked_at < now() - LOST)))


def clear(session: Session) -> None:
    """Clear away jobs that have ended long ago."""
    session.execute(delete(Job).where(Job.ended_at < now() - KEPT))
