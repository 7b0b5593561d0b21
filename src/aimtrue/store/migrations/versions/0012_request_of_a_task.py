"""What a background task is asked to do stands in its request under the name that the code has for it."""

from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """Rename the entry in the requests of tasks, so that one that waits meanwhile is still worked on."""
    op.execute(
        "UPDATE task SET request = (request - 'work') || jsonb_build_object('task', request->'work')"
        " WHERE request ? 'work'"
    )
