"""Versions of what is kept; what a step made anew; a job in one line; a digest that tells equal states."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Add them; what is there is of version 1."""
    for table in ("revision", "release", "calibration"):
        op.add_column(table, sa.Column("version", sa.BigInteger, nullable=False, server_default="1"))
    op.add_column("revision", sa.Column("brought", JSONB, nullable=False, server_default="[]"))
    op.execute(
        "update revision set brought = (select coalesce(jsonb_agg(body->'id'), '[]'::jsonb)"
        " from jsonb_array_elements(action->'come') as body) where action->>'do' = 'remake'"
    )
    op.add_column("revision", sa.Column("digest", sa.String(32), nullable=False, server_default=""))
    op.execute("update revision set digest = md5(state::text)")
    # States are long and written at every action; this packs them several times as fast.
    op.execute("alter table revision alter column state set compression lz4")
    op.add_column("job", sa.Column("line", JSONB, nullable=True))
    op.add_column("job", sa.Column("line_version", sa.BigInteger, nullable=False, server_default="0"))
