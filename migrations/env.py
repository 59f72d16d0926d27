"""Alembic's environment: runs on the connection the application hands over."""

from alembic import context

from almanac.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
