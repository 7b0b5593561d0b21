"""This module says what was handed over, where to and when; and when a task was last known to be worked
on.
"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Add the table and the column."""
    op.add_column("errand", sa.Column("beat", sa.DateTime(timezone=True), nullable=True))
    op.create_table(
        "handover",
        sa.Column("id", sa.BigInteger, primary_key=True),
        sa.Column("job", sa.String, nullable=False, index=True),
        sa.Column("release", sa.BigInteger, nullable=False),
        sa.Column("way", sa.String, nullable=False),
        sa.Column("target", sa.String, nullable=False),
        sa.Column("whole", sa.Boolean, nullable=False),
        sa.Column("says", sa.String, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.ForeignKeyConstraint(["job"], ["job.id"], ondelete="CASCADE"),
    )
