"""A finding: something that would make a bad part."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from pydantic import computed_field, model_validator

from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Value, Vec3

if TYPE_CHECKING:
    from aimtrue.core.model.job import Job

Severity = Literal["stop", "look", "note"]


ACCEPTABLE = (
    "open-edges",
    "turned-edges",
    "crowded-edges",
    "inside-out",
    "no-volume",
    "face-missing",
    "volume-off",
    "crossings",
    "stray",
    "overlap",
    "reading-missed",
    "moved-far",
)
"""Findings that a user may accept on purpose; the proof records it. To accept a stray is to keep it."""
WITHOUT_REASON = ("stray", "overlap")
"""Of these, those that only want a look; the others would make a bad part, and are accepted for a reason."""


class Finding(Value):
    """One thing to know before a part is made.

    ``other_id`` is a second body that it is about. ``sheet`` is where it is settled; ``accepted`` is true for
    one the user took on purpose; ``places`` are points to look at, in numbers of the file. One that is
    gathered over several bodies has no ``body_id``; ``bodies`` are all that it concerns, ``names`` theirs,
    and ``place_bodies`` says on which of them each place is. ``seat`` is that which it is about, if it is.
    """

    code: str
    severity: Severity
    count: int = 1
    body: str = ""
    body_id: str | None = None
    other_id: str | None = None
    source_id: str | None = None
    sheet: Literal["intake", "truing", "seating", "release"]
    says: str
    remedy: str = ""
    accepted: bool = False
    places: tuple[Vec3, ...] = ()
    bodies: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    place_bodies: tuple[str, ...] = ()
    seat: str = ""

    @model_validator(mode="after")
    def _of_its_body(self) -> Finding:
        """One that is about a body concerns that body, and the second that it is about."""
        if self.body_id is not None and not self.bodies:
            keys = (self.body_id,) if self.other_id is None else (self.body_id, self.other_id)
            object.__setattr__(self, "bodies", keys)
        return self

    @computed_field  # type: ignore[prop-decorator]
    @property
    def acceptable(self) -> bool:
        """Whether the user may take it on purpose."""
        return self.code in ACCEPTABLE and bool(self.bodies)

    def concerns(self, body: Body) -> bool:
        """Whether it is about a body, alone or with others, or about the file it came from."""
        return body.id in self.bodies or self.source_id == body.source

    @property
    def stops(self) -> bool:
        """Whether it keeps a release from being made."""
        return self.severity == "stop" and not self.accepted


@dataclass(frozen=True)
class FindingGroup:
    """How findings of one code are told of several bodies: from the job, all of them, and how many."""

    says: Callable[[Job, list[Finding], int], str]
    by_body: bool = False
    """Whether bodies are counted, not single faults."""


def in_bodies(group: list[Finding]) -> str:
    """Say in how many bodies findings are."""
    return f"in {len({finding.body_id for finding in group}):,} bodies"
