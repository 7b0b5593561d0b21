"""Alembic's entry: run migrations over the address it was given."""

from alembic import context
from sqlalchemy import create_engine

from aimtrue.store.tables import TableBase

with create_engine(context.config.get_main_option("sqlalchemy.url") or "").connect() as connection:
    context.configure(connection=connection, target_metadata=TableBase.metadata)
    with context.begin_transaction():
        context.run_migrations()
