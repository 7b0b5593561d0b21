"""This module says when bytes were last put in, and what was removed, so that bytes that nothing names any
more can go.
"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Add the column and the table."""
    op.add_column("blob", _now("touched"))
    op.create_table(
        "removal",
        sa.Column("id", sa.BigInteger, primary_key=True),
        sa.Column("says", sa.String, nullable=False),
        _now("at"),
    )


def _now(name: str) -> sa.Column[object]:
    return sa.Column(name, sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False)
