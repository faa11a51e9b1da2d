"""What was overruled one by one when a lesson was published, and how far learners have come beside where they are."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("editions", sa.Column("overruled", JSONB, nullable=False, server_default="{}"))
    op.add_column("followings", sa.Column("reached", sa.Integer, nullable=False, server_default="0"))
    op.execute("UPDATE followings SET reached = place")


def downgrade() -> None:
    op.drop_column("followings", "reached")
    op.drop_column("editions", "overruled")
