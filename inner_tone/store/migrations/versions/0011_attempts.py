"""What learners make of steps at benches of their own, how far they have come, and what they ask."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)

# rows of the history go only with the whole attempt, and whoever deletes that says so within the transaction
GUARD = """
CREATE FUNCTION refuse_unless_forgotten() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF current_setting('inner_tone.forgetting', true) = 'on' THEN
        RETURN OLD;
    END IF;
    RAISE EXCEPTION 'rows of this table are only ever added';
END $$;
CREATE TRIGGER attempt_history_goes_as_a_whole BEFORE DELETE ON attempt_history
    FOR EACH ROW EXECUTE FUNCTION refuse_unless_forgotten();
CREATE TRIGGER attempt_history_is_append_only BEFORE UPDATE OR TRUNCATE ON attempt_history
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
"""


def whose() -> list[sa.Column]:  # type: ignore[type-arg]
    return [
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False),
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), nullable=False),
        sa.Column("step_id", sa.Uuid, nullable=False),
    ]


def upgrade() -> None:
    op.create_table(
        "attempts",
        sa.Column("id", sa.Uuid, primary_key=True),
        *whose(),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("patch", JSONB, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("updated_at", MOMENT, nullable=False),
    )
    op.create_index("attempts_at_step", "attempts", ["lesson_id", "step_id", "account_id"])
    op.create_table(
        "attempt_history",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("attempt_id", sa.Uuid, sa.ForeignKey("attempts.id"), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("action", sa.String, nullable=False),
        sa.Column("patch", JSONB, nullable=False),
        sa.Column("request", sa.Uuid),
        sa.Column("at", MOMENT, nullable=False, server_default=sa.text("now()")),
    )
    op.create_index("history_by_attempt", "attempt_history", ["attempt_id", "id"])
    op.create_table(
        "standings",
        *whose(),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("shown", sa.Boolean, nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("account_id", "lesson_id", "step_id"),
    )
    op.create_table(
        "questions",
        sa.Column("id", sa.Uuid, primary_key=True),
        *whose(),
        sa.Column("attempt_id", sa.Uuid, sa.ForeignKey("attempts.id")),
        sa.Column("place", sa.String, nullable=False),
        sa.Column("text", sa.String, nullable=False),
        sa.Column("answer", sa.String, nullable=False),
        sa.Column("answered_by", sa.Uuid, sa.ForeignKey("accounts.id")),
        sa.Column("asked_at", MOMENT, nullable=False),
        sa.Column("answered_at", MOMENT),
    )
    op.create_index("questions_at_step", "questions", ["lesson_id", "step_id"])
    op.create_table(
        "played",
        sa.Column("id", sa.Uuid, primary_key=True),
        *whose(),
        sa.Column("recording_key", sa.String, sa.ForeignKey("recordings.key"), nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("at", MOMENT, nullable=False),
    )
    op.create_index("played_at_step", "played", ["lesson_id", "step_id", "account_id"])
    op.execute(GUARD)


def downgrade() -> None:
    for table in ("played", "questions", "standings", "attempt_history", "attempts"):
        op.drop_table(table)
    op.execute("DROP FUNCTION refuse_unless_forgotten()")
