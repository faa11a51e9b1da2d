"""Sounds are known by their key alone: it says by which types of module they were made, and of which version."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_column("renders", "engine")


def downgrade() -> None:
    op.add_column("renders", sa.Column("engine", sa.String, nullable=False, server_default=""))
