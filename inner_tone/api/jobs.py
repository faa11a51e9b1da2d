"""Jobs: what takes long. Whoever asked sees how far they are, stops them, and finds what has come of them."""

import uuid
from datetime import datetime
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Depends, Query, Request, Response
from pydantic import BaseModel

from inner_tone.api.access import Me
from inner_tone.api.context import Database
from inner_tone.api.problems import ProblemPlace
from inner_tone.store import jobs as store
from inner_tone.store.jobs import OPEN, State
from inner_tone.store.models import Job, Json
from inner_tone.work.jobs import Jobs

router = APIRouter(prefix="/api/jobs", tags=["jobs"])

PATIENCE_SECONDS = 5.0
LOOK_SECONDS = 0.5  # where no word comes that there is more


class JobProblem(BaseModel):
    """Why a job has come to nothing, with the places of a document that are wrong."""

    detail: str
    problems: list[ProblemPlace] = []


class JobOut(BaseModel):
    """A job: what it is in words, how much is done, 0 to 1, and what has come of it, or why nothing has."""

    id: uuid.UUID
    kind: str
    words: str
    state: State
    part: float
    asked_at: datetime
    ended_at: datetime | None
    result: dict[str, Any] | None
    problem: JobProblem | None


def job_out(job: Job) -> JobOut:
    """Return a job for the wire."""
    return JobOut.model_validate(job, from_attributes=True)


def jobs_here(request: Request) -> Jobs:
    """Return this node's way to the jobs."""
    jobs: Jobs = request.app.state.jobs
    return jobs


TheJobs = Annotated[Jobs, Depends(jobs_here)]


async def asked(jobs: Jobs, account_id: uuid.UUID, kind: str, words: str, wish: Json) -> JobOut:
    """Ask for a job, and return it for the wire; raises TooManyJobsError."""
    job_id = await jobs.ask(account_id, kind, words, wish)
    return job_out(await jobs.node.stored(lambda session: store.job_of(session, account_id, job_id)))


@router.get("")
async def list_jobs(jobs: TheJobs, me: Me) -> list[JobOut]:
    """Return one's jobs of the last hour, the newest first."""
    return [job_out(one) for one in await jobs.node.stored(lambda session: store.jobs_of(session, me.id))]


@router.get("/{job_id}")
async def get_job(
    jobs: TheJobs, me: Me, job_id: uuid.UUID, seen: Annotated[float | None, Query(ge=0, le=1)] = None
) -> JobOut:
    """Return a job of one's own; who says how much of it was `seen` is answered when there is more, or soon."""
    for _ in range(round(PATIENCE_SECONDS / LOOK_SECONDS)):
        job = await jobs.node.stored(lambda session: store.job_of(session, me.id, job_id))
        if seen is None or job.state not in OPEN or job.part != seen:
            break
        await jobs.node.wire.news(f"job {job_id}", LOOK_SECONDS)
    return job_out(job)


@router.get("/{job_id}/file", response_class=Response)
def get_file(session: Database, me: Me, job_id: uuid.UUID) -> Response:
    """Return the file that a job of one's own has made; it is kept for an hour."""
    made = store.made_of(session, me.id, job_id)
    told = f"attachment; filename*=UTF-8''{quote(made.name, safe='')}"
    return Response(made.data, media_type=made.media_type, headers={"content-disposition": told})


@router.delete("/{job_id}", status_code=204)
async def stop_job(jobs: TheJobs, me: Me, job_id: uuid.UUID) -> None:
    """Stop a job of one's own; one that has ended stays as it is."""
    await jobs.cancel(me.id, job_id)
