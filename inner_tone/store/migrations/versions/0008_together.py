"""Who is at a lesson, and which wish of a page has led to a state of a step."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("step_history", sa.Column("request", sa.Uuid))
    op.create_table(
        "presences",
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), primary_key=True),
        sa.Column("window", sa.Uuid, primary_key=True),
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False),
        sa.Column("step_id", sa.Uuid),
        sa.Column("seen_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("presences")
    op.drop_column("step_history", "request")
