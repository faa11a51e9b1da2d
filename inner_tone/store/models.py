"""The tables."""

import uuid
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import BigInteger, DateTime, ForeignKey, Index, LargeBinary, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

Json = dict[str, Any]
WORDS_FOUND = text("(to_tsvector('simple', words) || to_tsvector('english', words))")  # as in store/search.py


def now() -> datetime:
    """Return the present moment."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """The base of all tables."""

    type_annotation_map = {Json: JSONB, datetime: DateTime(timezone=True), bytes: LargeBinary, list[str]: JSONB}  # noqa: RUF012


class Account(Base):
    """Somebody who can sign in, as an educator or as a learner."""

    __tablename__ = "accounts"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    sign_in: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(default=now)


class SignIn(Base):
    """A browser that somebody is signed in with. Of its token only the digest is kept."""

    __tablename__ = "sign_ins"
    __table_args__ = (Index("sign_ins_by_account", "account_id"),)

    token_digest: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    browser: Mapped[str]
    begun_at: Mapped[datetime] = mapped_column(default=now)
    used_at: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()


class Device(Base):
    """A browser that somebody has signed in with before: wrong passwords of strangers do not count for it."""

    __tablename__ = "devices"
    __table_args__ = (Index("devices_by_account", "account_id"),)

    digest: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True)
    used_at: Mapped[datetime]


class Try(Base):
    """A try that is counted, such as a wrong password: whose it is, and when it was."""

    __tablename__ = "tries"
    __table_args__ = (Index("tries_by_whose", "whose", "at"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    whose: Mapped[str]
    at: Mapped[datetime]


class Lesson(Base):
    """A lesson: a title, a summary, and its steps in order. `version` counts its changes.

    `start` is the patch that it starts from, the lesson from whose end that was taken, and the one that it was before.
    """

    __tablename__ = "lessons"
    __table_args__ = (Index("lessons_by_owner", "owner_id"), Index("lessons_in_series", "series_id", "series_place"))

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    owner_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    title: Mapped[str]
    summary: Mapped[str] = mapped_column(default="")
    target_first: Mapped[bool] = mapped_column(default=False)
    target_note: Mapped[str] = mapped_column(default="")
    start: Mapped[Json | None] = mapped_column(JSONB(none_as_null=True))
    series_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("series.id"))
    series_place: Mapped[int | None]
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(default=now)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    deleted_at: Mapped[datetime | None]
    owner: Mapped[Account] = relationship()
    series: Mapped["Series | None"] = relationship()
    steps: Mapped[list["Step"]] = relationship(
        primaryjoin="and_(Lesson.id == Step.lesson_id, Step.deleted_at.is_(None))",
        order_by="Step.position",
        back_populates="lesson",
        viewonly=True,
    )


class Series(Base):
    """Lessons that belong together, in their order."""

    __tablename__ = "series"
    __table_args__ = (Index("series_by_owner", "owner_id"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    owner_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    title: Mapped[str]
    summary: Mapped[str] = mapped_column(default="")
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(default=now)
    deleted_at: Mapped[datetime | None]
    owner: Mapped[Account] = relationship()


class Edition(Base):
    """What was published of a lesson. Rows are only ever added; the database refuses anything else."""

    __tablename__ = "editions"
    __table_args__ = (Index("editions_by_words", WORDS_FOUND, postgresql_using="gin"),)

    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    notes: Mapped[str]
    reason: Mapped[str]
    overruled: Mapped[dict[str, str]] = mapped_column(JSONB, default=dict)
    lesson: Mapped[Json] = mapped_column(deferred=True)  # large, and mostly known already by its number
    step_ids: Mapped[list[str]]
    words: Mapped[str] = mapped_column(deferred=True)
    published_by: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("accounts.id"))
    published_at: Mapped[datetime] = mapped_column(default=now)
    publisher: Mapped[Account | None] = relationship()


class Following(Base):
    """Where somebody is in a lesson, how far they have come, and in which of its editions."""

    __tablename__ = "followings"

    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"), primary_key=True)
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    edition: Mapped[int]
    short: Mapped[bool]
    place: Mapped[int] = mapped_column(default=0)
    reached: Mapped[int] = mapped_column(default=0)
    begun_at: Mapped[datetime] = mapped_column(default=now)
    seen_at: Mapped[datetime] = mapped_column(default=now)


class Share(Base):
    """A lesson that its owner shares with another educator, for reading or for writing too."""

    __tablename__ = "shares"
    __table_args__ = (Index("shares_by_account", "account_id"),)

    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"), primary_key=True)
    may_write: Mapped[bool]
    account: Mapped[Account] = relationship()


class Step(Base):
    """A step as it stands now. `version` counts its changes and guards against overwriting.

    `render_key` is the key of its sound, as the `engine` of that version makes it.
    """

    __tablename__ = "steps"
    __table_args__ = (
        Index("steps_in_order", "lesson_id", "position"),
        Index("steps_by_render", "render_key"),
        Index("steps_by_engine", "engine"),
        Index("steps_by_words", WORDS_FOUND, postgresql_using="gin"),
    )

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"))
    position: Mapped[int]
    version: Mapped[int] = mapped_column(default=1)
    content: Mapped[Json]
    render_key: Mapped[str]
    engine: Mapped[str] = mapped_column(default="", server_default="")
    words: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(default=now)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    deleted_at: Mapped[datetime | None]
    lesson: Mapped[Lesson] = relationship(back_populates="steps")


class StepHistory(Base):
    """Every state that a step has ever had. Rows are only ever added; the database refuses anything else.

    `request` is what the page that asked for it calls its wish, so that it knows it again if the answer was lost.
    """

    __tablename__ = "step_history"
    __table_args__ = (Index("history_by_step", "step_id", "id"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    step_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("steps.id"))
    version: Mapped[int]
    action: Mapped[str]
    content: Mapped[Json]
    request: Mapped[uuid.UUID | None]
    at: Mapped[datetime] = mapped_column(default=now, server_default=text("now()"))


class Presence(Base):
    """Who has a lesson open at its desk, in which window, and at which step."""

    __tablename__ = "presences"

    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    window: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    step_id: Mapped[uuid.UUID | None]
    seen_at: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()


class Operation(Base):
    """What was done to a lesson as a whole, and how it stood before and after. Rows are only ever added."""

    __tablename__ = "operations"
    __table_args__ = (Index("operations_by_lesson", "lesson_id", "id"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"))
    words: Mapped[str]
    undoes: Mapped[int | None] = mapped_column(BigInteger, ForeignKey("operations.id"))
    before: Mapped[Json]
    after: Mapped[Json]
    at: Mapped[datetime] = mapped_column(default=now, server_default=text("now()"))


class StoredRender(Base):
    """The sound of a saved step, by the key of what it was computed from."""

    __tablename__ = "renders"
    __table_args__ = (Index("renders_by_use", "used_at"),)

    key: Mapped[str] = mapped_column(primary_key=True)
    wav: Mapped[bytes]
    used_at: Mapped[datetime] = mapped_column(default=now)


class Answer(Base):
    """What was worked out once for all nodes, by the key of what was asked."""

    __tablename__ = "answers"
    __table_args__ = (Index("answers_by_age", "at"),)

    key: Mapped[str] = mapped_column(primary_key=True)
    found: Mapped[bytes]
    at: Mapped[datetime]


class Job(Base):
    """Something that takes long and is done while nobody waits for an answer, with how far it is and how it ended.

    `wish` is what was asked for, `result` what has come of it, `problem` why nothing has.
    """

    __tablename__ = "jobs"
    __table_args__ = (Index("jobs_by_account", "account_id", "asked_at"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"))
    kind: Mapped[str]
    words: Mapped[str]
    wish: Mapped[Json]
    state: Mapped[str] = mapped_column(default="waiting")
    part: Mapped[float] = mapped_column(default=0.0)
    result: Mapped[Json | None] = mapped_column(JSONB(none_as_null=True))
    problem: Mapped[Json | None] = mapped_column(JSONB(none_as_null=True))
    asked_at: Mapped[datetime] = mapped_column(default=now)
    ended_at: Mapped[datetime | None]


class Made(Base):
    """The file that a job has made; it goes with its job."""

    __tablename__ = "made"

    job_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    name: Mapped[str]
    media_type: Mapped[str]
    data: Mapped[bytes]


class PublicEdition(Base):
    """An edition that anybody may see who has its link, as the compressed page that they see; one of each lesson."""

    __tablename__ = "public_editions"

    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    number: Mapped[int]
    link: Mapped[str] = mapped_column(unique=True)
    by_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("accounts.id", ondelete="SET NULL"))
    since: Mapped[datetime] = mapped_column(default=now)
    page: Mapped[bytes] = mapped_column(deferred=True)


class Class(Base):
    """People who follow lessons together. Whoever has its code joins it, while it is open. `version` counts changes."""

    __tablename__ = "classes"
    __table_args__ = (Index("classes_by_owner", "owner_id"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    owner_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    title: Mapped[str]
    code: Mapped[str] = mapped_column(unique=True)
    open: Mapped[bool] = mapped_column(default=True)
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(default=now)


class ClassEducator(Base):
    """Somebody who teaches a class: its owner, and those with whom it is shared."""

    __tablename__ = "class_educators"
    __table_args__ = (Index("class_educators_by_account", "account_id"),)

    class_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True)
    since: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()


class ClassMember(Base):
    """Somebody who has joined a class."""

    __tablename__ = "class_members"
    __table_args__ = (Index("class_members_by_account", "account_id"),)

    class_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True)
    joined_at: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()


class ClassLesson(Base):
    """A lesson that is set to a class, at a place, perhaps for a date."""

    __tablename__ = "class_lessons"
    __table_args__ = (Index("class_lessons_by_lesson", "lesson_id"),)

    class_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    place: Mapped[int]
    due: Mapped[date | None]
    lesson: Mapped[Lesson] = relationship()


class Invitation(Base):
    """That somebody may make an account. Of its code only the digest is kept."""

    __tablename__ = "invitations"

    digest: Mapped[str] = mapped_column(primary_key=True)
    role: Mapped[str]
    until: Mapped[datetime]
    used_by: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("accounts.id", ondelete="SET NULL"))


class KeptSection(Base):
    """A section that was kept for reuse, as a fragment of a patch."""

    __tablename__ = "kept_sections"
    __table_args__ = (Index("sections_by_owner", "owner_id"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    owner_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    label: Mapped[str]
    fragment: Mapped[Json]
    created_at: Mapped[datetime] = mapped_column(default=now)


class StoredTake(Base):
    """What a render's key stands for: so any node can make the take again. `node` is the one that made it last."""

    __tablename__ = "takes"
    __table_args__ = (Index("takes_by_use", "used_at"),)

    key: Mapped[str] = mapped_column(primary_key=True)
    patch: Mapped[Json]
    phrase: Mapped[Json]
    node: Mapped[str] = mapped_column(default="", server_default="")
    used_at: Mapped[datetime] = mapped_column(default=now)


