"""Machines: kept for every job. Jobs take them by value, so that an old job stays what it was."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Make the table."""
    op.create_table(
        "machine",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False, unique=True),
        sa.Column("machine", JSONB, nullable=False),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
    )
