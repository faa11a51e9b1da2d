"""Several nodes: answers that they share, who made a take, the engine that kept sounds were made by; jobs; invitations.

The engine of jobs keeps what is its own in a schema of its own.
"""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "answers",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("found", sa.LargeBinary, nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        prefixes=["UNLOGGED"],  # they can be made again
    )
    op.create_index("answers_by_age", "answers", ["at"])
    op.execute("ALTER TABLE answers ALTER COLUMN found SET STORAGE EXTERNAL")  # they are compressed already
    op.add_column("takes", sa.Column("node", sa.String, nullable=False, server_default=""))
    op.add_column("renders", sa.Column("engine", sa.String, nullable=False, server_default=""))
    op.add_column("steps", sa.Column("engine", sa.String, nullable=False, server_default=""))
    op.create_index("steps_by_engine", "steps", ["engine"])
    op.create_table(
        "jobs",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id", ondelete="CASCADE"), nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("wish", JSONB, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("part", sa.Float, nullable=False),
        sa.Column("result", JSONB),
        sa.Column("problem", JSONB),
        sa.Column("asked_at", MOMENT, nullable=False),
        sa.Column("ended_at", MOMENT),
    )
    op.create_index("jobs_by_account", "jobs", ["account_id", "asked_at"])
    op.create_table(
        "invitations",
        sa.Column("digest", sa.String, primary_key=True),
        sa.Column("role", sa.String, nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.Column("used_by", sa.Uuid, sa.ForeignKey("accounts.id", ondelete="SET NULL")),
    )
    op.execute("CREATE SCHEMA procrastinate")
    op.execute("SET LOCAL search_path TO procrastinate, public")
    raw = op.get_bind().connection.driver_connection
    assert raw is not None
    raw.execute(SchemaManager.get_schema())
    op.execute("SET LOCAL search_path TO DEFAULT")


def downgrade() -> None:
    op.execute("DROP SCHEMA procrastinate CASCADE")
    op.drop_table("invitations")
    op.drop_table("jobs")
    op.drop_column("steps", "engine")
    op.drop_column("renders", "engine")
    op.drop_column("takes", "node")
    op.drop_table("answers")
