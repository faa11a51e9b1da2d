"""Accounts, sign-ins, ownership, and lessons shared between educators.

What was there before there were accounts goes to one that nobody can sign in to until it is given a password
(`bin/inner-tone account earlier --password`).
"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)
OWNED = ("lessons", "kept_sections")

EARLIER = """
INSERT INTO accounts (id, sign_in, name, role, password_hash, created_at)
SELECT gen_random_uuid(), 'earlier', 'From before accounts', 'educator', '', now()
WHERE EXISTS (SELECT 1 FROM lessons) OR EXISTS (SELECT 1 FROM kept_sections)
"""


def upgrade() -> None:
    op.create_table(
        "accounts",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("sign_in", sa.String, nullable=False, unique=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("role", sa.String, sa.CheckConstraint("role IN ('educator', 'learner')"), nullable=False),
        sa.Column("password_hash", sa.String, nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
    )
    op.create_table(
        "sign_ins",
        sa.Column("token_digest", sa.String, primary_key=True),
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id"), nullable=False),
        sa.Column("browser", sa.String, nullable=False),
        sa.Column("begun_at", MOMENT, nullable=False),
        sa.Column("used_at", MOMENT, nullable=False),
    )
    op.create_index("sign_ins_by_account", "sign_ins", ["account_id"])
    op.execute(EARLIER)
    for table in OWNED:
        op.add_column(table, sa.Column("owner_id", sa.Uuid, sa.ForeignKey("accounts.id")))
        op.execute(f"UPDATE {table} SET owner_id = (SELECT id FROM accounts WHERE sign_in = 'earlier')")
        op.alter_column(table, "owner_id", nullable=False)
    op.create_index("lessons_by_owner", "lessons", ["owner_id"])
    op.create_index("sections_by_owner", "kept_sections", ["owner_id"])
    op.create_table(
        "shares",
        sa.Column("lesson_id", sa.Uuid, sa.ForeignKey("lessons.id"), primary_key=True),
        sa.Column("account_id", sa.Uuid, sa.ForeignKey("accounts.id"), primary_key=True),
        sa.Column("may_write", sa.Boolean, nullable=False),
    )
    op.create_index("shares_by_account", "shares", ["account_id"])


def downgrade() -> None:
    op.drop_table("shares")
    for table in OWNED:
        op.drop_column(table, "owner_id")
    op.drop_table("sign_ins")
    op.drop_table("accounts")
