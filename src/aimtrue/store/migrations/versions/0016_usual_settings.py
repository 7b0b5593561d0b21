"""What is usually settled of a job is kept under a name."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "usual",
        sa.Column("id", sa.BigInteger, primary_key=True),
        sa.Column("name", sa.String, nullable=False, unique=True),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("version", sa.BigInteger, nullable=False, server_default="1"),
    )
