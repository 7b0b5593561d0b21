"""A body: its geometry by hash, its facts, its decisions."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Final

from pydantic import Field

from aimtrue.core.model.decisions import Clearance, Decisions, KeptBore, ShownFace, StretchedBounds
from aimtrue.core.model.facets import Facets
from aimtrue.core.model.ids import BodyId, DivisionId, KitId, SourceId
from aimtrue.core.model.recipe import KeptRecipe, Recipe
from aimtrue.core.model.value import Value, Vec3


class Health(Value):
    """Counts that tell whether a body is a closed solid.

    ``places`` names, per finding, up to a few dozen points in numbers of the file. ``crossings`` is
    None where the mesh was too large to look for faces that cut through each other.
    """

    closed: bool
    open_edges: int = 0
    holes: int = 0
    crowded_edges: int = 0
    turned_edges: int = 0
    zero_area: int = 0
    duplicates: int = 0
    seams: int = 0
    crossings: int | None = None
    shells: int = 1
    places: dict[str, tuple[Vec3, ...]] = Field(default_factory=dict)


class MendingFacts(Value):
    """What is compared before and after a body is mended; in numbers of the file."""

    triangles: int
    volume: float
    size: Vec3
    findings: int


class MendingStep(Value):
    """One remedy that changed a body, with what it did.

    ``moved`` is how far the surface went from where it was, at most, in numbers of the file.
    """

    remedy: str
    before: MendingFacts
    after: MendingFacts
    moved: float = 0.0
    geometry: str
    """The geometry before."""


FACT: Final = "fact"
PROVENANCE: Final = "provenance"
DECISION: Final = "decision"
LOOK: Final = "look"
OF_SURFACE: Final = "of-surface"
NATURES = (FACT, PROVENANCE, DECISION, LOOK, OF_SURFACE)
"""What a field of a body is, and so what becomes of it on a body that takes its place.

A *fact* is what its geometry is, *provenance* where that comes from: both are the new body's own. A
*decision* is what its user decided of its size and its kit: a successor takes over all of them. A *look* is
how it is called and painted: only one that goes on being that body takes it over. What was decided *of its
surface* is looked at again by whoever knows the new geometry.
"""


class Body(Value):
    """One body: its geometry by hash, its facts in numbers of the file, its decisions.

    ``low`` and ``high`` bound it in file axes; ``volume`` and ``area`` are in cubed and
    squared numbers of the file. One of a ``kit`` takes correction, shrinkage and home from it; ``own`` and
    ``home`` are in force for one in no kit, and ``own`` for one that is ``alone``. Bodies with
    the same ``alike`` have the same shape up to position and rotation. A ``stray`` is tiny against
    the rest of its file. ``drawn`` is the name that the file gives it, if it does. ``features`` names
    the list of its flat and round faces. One that is ``as_drawn`` mates with a real part and refuses
    corrections; one that is ``alone`` is corrected by itself, not with its kit. ``remade`` names what was
    done to its geometry since it was taken in; None in jobs kept before that was noted. One that is
    ``copied`` lies where its twin is; ``made_of`` are the bounds of the bodies that it was made anew of, in
    numbers of the file. ``accepted`` are codes of findings let pass on purpose, ``reasons`` why, by code.
    ``showing`` are faces that are to show, as its user marked them. One that a division
    made has its id. One that is ``for_checking`` is there to check others against: it stands on no plate
    and is not released.
    """

    id: Annotated[BodyId, FACT]
    name: Annotated[str, LOOK]
    drawn: Annotated[str, PROVENANCE] = ""
    source: Annotated[SourceId, PROVENANCE]
    geometry: Annotated[str, FACT]
    bench: Annotated[str, FACT]
    triangles: Annotated[int, FACT]
    vertices: Annotated[int, FACT]
    low: Annotated[Vec3, FACT]
    high: Annotated[Vec3, FACT]
    volume: Annotated[float, FACT]
    area: Annotated[float, FACT]
    health: Annotated[Health, FACT]
    colour: Annotated[str | None, LOOK] = None
    material: Annotated[str, LOOK] = ""
    voids: Annotated[int, FACT] = 0
    kit: Annotated[KitId | None, DECISION] = None
    alike: Annotated[str | None, FACT] = None
    stray: Annotated[bool, FACT] = False
    facets: Annotated[Facets | None, FACT] = None
    remade: Annotated[tuple[str, ...] | None, PROVENANCE] = None
    made_of: Annotated[tuple[tuple[Vec3, Vec3], ...], PROVENANCE] = ()
    mended: Annotated[tuple[MendingStep, ...], PROVENANCE] = ()
    recipe: Annotated[Recipe | None, PROVENANCE] = None
    own: Annotated[Decisions, DECISION] = Decisions()
    home: Annotated[Vec3, DECISION] = (0.0, 0.0, 0.0)
    clearance: Annotated[Clearance, DECISION] = Clearance()
    stretched: Annotated[StretchedBounds | None, FACT] = None
    kept: Annotated[tuple[KeptBore, ...], OF_SURFACE] = ()
    showing: Annotated[tuple[ShownFace, ...], OF_SURFACE] = ()
    copied: Annotated[bool, DECISION] = False
    division: Annotated[DivisionId | None, PROVENANCE] = None
    as_drawn: Annotated[bool, DECISION] = False
    for_checking: Annotated[bool, DECISION] = False
    alone: Annotated[bool, DECISION] = False
    features: Annotated[str, FACT] = ""
    accepted: Annotated[tuple[str, ...], OF_SURFACE] = ()
    reasons: Annotated[tuple[tuple[str, str], ...], OF_SURFACE] = ()

    def reason(self, code: str) -> str:
        """Return why a finding of this code was accepted; empty where nobody said it."""
        return dict(self.reasons).get(code, "")


def recipe_of(body: Body) -> Recipe:
    """Return how a body's geometry comes about; of one from before recipes, only that it is kept."""
    return body.recipe or KeptRecipe(geometry=body.geometry)


@lru_cache
def fields_of(nature: str) -> tuple[str, ...]:
    """Return the names of the fields of a body that are of some nature."""
    return tuple(name for name, field in Body.model_fields.items() if nature in field.metadata)
