"""Tries that are counted for all who serve, and the devices that somebody has signed in with."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "tries",
        sa.Column("id", sa.BigInteger, sa.Identity(), primary_key=True),
        sa.Column("whose", sa.String, nullable=False),
        sa.Column("at", MOMENT, nullable=False),
    )
    op.create_index("tries_by_whose", "tries", ["whose", "at"])
    op.create_table(
        "devices",
        sa.Column("digest", sa.String, primary_key=True),
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("used_at", MOMENT, nullable=False),
    )
    op.create_index("devices_by_account", "devices", ["account_id"])


def downgrade() -> None:
    op.drop_table("devices")
    op.drop_table("tries")
