"""Each step knows the sheet that it is on, so that an undo leads there."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    """Add the column; steps from before lead nowhere."""
    op.add_column("revision", sa.Column("sheet", sa.String, server_default="", nullable=False))
