"""Words are found as they are written, in whatever language, and by the stems of the languages that are known."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

WORDS = "(to_tsvector('simple', words) || to_tsvector('english', words))"


def upgrade() -> None:
    """Index the words of steps and editions anew."""
    for table in ("steps", "editions"):
        op.drop_index(f"{table}_by_words", table)
        op.create_index(f"{table}_by_words", table, [sa.text(WORDS)], unique=False, postgresql_using="gin")
