"""The first release: all tables, what guards those that are only added to, and the schema of the engine of jobs."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy import text
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"  # what stood before the first release went from 0001 to here
down_revision = None
branch_labels = None
depends_on = None

MOMENT = sa.DateTime(timezone=True)

# what is deleted for good, with its owner, is deleted within a transaction that says so
GUARDS = """
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'TRUNCATE' AND current_setting('inner_tone.forgetting', true) = 'on' THEN
        RETURN NULL;
    END IF;
    RAISE EXCEPTION 'The history of steps is only ever added to.';
END $$;
CREATE FUNCTION refuse_another_edition() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'TRUNCATE' AND current_setting('inner_tone.forgetting', true) = 'on' THEN
        RETURN NULL;
    END IF;
    RAISE EXCEPTION 'What is published stays as it is.';
END $$;
CREATE FUNCTION refuse_unless_forgotten() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF current_setting('inner_tone.forgetting', true) = 'on' THEN
        RETURN OLD;
    END IF;
    RAISE EXCEPTION 'rows of this table are only ever added';
END $$;
CREATE TRIGGER step_history_is_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON step_history
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER operations_are_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON operations
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER editions_are_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON editions
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_another_edition();
CREATE TRIGGER attempt_history_is_append_only BEFORE UPDATE OR TRUNCATE ON attempt_history
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER attempt_history_goes_as_a_whole BEFORE DELETE ON attempt_history
    FOR EACH ROW EXECUTE FUNCTION refuse_unless_forgotten();
