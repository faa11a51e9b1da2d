"""What has been done to lessons as a whole, so that it can be undone as one act."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

APPEND_ONLY = """
CREATE TRIGGER operations_are_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON operations
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
"""


def upgrade() -> None:
    op.create_table(
        "operations",
        sa.Column("id", sa.BigInteger, primary_key=True),
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("undoes", sa.BigInteger, sa.ForeignKey("operations.id")),
        sa.Column("before", JSONB, nullable=False),
        sa.Column("after", JSONB, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.text("now()")),
    )
    op.create_index("operations_by_lesson", "operations", ["lesson_id", "id"])
    op.execute(APPEND_ONLY)


def downgrade() -> None:
    op.drop_table("operations")
