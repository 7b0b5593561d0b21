"""What is estimated in the background, as values."""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.value import Value


class EstimateTask(Value):
    """Estimate a plate along its paths."""

    do: Literal["estimate-plate"] = "estimate-plate"
    plate: PlateId
