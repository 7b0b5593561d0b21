"""This module says what an action tells of bodies that take the place of others.

An action returns it (:meth:`~aimtrue.core.model.action.ActionValue.replacements`); each room then
carries what is its own to the new bodies (``carry`` in :class:`~aimtrue.core.room.Room`).
"""

from __future__ import annotations

from pydantic import Field

from aimtrue.core.model.ids import BodyId, KitId, ReadingId
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.value import Value


class Replacement(Value):
    """Bodies that go, and what comes in their place.

    Attributes:
        gone: ids of the bodies that go.
        follows: per new body that goes on being an old one, which.
        pieces: per new body that is a part of an old one, which.
        kit: what the pieces become together.
        anchored: places of readings that are known to be on the same faces as before, all on body ``onto``.
        scale: how many times larger the numbers of the new bodies are for the same part.
        copies: how many are wanted of a new body, where that follows from how it was made.
    """

    gone: tuple[BodyId, ...] = ()
    follows: dict[BodyId, BodyId] = Field(default_factory=dict)
    pieces: dict[BodyId, BodyId] = Field(default_factory=dict)
    kit: KitId | None = None
    anchored: dict[ReadingId, tuple[Anchor, ...]] = Field(default_factory=dict)
    onto: BodyId | None = None
    scale: float = Field(1.0, gt=0)
    copies: dict[BodyId, int] = Field(default_factory=dict)

    @property
    def successor_of(self) -> dict[BodyId, BodyId]:
        """The new body that goes on being each old one, by its id."""
        return {old: new for new, old in self.follows.items()}
