"""States packed: the database no longer takes them apart. Those kept before stay as they are."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Add the column; what is packed already is not to be packed again."""
    op.add_column("revision", sa.Column("packed", sa.LargeBinary, nullable=True))
    op.alter_column("revision", "state", nullable=True)
    op.execute("ALTER TABLE revision ALTER COLUMN packed SET STORAGE EXTERNAL")
