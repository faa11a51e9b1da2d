"""Editions and who follows them, series, how a lesson opens, and the words that steps and editions are found by."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from inner_tone.core.lesson.step import StepContent
from inner_tone.core.lesson.words import step_words

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)

APPEND_ONLY = """
CREATE FUNCTION refuse_another_edition() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'What is published stays as it is.';
END
$$;
CREATE TRIGGER editions_are_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON editions
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_another_edition();
"""
FOUND_BY = "to_tsvector('english', words)"


def account(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False)


def upgrade() -> None:
    op.create_table(
        "series",
        sa.Column("id", sa.Uuid, primary_key=True),
        account("owner_id"),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("summary", sa.String, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT),
    )
    op.create_index("series_by_owner", "series", ["owner_id"])
    op.add_column("lessons", sa.Column("target_first", sa.Boolean, nullable=False, server_default=sa.false()))
    op.add_column("lessons", sa.Column("target_note", sa.String, nullable=False, server_default=""))
    op.add_column("lessons", sa.Column("start", JSONB))
    op.add_column("lessons", sa.Column("series_id", sa.Uuid, sa.ForeignKey("series.id")))
    op.add_column("lessons", sa.Column("series_place", sa.Integer))
    op.create_index("lessons_in_series", "lessons", ["series_id", "series_place"])
    op.create_table(
        "editions",
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("notes", sa.String, nullable=False),
        sa.Column("reason", sa.String, nullable=False),
        sa.Column("lesson", JSONB, nullable=False),
        sa.Column("step_ids", JSONB, nullable=False),
        sa.Column("words", sa.String, nullable=False),
        account("published_by"),
        sa.Column("published_at", MOMENT, nullable=False),
    )
    op.create_index("editions_by_words", "editions", [sa.text(FOUND_BY)], postgresql_using="gin")
    op.execute(APPEND_ONLY)
    op.create_table(
        "followings",
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id"), primary_key=True),
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), primary_key=True),
        sa.Column("edition", sa.Integer, nullable=False),
        sa.Column("short", sa.Boolean, nullable=False),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("begun_at", MOMENT, nullable=False),
    )
    op.add_column("steps", sa.Column("words", sa.String, nullable=False, server_default=""))
    find_by_words()
    op.create_index("steps_by_words", "steps", [sa.text(FOUND_BY)], postgresql_using="gin")


def find_by_words() -> None:
    steps = sa.table("steps", sa.column("id", sa.Uuid), sa.column("content", JSONB), sa.column("words", sa.String))
    connection = op.get_bind()
    for row in connection.execute(sa.select(steps.c.id, steps.c.content)).all():
        words = step_words(StepContent.model_validate(row.content))
        connection.execute(steps.update().where(steps.c.id == row.id).values(words=words))


def downgrade() -> None:
    for table in ("followings", "editions"):
        op.drop_table(table)
    op.execute("DROP FUNCTION refuse_another_edition()")
    op.drop_column("steps", "words")
    for column in ("series_place", "series_id", "start", "target_note", "target_first"):
        op.drop_column("lessons", column)
    op.drop_table("series")
