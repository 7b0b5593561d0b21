"""A release may have several files, each with its proof."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Put file and proof of each release into a list, and leave out what bodies no longer have."""
    op.add_column("release", sa.Column("files", JSONB(), nullable=True))
    op.execute("update release set files = jsonb_build_array(file || jsonb_build_object('proof', proof))")
    op.alter_column("release", "files", nullable=False)
    op.drop_column("release", "file")
    op.drop_column("release", "proof")
    op.execute(
        """
        update revision set state = jsonb_set(state, '{bodies}', coalesce(
            (select jsonb_agg(body - 'parts') from jsonb_array_elements(state -> 'bodies') as body), '[]'))
        where state -> 'bodies' is not null
        """
    )
