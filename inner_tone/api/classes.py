"""Classes: begun, shared and followed by those who teach them; joined and left by their members."""

import uuid
from collections.abc import Mapping, Sequence
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from limits import RateLimitItemPerMinute
from sqlalchemy.orm import Session

from inner_tone.api.access import Educator, JoinedClass, Me, OwnClass, TaughtClass
from inner_tone.api.attempt_schemas import question_out
from inner_tone.api.class_schemas import (
    AttemptHead,
    AtWork,
    ClassChange,
    ClassHead,
    ClassLessonOut,
    ClassOut,
    ClassWish,
    ClassWorkOut,
    JoinedLesson,
    JoinedOut,
    JoinWish,
    MemberOut,
    PersonOut,
    ProgressIn,
    StandingIn,
    StepIn,
    StopOut,
    TeachWish,
)
from inner_tone.api.context import Database
from inner_tone.api.jobs import JobOut, TheJobs, asked
from inner_tone.api.limits import Limiter
from inner_tone.core.lesson.stops import stops
from inner_tone.store import accounts, editions
from inner_tone.store import classes as store
from inner_tone.store.errors import NotFoundError
from inner_tone.store.models import Account, Class, ClassLesson, Edition, Following, Lesson
from inner_tone.work.progress import ProgressWish

router = APIRouter(prefix="/api/classes", tags=["classes"])
members = APIRouter(prefix="/api/joined", tags=["classes"])

WRONG_CODES = RateLimitItemPerMinute(20, 15)  # of one account in a quarter of an hour


@router.get("")
def list_classes(session: Database, me: Educator) -> list[ClassHead]:
    """Return the classes that one teaches, the newest first."""
    return [head_of(session, one) for one in store.taught_by(session, me)]


def head_of(session: Session, found: Class) -> ClassHead:
    """Return a class as it stands in a list."""
    return ClassHead(
        id=found.id,
        title=found.title,
        code=found.code,
        members=store.count_members(session, found.id),
        lessons=len(store.lessons_of(session, found.id)),
        waiting=sum(one.waiting for one in store.progress_in(session, found.id).values()),
    )


@router.post("", status_code=201)
def begin_class(session: Database, me: Educator, wish: ClassWish) -> ClassOut:
    """Begin a class."""
    return class_out(session, me, store.begin(session, me, wish.title))


@router.get("/{class_id}")
def get_class(session: Database, me: Educator, class_id: TaughtClass) -> ClassOut:
    """Return a class with its members, and how far they are."""
    return class_out(session, me, store.taught(session, me, class_id))


def class_out(session: Session, me: Account, found: Class) -> ClassOut:
    """Return a class for the wire."""
    progress = store.progress_in(session, found.id)
    lessons = set_out(session, store.lessons_of(session, found.id))
    return ClassOut(
        id=found.id,
        version=found.version,
        title=found.title,
        code=found.code,
        open=found.open,
        is_own=found.owner_id == me.id,
        educators=[PersonOut(account=one.id, name=one.name) for one in store.educators_of(session, found.id)],
        lessons=lessons,
        members=[
            MemberOut(
                id=one.account_id,
                name=one.account.name,
                joined_at=one.joined_at,
                progress=[
                    progress_out(lesson.id, progress[one.account_id, lesson.id])
                    for lesson in lessons
                    if (one.account_id, lesson.id) in progress
                ],
            )
            for one in store.members_of(session, found.id)
        ],
    )


def progress_out(lesson_id: uuid.UUID, one: store.Progress) -> ProgressIn:
    """Return how far somebody is in a lesson, for the wire."""
    begun = one.following
    return ProgressIn(
        lesson=lesson_id,
        place=begun.place if begun else None,
        reached=begun.reached if begun else None,
        done=one.done,
        waiting=one.waiting,
    )


def set_out(session: Session, found: Sequence[ClassLesson]) -> list[ClassLessonOut]:
    """Return the lessons that are set, in their newest editions, for the wire."""
    latest = editions.newest_of(session, [one.lesson_id for one in found])
    return [lesson_out(one.lesson, latest[one.lesson_id], one) for one in found]


