"""A start no longer remembers the patch before it: operations do."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE lessons SET start = start - 'before' WHERE start IS NOT NULL")


def downgrade() -> None:
    """A start without it is one from before anything was followed."""
