"""Alembic's entry: runs the migrations on the connection that it is handed."""

from __future__ import annotations

from alembic import context

from eurythm.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