def lesson_out(lesson: Lesson, edition: Edition, one: ClassLesson) -> ClassLessonOut:
    """Return a lesson that is set, for the wire."""
    return ClassLessonOut(
        id=lesson.id,
        title=edition.lesson["title"],
        owner=lesson.owner.name,
        edition=edition.number,
        step_count=len(edition.step_ids),
        due=one.due,
    )


@router.put("/{class_id}")
def change_class(session: Database, me: Educator, class_id: TaughtClass, wish: ClassChange) -> ClassOut:
    """Give a class another title, let others join or not, and set lessons to it in their order."""
    found = store.taught(session, me, class_id, lock=True)
    wanted = [store.SetLesson(one.lesson, one.due) for one in wish.lessons]
    store.change(session, found, wish.version, wish.title, is_open=wish.open, wanted=wanted)
    return class_out(session, me, found)


@router.post("/{class_id}/code")
def renew_code(session: Database, me: Educator, class_id: TaughtClass) -> ClassOut:
    """Give a class another code; the old one leads nowhere."""
    found = store.taught(session, me, class_id, lock=True)
    store.renew_code(session, found)
    return class_out(session, me, found)


@router.delete("/{class_id}", status_code=204)
def delete_class(session: Database, me: Educator, class_id: OwnClass) -> None:
    """Delete a class; what its members have made stays theirs."""
    store.end(session, store.owned(session, me, class_id))


@router.put("/{class_id}/educators")
def share_class(session: Database, me: Educator, class_id: OwnClass, wish: TeachWish) -> ClassOut:
    """Let another educator teach a class too."""
    found = store.owned(session, me, class_id)
    store.teach(session, found, accounts.educator_called(session, wish.sign_in))
    return class_out(session, me, found)


@router.delete("/{class_id}/educators/{account_id}", status_code=204)
def unshare_class(session: Database, me: Educator, class_id: TaughtClass, account_id: uuid.UUID) -> None:
    """Let somebody teach a class no longer; who has not begun it takes away only themselves."""
    teaches = store.taught(session, me, class_id) if account_id == me.id else store.owned(session, me, class_id)
    store.teach_no_longer(session, teaches, account_id)


@router.delete("/{class_id}/members/{account_id}", status_code=204)
def remove_member(session: Database, class_id: TaughtClass, account_id: uuid.UUID) -> None:
    """Take somebody out of a class; what they have made stays theirs."""
    store.remove(session, class_id, account_id)


@router.get("/{class_id}/lessons/{lesson_id}")
def get_work(session: Database, me: Educator, class_id: TaughtClass, lesson_id: uuid.UUID) -> ClassWorkOut:
    """Return a class in one of its lessons: who stands where, what they have made and asked, and what stops them."""
    found = store.taught(session, me, class_id)
    one = next((one for one in store.lessons_of(session, class_id) if one.lesson_id == lesson_id), None)
    if one is None:
        raise NotFoundError("This lesson is not set to the class.")
    latest = editions.newest_of(session, [lesson_id])[lesson_id]
    work = store.work_in(session, class_id, lesson_id)
    known = editions.editions_with(session, lesson_id, {one[0].edition for one in work.followings.values()})
    people = [
        at_work(member.account, work, place_of(work.followings.get(member.account_id), known))
        for member in store.members_of(session, class_id)
    ]
    titles = [step["title"] for step in latest.lesson["steps"]]
    steps = [
        step_in(uuid.UUID(identity), title, people) for identity, title in zip(latest.step_ids, titles, strict=True)
    ]
    return ClassWorkOut(title=found.title, lesson=lesson_out(one.lesson, latest, one), steps=steps, people=people)


def place_of(
    following: Sequence[Following] | None, known: Mapping[tuple[int, bool], Sequence[str]]
) -> uuid.UUID | None:
    """Return the step where somebody is, in the edition that they follow, whole or short."""
    if not following:
        return None
    steps = known[following[0].edition, following[0].short]
    place = following[0].place
    return uuid.UUID(steps[place]) if place < len(steps) else None


