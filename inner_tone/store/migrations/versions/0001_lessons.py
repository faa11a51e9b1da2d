"""Lessons, steps, their history, and renders."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)

APPEND_ONLY = """
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'The history of steps is only ever added to.';
END
$$;
CREATE TRIGGER step_history_is_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON step_history
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
"""


def upgrade() -> None:
    op.create_table(
        "lessons",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("summary", sa.String, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("updated_at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT),
    )
    op.create_table(
        "steps",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("content", JSONB, nullable=False),
        sa.Column("render_key", sa.String, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("updated_at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT),
    )
    op.create_index("steps_in_order", "steps", ["lesson_id", "position"])
    op.create_index("steps_by_render", "steps", ["render_key"])
    op.create_table(
        "step_history",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("step_id", sa.Uuid, sa.ForeignKey("steps.id"), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("action", sa.String, nullable=False),
        sa.Column("content", JSONB, nullable=False),
        sa.Column("at", MOMENT, nullable=False, server_default=sa.text("now()")),
    )
    op.create_index("history_by_step", "step_history", ["step_id", "id"])
    op.create_table(
        "renders",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("wav", sa.LargeBinary, nullable=False),
        sa.Column("used_at", MOMENT, nullable=False),
    )
    op.create_index("renders_by_use", "renders", ["used_at"])
    op.execute(APPEND_ONLY)


def downgrade() -> None:
    for table in ("renders", "step_history", "steps", "lessons"):
        op.drop_table(table)
    op.execute("DROP FUNCTION refuse_change()")
