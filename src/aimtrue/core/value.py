"""The base of every value that is kept or sent."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

Vec3 = tuple[float, float, float]


class Value(BaseModel):
    """Frozen, and strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")
