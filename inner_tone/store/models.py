"""The tables."""

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, LargeBinary, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

Json = dict[str, Any]


def now() -> datetime:
    """Return the present moment."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """The base of all tables."""

    type_annotation_map = {Json: JSONB, datetime: DateTime(timezone=True), bytes: LargeBinary}  # noqa: RUF012


class Lesson(Base):
    """A lesson: a title, a summary, and its steps in order. `version` counts its changes."""

    __tablename__ = "lessons"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    title: Mapped[str]
    summary: Mapped[str] = mapped_column(default="")
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(default=now)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    deleted_at: Mapped[datetime | None]
    steps: Mapped[list["Step"]] = relationship(
        primaryjoin="and_(Lesson.id == Step.lesson_id, Step.deleted_at.is_(None))",
        order_by="Step.position",
        back_populates="lesson",
        viewonly=True,
    )


class Step(Base):
    """A step as it stands now. `version` counts its changes and guards against overwriting."""

    __tablename__ = "steps"
    __table_args__ = (
        Index("steps_in_order", "lesson_id", "position"),
        Index("steps_by_render", "render_key"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"))
    position: Mapped[int]
    version: Mapped[int] = mapped_column(default=1)
    content: Mapped[Json]
    render_key: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(default=now)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    deleted_at: Mapped[datetime | None]
    lesson: Mapped[Lesson] = relationship(back_populates="steps")


class StepHistory(Base):
    """Every state that a step has ever had. Rows are only ever added; the database refuses anything else."""

    __tablename__ = "step_history"
    __table_args__ = (Index("history_by_step", "step_id", "id"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    step_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("steps.id"))
    version: Mapped[int]
    action: Mapped[str]
    content: Mapped[Json]
    at: Mapped[datetime] = mapped_column(default=now, server_default=text("now()"))


class StoredRender(Base):
    """The sound of a saved step, by the key of what it was computed from."""

    __tablename__ = "renders"
    __table_args__ = (Index("renders_by_use", "used_at"),)

    key: Mapped[str] = mapped_column(primary_key=True)
    wav: Mapped[bytes]
    used_at: Mapped[datetime] = mapped_column(default=now)


class KeptSection(Base):
    """A section that was kept for reuse, as a fragment of a patch."""

    __tablename__ = "kept_sections"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    label: Mapped[str]
    fragment: Mapped[Json]
    created_at: Mapped[datetime] = mapped_column(default=now)
