"""Sections that are kept for reuse."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kept_sections",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("fragment", JSONB, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("kept_sections")
