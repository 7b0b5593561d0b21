"""A named set of what is usually settled of a job, as a value."""

from __future__ import annotations

from pydantic import Field

from aimtrue.core.errors import Refused
from aimtrue.core.model.decisions import Clearance, Shrinkage
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.materials import Material
from aimtrue.core.model.printing import PrintSettings
from aimtrue.core.model.text import refuse_odd
from aimtrue.core.model.value import Value

_LONGEST = 60


class UsualSettings(Value):
    """What is usually settled of a job.

    Attributes:
        name: by which it is found.
        machine: of all plates.
        material: of the job.
        shrinkage, clearance: of every body that is printed.
        least_wall_mm: the thinnest wall that will do; None for two beads of the machine.
        printing: how it is printed.
    """

    name: str = Field(max_length=200)
    machine: Machine
    material: Material
    shrinkage: Shrinkage
    clearance: Clearance
    least_wall_mm: float | None = Field(None, gt=0)
    printing: PrintSettings


def usual_of(job: Job, name: str) -> UsualSettings:
    """Return what a job has settled, under a name; the allowance is that of its first body to print.

    Raises:
        Refused: it has no name, or one that cannot be written.
    """
    name = name.strip()
    refuse_odd(name, "a name of usual settings")
    if not name or len(name) > _LONGEST:
        raise Refused(
            "usual-name", "usual settings need a name", remedy=f"type one of at most {_LONGEST} letters"
        )
    first = next((body for body in job.bodies if not body.for_checking and body.division is None), None)
    return UsualSettings(
        name=name,
        machine=job.machine,
        material=job.material,
        shrinkage=job.shrinkage_of(first) if first else Shrinkage(),
        clearance=first.clearance if first else Clearance(),
        least_wall_mm=job.least_wall_mm,
        printing=job.printing,
    )
