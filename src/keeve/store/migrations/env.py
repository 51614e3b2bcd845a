"""Runs migrations on the connection that `database.migrate` hands over."""

from alembic import context

from keeve.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
