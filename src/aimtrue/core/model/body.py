"""A body: its geometry by hash, its facts, its decisions."""

from __future__ import annotations

from pydantic import Field

from aimtrue.core.model.decisions import Clearance, Decisions, KeptBore, ShownFace, StretchedBounds
from aimtrue.core.model.facets import Facets
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
    made has its id.
    """

    id: str
    name: str
    drawn: str = ""
    source: str
    geometry: str
    bench: str
    triangles: int
    vertices: int
    low: Vec3
    high: Vec3
    volume: float
    area: float
    health: Health
    colour: str | None = None
    material: str = ""
    voids: int = 0
    kit: str | None = None
    alike: str | None = None
    stray: bool = False
    facets: Facets | None = None
    remade: tuple[str, ...] | None = None
    made_of: tuple[tuple[Vec3, Vec3], ...] = ()
    mended: tuple[MendingStep, ...] = ()
    recipe: Recipe | None = None
    own: Decisions = Decisions()
    home: Vec3 = (0.0, 0.0, 0.0)
    clearance: Clearance = Clearance()
    stretched: StretchedBounds | None = None
    kept: tuple[KeptBore, ...] = ()
    showing: tuple[ShownFace, ...] = ()
    copied: bool = False
    division: str | None = None
    as_drawn: bool = False
    alone: bool = False
    features: str = ""
    accepted: tuple[str, ...] = ()
    reasons: tuple[tuple[str, str], ...] = ()

    def reason(self, code: str) -> str:
        """Return why a finding of this code was accepted; empty where nobody said it."""
        return dict(self.reasons).get(code, "")


def recipe_of(body: Body) -> Recipe:
    """Return how a body's geometry comes about; of one from before recipes, only that it is kept."""
    return body.recipe or KeptRecipe(geometry=body.geometry)
