"""An application of its own for a measurement or a picture: fresh data, free ports, gone afterwards."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

from aimtrue.cli.postgres import free_port
from aimtrue.cli.up import RunningSystem, running
from aimtrue.settings import OWN_HEADER, settings
from aimtrue.store import database

OURS = {OWN_HEADER: "1"}
"""Headers of requests that change something."""


@contextlib.contextmanager
def trial(*, empty: bool) -> Iterator[RunningSystem]:
    """Run everything in a temporary folder; the settings of this process point there meanwhile."""
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)  # The database's user must reach its part of the folder.
        os.environ.update(
            AIMTRUE_DATA=folder,
            AIMTRUE_PORT=str(free_port()),
            AIMTRUE_DATABASE_PORT=str(free_port()),
            AIMTRUE_NEXT_PORT=str(free_port()),
        )
        for known in (settings, database.engine, database.sessions):
            known.cache_clear()
        with running(empty=empty) as now:
            yield now
