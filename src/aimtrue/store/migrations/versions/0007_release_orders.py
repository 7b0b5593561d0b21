"""This module says what was asked of a release, its proof record, and patterns of names kept for the next
job.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Add the columns; releases from before have neither."""
    op.add_column("release", sa.Column("order", JSONB, nullable=True))
    op.add_column("release", sa.Column("record", sa.String(64), nullable=True))
    op.create_table(
        "pattern",
        sa.Column("pattern", sa.String, primary_key=True),
        sa.Column("used", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
