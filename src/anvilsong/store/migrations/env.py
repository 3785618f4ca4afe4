"""Run migrations on the connection that ``store.database`` hands over."""

from __future__ import annotations

from alembic import context

from anvilsong.store.models import Base

context.configure(
    connection=context.config.attributes["connection"], target_metadata=Base.metadata, transactional_ddl=True
)
with context.begin_transaction():
    context.run_migrations()
