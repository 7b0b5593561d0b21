"""The base of every value that is kept or sent."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

Vec3 = tuple[float, float, float]
Axis = Literal["x", "y", "z"]
AXES: tuple[Axis, Axis, Axis] = ("x", "y", "z")


class Value(BaseModel):
    """Frozen, and strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
