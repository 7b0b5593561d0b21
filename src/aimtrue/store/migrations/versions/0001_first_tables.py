"""First tables: blobs, jobs, revisions, errands, releases, and the queue's own."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None


def _moment(name: str) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False)


def _job_key(**how: Any) -> sa.Column[object]:  # noqa: ANN401 - of any type, or of none that is known
    return sa.Column("job", sa.String, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False, **how)


def upgrade() -> None:
    """Make the tables."""
    op.create_table(
        "blob",
        sa.Column("id", sa.BigInteger, primary_key=True),
        sa.Column("sha256", sa.String(64), unique=True, nullable=False),
        sa.Column("bytes", sa.BigInteger, nullable=False),
    )
    op.create_table(
        "blob_chunk",
        sa.Column("blob", sa.BigInteger, sa.ForeignKey("blob.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.BigInteger, primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    # Meshes hardly compress, and compressing costs more time than the disk saves.
    op.execute("ALTER TABLE blob_chunk ALTER COLUMN data SET STORAGE EXTERNAL")
    op.create_table(
        "job",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("head", sa.BigInteger, nullable=False),
        sa.Column("demo", sa.Boolean, nullable=False),
        _moment("created"),
        _moment("changed"),
    )
    op.create_table(
        "revision",
        _job_key(primary_key=True),
        sa.Column("number", sa.BigInteger, primary_key=True),
        sa.Column("action", JSONB, nullable=False),
        sa.Column("says", sa.String, nullable=False),
        sa.Column("state", JSONB, nullable=False),
        sa.Column("undo_to", sa.BigInteger),
        sa.Column("redo_to", sa.BigInteger),
        _moment("at"),
    )
    op.create_table(
        "errand",
        sa.Column("id", sa.BigInteger, primary_key=True),
        _job_key(index=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("share", sa.Float, nullable=False),
        sa.Column("says", sa.String, nullable=False),
        sa.Column("request", JSONB, nullable=False),
        sa.Column("error", JSONB),
        _moment("created"),
        _moment("changed"),
    )
    op.create_table(
        "release",
        _job_key(primary_key=True),
        sa.Column("number", sa.BigInteger, primary_key=True),
        sa.Column("revision", sa.BigInteger, nullable=False),
        sa.Column("file", JSONB, nullable=False),
        sa.Column("proof", JSONB, nullable=False),
        _moment("created"),
    )
    connection = op.get_bind().connection
    connection.cursor().execute(SchemaManager.get_schema())


def downgrade() -> None:
    """Nothing precedes the first tables."""
    raise RuntimeError("there is nothing before the first migration")
