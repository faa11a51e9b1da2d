"""Finds lessons and steps by their words: titles, texts, and the names and types of modules."""

import re
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from functools import reduce
from typing import Any

from sqlalchemy import ColumnElement, and_, false, func, literal_column, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from inner_tone.store.models import Account, Lesson, Share, Step

MOST_FOUND = 60
BEGIN, END = "\u2039\u2039", "\u203a\u203a"  # around the words that were looked for, in an excerpt
EXCERPT = f"StartSel={BEGIN},StopSel={END},MaxFragments=1,MinWords=8,MaxWords=18"
# how words are read: as they are written, in whatever language, and by the stems of the languages that are known
READINGS: list[ColumnElement[str]] = [literal_column(f"'{one}'") for one in ("simple", "english")]


@dataclass(frozen=True)
class FoundStep:
    """A step in which all words stand: in which lesson, at which place from 0, and an excerpt in pieces.

    Every second piece of the excerpt is one of the words that were looked for.
    """

    lesson: Lesson
    step_id: uuid.UUID
    place: int
    title: str
    excerpt: tuple[str, ...]


def query_of(words: str) -> str | None:
    """Return what people type as a query of PostgreSQL's: all words, each possibly only the beginning of one."""
    terms = re.findall(r"\w+", words.casefold())
    return " & ".join(f"{term}:*" for term in terms) or None


def matches(column: InstrumentedAttribute[str] | ColumnElement[str], words: str) -> ColumnElement[bool]:
    """Return the condition that a text has all words."""
    query = query_of(words)
    if query is None:
        return false()
    found: ColumnElement[bool] = together(func.to_tsvector, column).op("@@")(together(func.to_tsquery, query))
    return found


def together(reading: Callable[..., ColumnElement[Any]], words: object) -> ColumnElement[Any]:
    """Return words, or a query of them, in all readings joined: a query matches if it does in one of them."""
    return reduce(lambda one, other: one.op("||")(other), [reading(one, words) for one in READINGS]).self_group()


def found_steps(session: Session, account: Account, words: str) -> list[FoundStep]:
    """Return the steps of an educator's lessons that have all words; of a lesson whose title has them, the first."""
    query = query_of(words)
    if query is None:
        return []
    excerpt = func.ts_headline(READINGS[-1], Step.words, together(func.to_tsquery, query), EXCERPT)
    title = Step.content["title"].astext
    described = Lesson.title + " " + Lesson.summary
    in_words = matches(Step.words, words)
    rows = session.execute(
        select(Lesson, Step.id, Step.position, title, excerpt)
        .join(Lesson, Lesson.id == Step.lesson_id)
        .outerjoin(Share, and_(Share.lesson_id == Lesson.id, Share.account_id == account.id))
        .where(
            Step.deleted_at.is_(None),
            Lesson.deleted_at.is_(None),
            or_(Lesson.owner_id == account.id, Share.account_id == account.id),
            or_(in_words, and_(Step.position == 0, matches(described, words))),
        )
        .order_by(Lesson.updated_at.desc(), Lesson.id, Step.position)
        .limit(MOST_FOUND)
    )
    return [FoundStep(lesson, step, place, name, pieces(text)) for lesson, step, place, name, text in rows]


def pieces(excerpt: str) -> tuple[str, ...]:
    """Return an excerpt in pieces, every second of which is one of the words that were looked for."""
    found = re.split(f"{BEGIN}|{END}", excerpt.replace("\n", " · "))
    return tuple(found)
