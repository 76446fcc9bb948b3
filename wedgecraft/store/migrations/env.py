"""Alembic's entry: runs on the connection it is handed."""

from __future__ import annotations

from alembic import context

from wedgecraft.store.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
