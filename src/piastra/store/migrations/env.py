"""Alembic's environment: runs on the connection that it is given."""

from alembic import context

from piastra.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
