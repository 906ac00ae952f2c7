"""Runs migrations on the connection that `open_log` hands over."""

from alembic import context

from plumbbob.store.tables import METADATA

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=METADATA,
    render_as_batch=True,
    transactional_ddl=True,
)
with context.begin_transaction():
    context.run_migrations()