class KeptImage(Base):
    """An image in texts, by the SHA-256 of its bytes."""

    __tablename__ = "images"
    __table_args__ = (Index("images_by_owner", "owner_id"),)

    key: Mapped[str] = mapped_column(primary_key=True)
    owner_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    media_type: Mapped[str]
    data: Mapped[bytes]
    added_at: Mapped[datetime] = mapped_column(default=now)


class Recording(Base):
    """A sound file, by the SHA-256 of what was sent, kept as one channel in FLAC."""

    __tablename__ = "recordings"

    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    owner_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    seconds: Mapped[float]
    flac: Mapped[bytes]
    added_at: Mapped[datetime] = mapped_column(default=now)


class Sound(Base):
    """A sound that samplers play, by the SHA-256 of its FLAC file; `facts` is what was found when it arrived."""

    __tablename__ = "sounds"

    key: Mapped[str] = mapped_column(primary_key=True)
    seconds: Mapped[float]
    flac: Mapped[bytes] = mapped_column(deferred=True)
    facts: Mapped[Json]
    added_at: Mapped[datetime] = mapped_column(default=now)


class OwnSound(Base):
    """A sound as somebody has it: what they call it, where it comes from, and what may be done with it."""

    __tablename__ = "own_sounds"
    __table_args__ = (Index("own_sounds_by_key", "key"),)

    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"), primary_key=True)
    key: Mapped[str] = mapped_column(ForeignKey("sounds.key"), primary_key=True)
    name: Mapped[str]
    source: Mapped[str] = mapped_column(default="")
    licence: Mapped[str] = mapped_column(default="")
    added_at: Mapped[datetime] = mapped_column(default=now)
    sound: Mapped[Sound] = relationship()


