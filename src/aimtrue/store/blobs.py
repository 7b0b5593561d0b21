"""Bytes in chunked rows, named by their SHA-256."""

from __future__ import annotations

import hashlib
import itertools
from collections.abc import Iterable, Iterator

import psycopg
from sqlalchemy import delete, func, select, text, update
from sqlalchemy.orm import Session

from aimtrue.core.errors import AimTrueError
from aimtrue.store.tables import BlobRow, ChunkRow

CHUNK = 1024 * 1024
"""Each connection keeps as much memory, each way, as the largest row took that ever went over it."""


class UnknownBlob(AimTrueError):
    """There are no such bytes."""


def put(session: Session, data: bytes) -> str:
    """Keep bytes and return their name; bytes already there are not stored again."""
    return put_pieces(session, (data[at : at + CHUNK] for at in range(0, len(data), CHUNK)))


def put_pieces(session: Session, pieces: Iterable[bytes]) -> str:
    """Keep bytes that come in pieces of at most :data:`CHUNK`, and return their name.

    Bytes that are there already are touched: they stay, whoever else lets go of them just now.
    """
    blob = BlobRow(sha256=f"unfinished-{_fresh(session)}", bytes=0)
    session.add(blob)
    session.flush()
    digest, total = hashlib.sha256(), 0
    for number, piece in enumerate(pieces):
        digest.update(piece)
        total += len(piece)
        session.execute(ChunkRow.__table__.insert().values(blob=blob.id, number=number, data=piece))  # type: ignore[attr-defined]
    name = digest.hexdigest()
    # Two writers of the same bytes wait for each other here, so that one blob remains.
    session.execute(select(func.pg_advisory_xact_lock(int(name[:15], 16))))
    again = update(BlobRow).where(BlobRow.sha256 == name).values(touched=func.now()).returning(BlobRow.id)
    if session.scalar(again) is not None:
        session.execute(delete(BlobRow).where(BlobRow.id == blob.id))
        return name
    blob.sha256, blob.bytes = name, total
    session.flush()
    return name


def _fresh(session: Session) -> str:
    return str(session.scalar(text("select gen_random_uuid()")))


def find(session: Session, name: str) -> BlobRow | None:
    """Return the row of a blob, or None."""
    return session.scalar(select(BlobRow).where(BlobRow.sha256 == name))


def pieces(session: Session, name: str) -> Iterator[bytes]:
    """Yield a blob in pieces.

    Raises:
        AimTrueError: there is no such blob.
    """
    blob = find(session, name)
    if blob is None:
        raise UnknownBlob("blob-unknown", "these bytes are not stored here")
    # The driver's own cursor: it takes bytes as they are, where the usual way is hexadecimal text.
    driver: psycopg.Connection[tuple[bytes]] = session.connection().connection.driver_connection  # type: ignore[assignment]
    with driver.cursor(binary=True) as cursor:
        for number in itertools.count():
            cursor.execute("select data from blob_chunk where blob = %s and number = %s", (blob.id, number))
            row = cursor.fetchone()
            if row is None:
                return
            yield row[0]


def read(session: Session, name: str) -> bytes:
    """Return a blob whole."""
    return b"".join(pieces(session, name))
