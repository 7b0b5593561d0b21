"""Open every job of the database in the settings, and print what the sheets show of each. Run in a process
of its own.
"""

from __future__ import annotations

import json

from sqlalchemy import select

from aimtrue.api.shared import store
from aimtrue.api.views import beside, job_line, job_parts
from aimtrue.store import jobs
from aimtrue.store.database import migrate, sessions
from aimtrue.store.tables import RevisionRow


def main() -> None:
    """Print all jobs as JSON, and how many revisions could be read."""
    migrate()
    with sessions()() as session:
        listed = jobs.every(session)
        loaded = {feature.row.name: jobs.load(session, feature.row.id) for feature in listed}
        shown = {
            name: job_parts(store, loaded_job, beside(session, loaded_job))
            for name, loaded_job in loaded.items()
        }
        read = [jobs.at(session, row.job, row.number) for row in session.scalars(select(RevisionRow))]
        lines = [job_line(feature).model_dump(mode="json") for feature in listed]
    print(json.dumps({"jobs": shown, "lines": lines, "revisions": len(read)}))


if __name__ == "__main__":
    main()
