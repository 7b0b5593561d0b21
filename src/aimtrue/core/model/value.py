"""The base of every value that is kept or sent."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

Vec3 = tuple[float, float, float]
Axis = Literal["x", "y", "z"]
AXES: tuple[Axis, Axis, Axis] = ("x", "y", "z")


class Value(BaseModel):
    """Frozen, and strict about unknown fields; built when it is first used, see :func:`build_all`."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)


def build_all(kind: type[Value] = Value) -> None:
    """Build every kind of value that is loaded; what runs for long does so before anybody waits for it."""
    for subclass in kind.__subclasses__():
        subclass.model_rebuild()
        build_all(subclass)
