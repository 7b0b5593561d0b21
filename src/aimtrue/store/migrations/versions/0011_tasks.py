"""Background tasks are called so: the table, and what the queue hands over of each."""

from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Rename the table, and the argument by which tasks that still wait in the queue name their row."""
    op.rename_table("errand", "task")
    op.execute("ALTER INDEX IF EXISTS ix_errand_job RENAME TO ix_task_job")
    op.execute("ALTER SEQUENCE IF EXISTS errand_id_seq RENAME TO task_id_seq")
    # The queue is made by its own library, and may not be there yet.
    op.execute(
        "DO $$ BEGIN IF to_regclass('procrastinate_jobs') IS NOT NULL THEN"
        " UPDATE procrastinate_jobs SET args = (args - 'errand') ||"
        " jsonb_build_object('task', args->'errand')"
        " WHERE args ? 'errand'; END IF; END $$"
    )
