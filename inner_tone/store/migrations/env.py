"""Alembic's environment: migrations run over a connection that the caller brings."""

from alembic import context

from inner_tone.store.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()
