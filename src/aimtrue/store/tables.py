"""The tables, as SQLAlchemy models."""

from __future__ import annotations

from datetime import datetime
from typing import Any, ClassVar

from sqlalchemy import BigInteger, DateTime, ForeignKey, LargeBinary, String, Text, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class TableBase(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map: ClassVar = {
        dict[str, Any]: JSONB,
        list[dict[str, Any]]: JSONB,
        datetime: DateTime(timezone=True),
        int: BigInteger,
    }


class BlobRow(TableBase):
    """Bytes named by their SHA-256: sources, geometry and released files; ``touched`` when last put in."""

    __tablename__ = "blob"
    id: Mapped[int] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), unique=True)
    bytes: Mapped[int]
    touched: Mapped[datetime] = mapped_column(server_default=func.now())


class ChunkRow(TableBase):
    """A piece of a blob."""

    __tablename__ = "blob_chunk"
    blob: Mapped[int] = mapped_column(ForeignKey("blob.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class JobRow(TableBase):
    """A job and the number of its newest revision.

    ``line`` is what the list shows of it, ``words`` what it is found by there, ``labels`` those that its
    user gave it, ``stops`` how many of its findings stop a release, as far as that was worked out;
    ``archived`` and ``removed`` when it was put away, or into the bin.
    """

    __tablename__ = "job"
    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    head: Mapped[int]
    demo: Mapped[bool] = mapped_column(default=False)
    created: Mapped[datetime] = mapped_column(server_default=func.now())
    changed: Mapped[datetime] = mapped_column(server_default=func.now())
    line: Mapped[dict[str, Any] | None]
    line_version: Mapped[int] = mapped_column(default=0)
    words: Mapped[str] = mapped_column(Text, default="")
    labels: Mapped[list[str]] = mapped_column(JSONB, default=list)
    stops: Mapped[int | None]
    archived: Mapped[datetime | None]
    removed: Mapped[datetime | None]


class RevisionRow(TableBase):
    """One state of a job, never changed. Undo and redo add revisions; nothing is taken away.

    ``undo_to`` and ``redo_to`` are the revisions whose state an undo or redo would bring back; ``brought``
    the bodies that its step made anew, ``sheet`` the one that the step is on. ``version`` says how the state
    is written, see ``core/model/upgrades.py``; ``digest`` tells states that are the same. A state is
    ``packed`` (see ``states.py``); those kept before that was so are in ``state``, those that were thinned in
    neither.
    """

    __tablename__ = "revision"
    job: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    action: Mapped[dict[str, Any]] = mapped_column(deferred=True)
    says: Mapped[str]
    state: Mapped[dict[str, Any] | None] = mapped_column(deferred=True)
    packed: Mapped[bytes | None] = mapped_column(deferred=True)
    version: Mapped[int] = mapped_column(default=1)
    digest: Mapped[str] = mapped_column(String(32))
    undo_to: Mapped[int | None]
    redo_to: Mapped[int | None]
    brought: Mapped[list[str]] = mapped_column(JSONB)
    sheet: Mapped[str] = mapped_column(default="")
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class TaskRow(TableBase):
    """A background task of a job: reading a file, or making a release.

    ``beat`` is when it was last known to be worked on.
    """

    __tablename__ = "task"
    id: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    state: Mapped[str] = mapped_column(default="waiting")
    share: Mapped[float] = mapped_column(default=0.0)
    says: Mapped[str] = mapped_column(default="waiting")
    request: Mapped[dict[str, Any]]
    error: Mapped[dict[str, Any] | None]
    beat: Mapped[datetime | None]
    created: Mapped[datetime] = mapped_column(server_default=func.now())
    changed: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())


class ReleaseRow(TableBase):
    """Released files, each with its proof.

    ``order`` is what was asked for, ``record`` the hash of the proof record; releases kept before either was
    noted have none.
    """

    __tablename__ = "release"
    job: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    revision: Mapped[int]
    files: Mapped[list[dict[str, Any]]]
    order: Mapped[dict[str, Any] | None]
    record: Mapped[str | None] = mapped_column(String(64))
    version: Mapped[int] = mapped_column(default=1)
    created: Mapped[datetime] = mapped_column(server_default=func.now())


class HandoverRow(TableBase):
    """A release that was put down or sent; ``whole`` when all of it arrived."""

    __tablename__ = "handover"
    id: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), index=True)
    release: Mapped[int]
    way: Mapped[str]
    target: Mapped[str]
    whole: Mapped[bool]
    says: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class DraftRow(TableBase):
    """What is laid out on a sheet of a job and not yet made, as that sheet wrote it."""

    __tablename__ = "draft"
    job: Mapped[str] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[dict[str, Any]] = mapped_column(JSONB)


class PatternRow(TableBase):
    """A pattern of names, kept for the next job; the one used last comes first."""

    __tablename__ = "pattern"
    pattern: Mapped[str] = mapped_column(primary_key=True)
    used: Mapped[datetime] = mapped_column(server_default=func.now())


class CalibrationRow(TableBase):
    """How much a machine and material print off size; kept for the next job."""

    __tablename__ = "calibration"
    id: Mapped[int] = mapped_column(primary_key=True)
    found: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)
    created: Mapped[datetime] = mapped_column(server_default=func.now())


class MachineRow(TableBase):
    """A machine on the shelf, kept for the next job."""

    __tablename__ = "machine"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    machine: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)


class UsualRow(TableBase):
    """A set of usual settings, kept for the next job."""

    __tablename__ = "usual"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    settings: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)


class RemovalRow(TableBase):
    """Something was removed, and bytes that it named may be named by nothing now."""

    __tablename__ = "removal"
    id: Mapped[int] = mapped_column(primary_key=True)
    says: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())