"""

# what is compressed already
AS_IT_IS = (("answers", "found"), ("made", "data"), ("public_editions", "page"))


def upgrade() -> None:  # noqa: PLR0915 - a list
    op.create_table(
        "accounts",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("sign_in", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("password_hash", sa.String(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.CheckConstraint("role IN ('educator', 'learner')", name="accounts_role_check"),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("sign_in"),
    )
    op.create_table(
        "answers",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("found", sa.LargeBinary(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("key"),
        prefixes=["UNLOGGED"],
    )
    op.create_index("answers_by_age", "answers", ["at"], unique=False)
    op.create_table(
        "renders",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("wav", sa.LargeBinary(), nullable=False),
        sa.Column("used_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_index("renders_by_use", "renders", ["used_at"], unique=False)
    op.create_table(
        "sounds",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("flac", sa.LargeBinary(), nullable=False),
        sa.Column("facts", JSONB(), nullable=False),
        sa.Column("added_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "takes",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("patch", JSONB(), nullable=False),
        sa.Column("phrase", JSONB(), nullable=False),
        sa.Column("node", sa.String(), server_default="", nullable=False),
        sa.Column("used_at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_index("takes_by_use", "takes", ["used_at"], unique=False)
    op.create_table(
        "tries",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("whose", sa.String(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("tries_by_whose", "tries", ["whose", "at"], unique=False)
    op.create_table(
        "classes",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("owner_id", sa.Uuid(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("open", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("code"),
    )
    op.create_index("classes_by_owner", "classes", ["owner_id"], unique=False)
    op.create_table(
        "devices",
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("used_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("digest", "account_id"),
    )
    op.create_index("devices_by_account", "devices", ["account_id"], unique=False)
    op.create_table(
        "images",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("owner_id", sa.Uuid(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("added_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_index("images_by_owner", "images", ["owner_id"], unique=False)
    op.create_table(
        "invitations",
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("role", sa.String(), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.Column("used_by", sa.Uuid(), nullable=True),
        sa.ForeignKeyConstraint(["used_by"], ["accounts.id"], ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("digest"),
    )
    op.create_table(
        "jobs",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("wish", JSONB(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("part", sa.Double(), nullable=False),
        sa.Column("result", JSONB(), nullable=True),
        sa.Column("problem", JSONB(), nullable=True),
        sa.Column("asked_at", MOMENT, nullable=False),
        sa.Column("ended_at", MOMENT, nullable=True),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("jobs_by_account", "jobs", ["account_id", "asked_at"], unique=False)
    op.create_table(
        "kept_sections",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("owner_id", sa.Uuid(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("fragment", JSONB(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("sections_by_owner", "kept_sections", ["owner_id"], unique=False)
    op.create_table(
        "own_sounds",
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("licence", sa.String(), nullable=False),
        sa.Column("added_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["key"], ["sounds.key"]),
        sa.PrimaryKeyConstraint("account_id", "key"),
    )
    op.create_index("own_sounds_by_key", "own_sounds", ["key"], unique=False)
    op.create_table(
        "recordings",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("owner_id", sa.Uuid(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("flac", sa.LargeBinary(), nullable=False),
        sa.Column("added_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["owner_id"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "series",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("owner_id", sa.Uuid(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("summary", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.ForeignKeyConstraint(["owner_id"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("series_by_owner", "series", ["owner_id"], unique=False)
    op.create_table(
        "sign_ins",
        sa.Column("token_digest", sa.String(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("browser", sa.String(), nullable=False),
        sa.Column("begun_at", MOMENT, nullable=False),
        sa.Column("used_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("token_digest"),
    )
    op.create_index("sign_ins_by_account", "sign_ins", ["account_id"], unique=False)
    op.create_table(
        "class_educators",
        sa.Column("class_id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("since", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["class_id"], ["classes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("class_id", "account_id"),
    )
    op.create_index("class_educators_by_account", "class_educators", ["account_id"], unique=False)
    op.create_table(
        "class_members",
        sa.Column("class_id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("joined_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["class_id"], ["classes.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("class_id", "account_id"),
    )
    op.create_index("class_members_by_account", "class_members", ["account_id"], unique=False)
    op.create_table(
        "lessons",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("owner_id", sa.Uuid(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("summary", sa.String(), nullable=False),
        sa.Column("target_first", sa.Boolean(), nullable=False),
        sa.Column("target_note", sa.String(), nullable=False),
        sa.Column("start", JSONB(), nullable=True),
        sa.Column("series_id", sa.Uuid(), nullable=True),
        sa.Column("series_place", sa.Integer(), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("updated_at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.ForeignKeyConstraint(["owner_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["series_id"], ["series.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("lessons_by_owner", "lessons", ["owner_id"], unique=False)
    op.create_index("lessons_in_series", "lessons", ["series_id", "series_place"], unique=False)
    op.create_table(
        "made",
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id"),
    )
    op.create_table(
        "attempts",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("step_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("patch", JSONB(), nullable=False),
        sa.Column("may_show", sa.Boolean(), server_default=text("false"), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("updated_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("attempts_at_step", "attempts", ["lesson_id", "step_id", "account_id"], unique=False)
    op.create_table(
        "class_lessons",
        sa.Column("class_id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("due", sa.Date(), nullable=True),
        sa.ForeignKeyConstraint(["class_id"], ["classes.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("class_id", "lesson_id"),
    )
    op.create_index("class_lessons_by_lesson", "class_lessons", ["lesson_id"], unique=False)
    op.create_table(
        "editions",
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("notes", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("overruled", JSONB(), nullable=False),
        sa.Column("lesson", JSONB(), nullable=False),
        sa.Column("step_ids", JSONB(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("published_by", sa.Uuid(), nullable=True),
        sa.Column("published_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.ForeignKeyConstraint(["published_by"], ["accounts.id"]),
        sa.PrimaryKeyConstraint("lesson_id", "number"),
    )
    op.create_index(
        "editions_by_words",
        "editions",
        [sa.literal_column("to_tsvector('english', words)")],
        unique=False,
        postgresql_using="gin",
    )
    op.create_table(
        "followings",
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("edition", sa.Integer(), nullable=False),
        sa.Column("short", sa.Boolean(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("reached", sa.Integer(), nullable=False),
        sa.Column("begun_at", MOMENT, nullable=False),
        sa.Column("seen_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("account_id", "lesson_id"),
    )
    op.create_table(
        "operations",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("undoes", sa.BigInteger(), nullable=True),
        sa.Column("before", JSONB(), nullable=False),
        sa.Column("after", JSONB(), nullable=False),
        sa.Column("at", MOMENT, server_default=text("now()"), nullable=False),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.ForeignKeyConstraint(["undoes"], ["operations.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("operations_by_lesson", "operations", ["lesson_id", "id"], unique=False)
    op.create_table(
        "played",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("step_id", sa.Uuid(), nullable=False),
        sa.Column("recording_key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.ForeignKeyConstraint(["recording_key"], ["recordings.key"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("played_at_step", "played", ["lesson_id", "step_id", "account_id"], unique=False)
    op.create_table(
        "presences",
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("window", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("step_id", sa.Uuid(), nullable=True),
        sa.Column("seen_at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("lesson_id", "window"),
    )
    op.create_table(
        "public_editions",
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("link", sa.String(), nullable=False),
        sa.Column("by_id", sa.Uuid(), nullable=True),
        sa.Column("since", MOMENT, nullable=False),
        sa.Column("page", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["by_id"], ["accounts.id"], ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("lesson_id"),
        sa.UniqueConstraint("link"),
    )
    op.create_table(
        "shares",
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("may_write", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("lesson_id", "account_id"),
    )
    op.create_index("shares_by_account", "shares", ["account_id"], unique=False)
    op.create_table(
        "standings",
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("step_id", sa.Uuid(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("shown", sa.Boolean(), nullable=False),
        sa.Column("left_to_do", JSONB(), server_default=text("'[]'"), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("account_id", "lesson_id", "step_id"),
    )
    op.create_table(
        "steps",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("content", JSONB(), nullable=False),
        sa.Column("render_key", sa.String(), nullable=False),
        sa.Column("engine", sa.String(), server_default="", nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("created_at", MOMENT, nullable=False),
        sa.Column("updated_at", MOMENT, nullable=False),
        sa.Column("deleted_at", MOMENT, nullable=True),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("steps_by_engine", "steps", ["engine"], unique=False)
    op.create_index("steps_by_render", "steps", ["render_key"], unique=False)
    op.create_index(
        "steps_by_words",
        "steps",
        [sa.literal_column("to_tsvector('english', words)")],
        unique=False,
        postgresql_using="gin",
    )
    op.create_index("steps_in_order", "steps", ["lesson_id", "position"], unique=False)
    op.create_table(
        "attempt_history",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("attempt_id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("patch", JSONB(), nullable=False),
        sa.Column("request", sa.Uuid(), nullable=True),
        sa.Column("at", MOMENT, server_default=text("now()"), nullable=False),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempts.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("history_by_attempt", "attempt_history", ["attempt_id", "id"], unique=False)
    op.create_table(
        "questions",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("account_id", sa.Uuid(), nullable=False),
        sa.Column("lesson_id", sa.Uuid(), nullable=False),
        sa.Column("step_id", sa.Uuid(), nullable=False),
        sa.Column("attempt_id", sa.Uuid(), nullable=True),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("answered_by", sa.Uuid(), nullable=True),
        sa.Column("asked_at", MOMENT, nullable=False),
        sa.Column("answered_at", MOMENT, nullable=True),
        sa.ForeignKeyConstraint(["account_id"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["answered_by"], ["accounts.id"]),
        sa.ForeignKeyConstraint(["attempt_id"], ["attempts.id"]),
        sa.ForeignKeyConstraint(["lesson_id"], ["lessons.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("questions_at_step", "questions", ["lesson_id", "step_id"], unique=False)
    op.create_table(
        "step_history",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("step_id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("action", sa.String(), nullable=False),
        sa.Column("content", JSONB(), nullable=False),
        sa.Column("request", sa.Uuid(), nullable=True),
        sa.Column("at", MOMENT, server_default=text("now()"), nullable=False),
        sa.ForeignKeyConstraint(["step_id"], ["steps.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("history_by_step", "step_history", ["step_id", "id"], unique=False)
    for table, column in AS_IT_IS:
        op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} SET STORAGE EXTERNAL")
    op.execute(GUARDS)
    op.execute("CREATE SCHEMA procrastinate")
    op.execute("SET LOCAL search_path TO procrastinate, public")
    raw = op.get_bind().connection.driver_connection
    assert raw is not None
    raw.execute(SchemaManager.get_schema())
    op.execute("SET LOCAL search_path TO DEFAULT")
