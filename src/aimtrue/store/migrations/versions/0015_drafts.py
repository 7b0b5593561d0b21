"""What is laid out on a sheet and not yet made is kept with its job."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "draft",
        sa.Column("job", sa.String, sa.ForeignKey("job.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("name", sa.String, primary_key=True),
        sa.Column("value", JSONB, nullable=False),
    )
