"""A finding: something that would make a bad part."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from pydantic import Field, computed_field, model_validator

from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.value import Value, Vec3

if TYPE_CHECKING:
    from aimtrue.core.model.job import Job

Severity = Literal["stop", "look", "note"]


Acceptance = Literal["never", "for-a-reason", "on-sight"]
"""Whether a finding can be accepted on purpose. What would make a bad part is accepted for a reason; what
only wants a look, on sight.
"""


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
    body_id: BodyId | None = None
    other_id: str | None = None
    source_id: str | None = None
    sheet: Literal["intake", "truing", "fit", "seating", "release"]
    says: str
    remedy: str = ""
    accepted: bool = False
    places: tuple[Vec3, ...] = ()
    bodies: tuple[BodyId, ...] = ()
    names: tuple[str, ...] = ()
    place_bodies: tuple[BodyId, ...] = ()
    seat: str = ""
    acceptance: Acceptance = Field("never", exclude=True)

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
        return self.acceptance != "never" and bool(self.bodies)

    def concerns(self, body: Body) -> bool:
        """Whether it is about a body, alone or with others, or about the file it came from."""
        return body.id in self.bodies or self.source_id == body.source

    @property
    def stops(self) -> bool:
        """Whether it keeps a release from being made."""
        return self.severity == "stop" and not self.accepted


@dataclass(frozen=True)
class FindingKind:
    """A kind of finding: all that holds for each finding of it.

    Attributes:
        code: names it, on the command line, too.
        severity: what it is unless its finder says otherwise.
        sheet: where it is settled.
        acceptance: whether it can be accepted on purpose.
        several: says it of several bodies, from the job, all its findings, and how many; None for the words
            of the worst, and how many more.
        by_body: whether bodies are counted then, not single faults.
        fault: what must be the same of a body that takes another's place for an acceptance to go on holding;
            None where it never goes on.
    """

    code: str
    severity: Severity
    sheet: Literal["intake", "truing", "fit", "seating", "release"]
    acceptance: Acceptance = "never"
    several: Callable[[Job, list[Finding], int], str] | None = None
    by_body: bool = False
    fault: Callable[[Body], object] | None = None

    def found(self, **about: Any) -> Finding:  # noqa: ANN401 - of any type, or of none that is known
        """Return a finding of this kind; ``about`` are the other fields of :class:`Finding`."""
        fields = {"code": self.code, "severity": self.severity, "sheet": self.sheet}
        return Finding(**{**fields, "acceptance": self.acceptance, **about})


def in_bodies(group: list[Finding]) -> str:
    """Say in how many bodies findings are."""
    return f"in {len({finding.body_id for finding in group}):,} bodies"
