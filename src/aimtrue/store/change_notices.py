"""This module tells whoever watches a job that it changed, through the database."""

from __future__ import annotations

import orjson
from sqlalchemy import text
from sqlalchemy.orm import Session

CHANNEL = "aimtrue_job"
"""Where every change of a job, and how far its tasks are, is told once the transaction is committed."""


def tell(session: Session, key: str, progress: dict[str, object] | None = None) -> None:
    """Tell whoever watches a job that it changed, or how far a task of it is, once this is committed."""
    payload = orjson.dumps({"job": key, "progress": progress}).decode()
    session.execute(text("select pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})