class Attempt(Base):
    """What a learner has made of a step at a bench of their own, under a name. `version` counts its changes.

    It may be shown to others (`may_show`) only if its owner has agreed.
    """

    __tablename__ = "attempts"
    __table_args__ = (Index("attempts_at_step", "lesson_id", "step_id", "account_id"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"))
    step_id: Mapped[uuid.UUID]
    name: Mapped[str]
    version: Mapped[int] = mapped_column(default=1)
    patch: Mapped[Json]
    may_show: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    created_at: Mapped[datetime] = mapped_column(default=now)
    updated_at: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()


class AttemptHistory(Base):
    """Every state that an attempt has ever had. Rows are only added, and go only with the whole attempt."""

    __tablename__ = "attempt_history"
    __table_args__ = (Index("history_by_attempt", "attempt_id", "id"),)

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    attempt_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("attempts.id"))
    version: Mapped[int]
    action: Mapped[str]
    patch: Mapped[Json]
    request: Mapped[uuid.UUID | None]
    at: Mapped[datetime] = mapped_column(default=now, server_default=text("now()"))


class Standing(Base):
    """How far somebody has come with a step: opened, near or done; and whether some of it was shown to them.

    `left_to_do` are the step's instructions that their bench did not show when it was compared last.
    """

    __tablename__ = "standings"

    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"), primary_key=True)
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"), primary_key=True)
    step_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    state: Mapped[str]
    shown: Mapped[bool] = mapped_column(default=False)
    left_to_do: Mapped[list[str]] = mapped_column(default=list, server_default=text("'[]'"))
    at: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()


class Question(Base):
    """What a learner has asked the educator at a place of a step, and the answer."""

    __tablename__ = "questions"
    __table_args__ = (Index("questions_at_step", "lesson_id", "step_id"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"))
    step_id: Mapped[uuid.UUID]
    attempt_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("attempts.id"))
    place: Mapped[str]
    text: Mapped[str]
    answer: Mapped[str] = mapped_column(default="")
    answered_by: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("accounts.id"))
    asked_at: Mapped[datetime] = mapped_column(default=now)
    answered_at: Mapped[datetime | None]
    account: Mapped[Account] = relationship(foreign_keys=[account_id])


class Played(Base):
    """A recording that a learner has given of a step, played on another instrument."""

    __tablename__ = "played"
    __table_args__ = (Index("played_at_step", "lesson_id", "step_id", "account_id"),)

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    account_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("accounts.id"))
    lesson_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("lessons.id"))
    step_id: Mapped[uuid.UUID]
    recording_key: Mapped[str] = mapped_column(ForeignKey("recordings.key"))
    name: Mapped[str]
    at: Mapped[datetime] = mapped_column(default=now)
    account: Mapped[Account] = relationship()
