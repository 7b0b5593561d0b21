"""What the actions of sheet 2 do, in one table."""

from __future__ import annotations

from aimtrue.core.model.action import Handlers
from aimtrue.core.truing import readings, sizes

HANDLERS: Handlers = {**sizes.HANDLERS, **readings.HANDLERS}
