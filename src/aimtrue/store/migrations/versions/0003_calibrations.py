"""Calibrations: kept for every job, with the machine and material they belong to."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Make the table."""
    op.create_table(
        "calibration",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("found", JSONB, nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