def at_work(account: Account, work: store.Work, step_id: uuid.UUID | None) -> AtWork:
    """Return what somebody does in a lesson, for the wire."""
    following = work.followings.get(account.id, [])
    attempts = work.attempts.get(account.id, [])
    moments = [one.seen_at for one in following] + [one.updated_at for one in attempts]
    return AtWork(
        id=account.id,
        name=account.name,
        step_id=step_id,
        seen_at=max(moments, default=None),
        standings=[
            StandingIn(step_id=one.step_id, state=one.state, shown=one.shown, left=one.left_to_do)
            for one in work.standings.get(account.id, [])
        ],
        attempts=[AttemptHead.model_validate(one, from_attributes=True) for one in attempts],
        questions=[question_out(one) for one in work.questions.get(account.id, [])],
    )


def step_in(step_id: uuid.UUID, title: str, people: Sequence[AtWork]) -> StepIn:
    """Return a step as a class does it: what stops counts where the step is not done."""
    standings = [standing for one in people for standing in one.standings if standing.step_id == step_id]
    left = [one.left for one in standings if one.state != "done"]
    return StepIn(
        id=step_id,
        title=title,
        here=sum(one.step_id == step_id for one in people),
        done=sum(one.state == "done" for one in standings),
        stops=[StopOut(text=one.text, count=one.count) for one in stops(left)],
    )


@router.post("/{class_id}/progress", status_code=202)
async def write_progress(jobs: TheJobs, me: Educator, class_id: uuid.UUID) -> JobOut:
    """Write the progress of a class into a CSV file, as a job."""
    await jobs.node.stored(lambda session: store.taught(session, me, class_id))
    wish = ProgressWish(class_id=class_id).model_dump(mode="json")
    return await asked(jobs, me.id, "progress", "The progress of a class", wish)


@members.get("")
def list_joined(session: Database, me: Me) -> list[JoinedOut]:
    """Return the classes that one has joined, and what is set in them."""
    return [joined_out(session, me, one) for one in store.joined_by(session, me)]


def joined_out(session: Session, me: Account, found: Class) -> JoinedOut:
    """Return a class for one of its members."""
    lessons = store.lessons_of(session, found.id)
    latest = editions.newest_of(session, [one.lesson_id for one in lessons])
    mine = store.own_progress(session, me, found.id)
    return JoinedOut(
        id=found.id,
        title=found.title,
        educators=[one.name for one in store.educators_of(session, found.id)],
        lessons=[
            JoinedLesson(
                id=one.lesson_id,
                title=latest[one.lesson_id].lesson["title"],
                step_count=len(latest[one.lesson_id].step_ids),
                due=one.due,
                place=mine[one.lesson_id][0] if one.lesson_id in mine else None,
                done=mine[one.lesson_id][1] if one.lesson_id in mine else 0,
            )
            for one in lessons
        ],
    )


@members.post("", status_code=201)
async def join_class(request: Request, jobs: TheJobs, me: Me, wish: JoinWish) -> JoinedOut:
    """Join a class by its code; too many wrong ones are refused for a while."""
    limiter: Limiter = request.app.state.limiter
    limits = ((WRONG_CODES, f"code {me.id}"),)
    await run_in_threadpool(limiter.begin, limits)

    def join(session: Session) -> JoinedOut:
        return joined_out(session, me, store.join(session, me, wish.code))

    found = await jobs.node.stored(join)
    await run_in_threadpool(limiter.forgive, limits)
    return found


@members.delete("/{class_id}", status_code=204)
def leave_class(
    session: Database, me: Me, class_id: JoinedClass, delete_work: Annotated[bool, Query()] = False
) -> None:
    """Leave a class: with all that one has made in its lessons, or deleting that."""
    store.leave(session, me, class_id, delete_work=delete_work)
