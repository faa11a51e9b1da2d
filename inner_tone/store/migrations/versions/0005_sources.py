"""What lenses look at, by key: what a take was rendered from, and recordings."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "takes",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("patch", JSONB, nullable=False),
        sa.Column("phrase", JSONB, nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("takes_by_use", "takes", ["used_at"])
    op.create_table(
        "recordings",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("owner_id", sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False),
        sa.Column("seconds", sa.Float, nullable=False),
        sa.Column("flac", sa.LargeBinary, nullable=False),
        sa.Column("added_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("recordings")
    op.drop_table("takes")
