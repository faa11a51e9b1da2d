"""Images in texts."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "images",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("owner_id", sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False),
        sa.Column("media_type", sa.String, nullable=False),
        sa.Column("data", sa.LargeBinary, nullable=False),
        sa.Column("added_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("images_by_owner", "images", ["owner_id"])


def downgrade() -> None:
    op.drop_table("images")
