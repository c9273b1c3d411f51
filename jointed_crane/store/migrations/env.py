"""Runs migrations on the connection the store hands over."""

from alembic import context

from jointed_crane.store.tables import METADATA

context.configure(
    connection=context.config.attributes["connection"], target_metadata=METADATA, render_as_batch=True
)
with context.begin_transaction():
    context.run_migrations()
