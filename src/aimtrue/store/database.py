"""Connections, and bringing the tables up to date."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path

import orjson
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session, sessionmaker

from aimtrue.settings import settings


def sqlalchemy_url(address: str) -> str:
    """Return a libpq address as SQLAlchemy wants it, with the psycopg 3 driver."""
    return address.replace("postgresql://", "postgresql+psycopg://", 1)


@lru_cache
def engine() -> Engine:
    """Return the engine of the database in the settings."""
    return create_engine(
        sqlalchemy_url(settings().database),
        pool_pre_ping=True,
        pool_size=10,
        max_overflow=20,
        json_serializer=lambda value: orjson.dumps(value).decode(),
        json_deserializer=orjson.loads,
    )


@lru_cache
def sessions() -> sessionmaker[Session]:
    """Give what makes sessions. With ``begin`` a session commits at its end, or takes all back."""
    return sessionmaker(engine(), expire_on_commit=False)


@contextmanager
def snapshot() -> Iterator[Session]:
    """Give a session for reading in which everything is seen as of one moment.

    Without it a job could be shown from before a task ended, and the task from after.
    """
    with sessions()() as session:
        session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
        yield session


def migrate() -> None:
    """Bring the tables up to the newest migration; quick when they are."""
    from alembic import command  # The library is needed for this alone.
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", sqlalchemy_url(settings().database).replace("%", "%%"))
    command.upgrade(config, "head")
    from aimtrue.store import jobs, machines

    with sessions().begin() as session:
        jobs.refresh_lines(session)
        machines.fill(session)
