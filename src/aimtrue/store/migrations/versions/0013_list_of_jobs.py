"""Jobs are searched by their words, have labels, and are put away: into the archive, or into the bin."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    """Add the columns; words are worked out with the lines of the list."""
    op.add_column("job", sa.Column("words", sa.Text, server_default="", nullable=False))
    op.add_column("job", sa.Column("archived", sa.DateTime(timezone=True), nullable=True))
    op.add_column("job", sa.Column("removed", sa.DateTime(timezone=True), nullable=True))
    op.add_column("job", sa.Column("labels", JSONB, server_default="[]", nullable=False))
    op.add_column("job", sa.Column("stops", sa.Integer, nullable=True))
