"""Recipes: the steps that make a body's geometry from its source, so that it can be made again.

A recipe is a value inside the body. The key of one names what it makes: equal recipes make equal geometry,
so that it need not be made twice.
"""

from __future__ import annotations

import hashlib
from typing import Annotated, Literal

from pydantic import Field

from aimtrue.core.model.facets import Fineness
from aimtrue.core.model.shaping import Frame, Shaping
from aimtrue.core.model.value import Value


class IntakeRecipe(Value):
    """Read from a source: the body of that number among those found in it, counted from 0.

    ``beside`` are the files, by name, that an assembly has parts in, by their hashes.
    """

    step: Literal["taken-in"] = "taken-in"
    name: str
    sha256: str
    number: int
    fineness: Fineness | None = None
    sewn: bool = False
    beside: tuple[tuple[str, str], ...] = ()


class KeptRecipe(Value):
    """Geometry of a job from before recipes were kept: how it came about is not known, so it is kept as it
    is.
    """

    step: Literal["as-kept"] = "as-kept"
    geometry: str


class RemedyRecipe(Value):
    """Another body's geometry after a remedy; ``tolerance`` is in numbers of the file, None chosen by
    size.
    """

    step: Literal["mended"] = "mended"
    whole: Recipe
    remedy: str
    tolerance: float | None = None


class ShellRecipe(Value):
    """One shell of another body, counted from 0."""

    step: Literal["shell"] = "shell"
    whole: Recipe
    number: int


class JoinRecipe(Value):
    """Several bodies joined into one closed solid."""

    step: Literal["joined"] = "joined"
    wholes: tuple[Recipe, ...]


class AsOneRecipe(Value):
    """Several bodies taken as one, their surfaces as they are."""

    step: Literal["taken-as-one"] = "taken-as-one"
    wholes: tuple[Recipe, ...]


class DivisionRecipe(Value):
    """One of the bodies that a shaping makes of others, counted from 0.

    Each whole has a frame, in which it is in mm; what is made goes back to numbers of the file by the first.
    """

    step: Literal["shaped"] = "shaped"
    wholes: tuple[Recipe, ...]
    frames: tuple[Frame, ...]
    shaping: Shaping
    number: int


Recipe = Annotated[
    IntakeRecipe | KeptRecipe | RemedyRecipe | ShellRecipe | JoinRecipe | AsOneRecipe | DivisionRecipe,
    Field(discriminator="step"),
]

for _one in (RemedyRecipe, ShellRecipe, JoinRecipe, AsOneRecipe, DivisionRecipe):
    _one.model_rebuild()


def key_of(recipe: Recipe) -> str:
    """Return the name of what a recipe makes: the hash of all that goes into it."""
    return hashlib.sha256(recipe.model_dump_json().encode()).hexdigest()
