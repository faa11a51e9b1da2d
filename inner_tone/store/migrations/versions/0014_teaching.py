"""Classes; what a job has made; editions that anybody may see; where learners stand, and what they agree to."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


# what is only ever added to goes with its whole lesson, and whoever deletes that says so within the transaction
GUARD = """
CREATE OR REPLACE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'TRUNCATE' AND current_setting('inner_tone.forgetting', true) = 'on' THEN
        RETURN NULL;
    END IF;
    RAISE EXCEPTION '{words}';
END
$$;
"""
BEFORE = """
CREATE OR REPLACE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '{words}';
END
$$;
"""
GUARDED = {
    "refuse_change": "The history of steps is only ever added to.",
    "refuse_another_edition": "What is published stays as it is.",
}


def upgrade() -> None:
    for name, words in GUARDED.items():
        op.execute(GUARD.format(name=name, words=words))
    op.alter_column("editions", "published_by", nullable=True)
    op.create_table(
        "classes",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("owner_id", sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("code", sa.String, nullable=False, unique=True),
        sa.Column("open", sa.Boolean, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
    )
    op.create_index("classes_by_owner", "classes", ["owner_id"])
    for name, since in (("class_educators", "since"), ("class_members", "joined_at")):
        op.create_table(
            name,
            sa.Column("class_id", sa.Uuid, sa.ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True),
            sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True),
            sa.Column(since, MOMENT, nullable=False),
        )
        op.create_index(f"{name}_by_account", name, ["account_id"])
    op.create_table(
        "class_lessons",
        sa.Column("class_id", sa.Uuid, sa.ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), primary_key=True),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("due", sa.Date),
    )
    op.create_index("class_lessons_by_lesson", "class_lessons", ["lesson_id"])
    op.create_table(
        "made",
        sa.Column("job_id", sa.Uuid, sa.ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("media_type", sa.String, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.execute("ALTER TABLE made ALTER COLUMN data SET STORAGE EXTERNAL")  # what is made is compressed already
    op.create_table(
        "public_editions",
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), primary_key=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("link", sa.String, nullable=False, unique=True),
        sa.Column("by_id", sa.Uuid, sa.ForeignKey("accounts.id", ondelete="SET NULL")),
        sa.Column("since", MOMENT, nullable=False),
        sa.Column("page", sa.LargeBinary, nullable=False),
    )
    op.execute("ALTER TABLE public_editions ALTER COLUMN page SET STORAGE EXTERNAL")
    op.add_column("followings", sa.Column("seen_at", MOMENT))
    op.execute("UPDATE followings SET seen_at = begun_at")
    op.alter_column("followings", "seen_at", nullable=False)
    op.add_column("standings", sa.Column("left_to_do", JSONB, nullable=False, server_default="[]"))
    op.add_column("attempts", sa.Column("may_show", sa.Boolean, nullable=False, server_default="false"))


def downgrade() -> None:
    op.alter_column("editions", "published_by", nullable=False)
    for name, words in GUARDED.items():
        op.execute(BEFORE.format(name=name, words=words))
    op.drop_column("attempts", "may_show")
    op.drop_column("standings", "left_to_do")
    op.drop_column("followings", "seen_at")
    for name in ("public_editions", "made", "class_lessons", "class_members", "class_educators", "classes"):
        op.drop_table(name)
