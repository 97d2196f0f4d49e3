"""Alembic's entry: runs on the connection that the caller has put into the configuration."""

from alembic import context

from meldrin.store.tables import Table

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Table.metadata,
    compare_type=True,
    transaction_per_migration=True,
)
with context.begin_transaction():
    context.run_migrations()
