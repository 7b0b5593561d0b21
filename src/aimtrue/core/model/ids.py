"""This module gives each kind of id a type of its own, so that a kit's is not taken for a body's.

They are strings, in the database and on the wire; the type checker alone tells them apart.
"""

from __future__ import annotations

from typing import NewType, TypeAlias

SourceId = NewType("SourceId", str)
BodyId = NewType("BodyId", str)
KitId = NewType("KitId", str)
ReadingId = NewType("ReadingId", str)
DivisionId = NewType("DivisionId", str)
PlateId = NewType("PlateId", str)
SeatId = NewType("SeatId", str)
PairId = NewType("PairId", str)
PrintedPartId = NewType("PrintedPartId", str)

NO_BODY = BodyId("")
"""Stands where no body is known."""
NO_DIVISION = DivisionId("")
"""Stands where no division is meant."""

Owner: TypeAlias = KitId | BodyId
"""What a correction is of: a kit, or a body."""

Subject: TypeAlias = KitId | DivisionId | BodyId
"""What a seat is of: a kit, a split, or a body that stands by itself."""
