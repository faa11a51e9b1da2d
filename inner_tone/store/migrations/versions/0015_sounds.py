"""Sounds that samplers play, and who has them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "sounds",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("seconds", sa.Float, nullable=False),
        sa.Column("flac", sa.LargeBinary, nullable=False),
        sa.Column("facts", JSONB, nullable=False),
        sa.Column("added_at", MOMENT, nullable=False),
    )
    op.create_table(
        "own_sounds",
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id"), primary_key=True),
        sa.Column("key", sa.String, sa.ForeignKey("sounds.key"), primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("source", sa.String, nullable=False),
        sa.Column("licence", sa.String, nullable=False),
        sa.Column("added_at", MOMENT, nullable=False),
    )
    op.create_index("own_sounds_by_key", "own_sounds", ["key"])


def downgrade() -> None:
    op.drop_table("own_sounds")
    op.drop_table("sounds")
