"""Make a body's geometry again, from the bytes of its source, by the steps of its recipe."""

from __future__ import annotations

from typing import Protocol

from pydantic import TypeAdapter

from aimtrue.core.division.cutting.steps import shaped
from aimtrue.core.division.frames import in_mm, in_numbers
from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model, stem_of
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.intake.mending.remedies import MendingRemedy, as_one, joined, mended
from aimtrue.core.intake.taken_bodies import bodies_of_contents, without_idle
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.recipe import (
    AsOneRecipe,
    DivisionRecipe,
    IntakeRecipe,
    JoinRecipe,
    KeptRecipe,
    Recipe,
    RemedyRecipe,
    ShellRecipe,
    key_of,
)

_REMEDY: TypeAdapter[MendingRemedy] = TypeAdapter(MendingRemedy)


class RecipeInputs(Protocol):
    """What recipes are made from: sources by hash, geometry as it was kept, and what was made before."""

    def original(self, sha256: str) -> bytes:
        """Return the bytes of a source."""
        ...

    def mesh(self, geometry: str) -> Mesh:
        """Return geometry that is kept."""
        ...


class RecipeBuilder:
    """Makes recipes; what goes into several of them is made once.

    Example:
        ``Kitchen(pantry).made(recipe_of(body))`` equals the mesh that the body names, corner by corner.
    """

    def __init__(self, pantry: RecipeInputs) -> None:
        self._pantry = pantry
        self._made: dict[str, Mesh] = {}

    def made(self, recipe: Recipe) -> Mesh:
        """Return what a recipe makes, in numbers of its file.

        Raises:
            Refused: a step cannot be done on what it is given.
            UnreadableFile: a source cannot be read any more.
        """
        key = key_of(recipe)
        if key not in self._made:
            self._made[key] = self._make(recipe)
        return self._made[key]

    def _make(self, recipe: Recipe) -> Mesh:
        match recipe:
            case IntakeRecipe():
                return self._taken_in(recipe)
            case KeptRecipe():
                return self._pantry.mesh(recipe.geometry)
            case RemedyRecipe():
                return mended(
                    self.made(recipe.whole), _REMEDY.validate_python(recipe.remedy), recipe.tolerance
                )
            case ShellRecipe():
                return separate(self.made(recipe.whole))[recipe.number].mesh
            case JoinRecipe():
                return joined([self.made(whole) for whole in recipe.wholes]).mesh
            case AsOneRecipe():
                return as_one([self.made(whole) for whole in recipe.wholes])
            case DivisionRecipe():
                return self._shaped(recipe)

    def _shaped(self, recipe: DivisionRecipe) -> Mesh:
        """All bodies of a shaping are made at once, so all of them are kept at hand."""
        frames = recipe.frames[: len(recipe.wholes)]  # A loose pin has a frame, but is made of no body.
        wholes = [in_mm(frame, self.made(whole)) for whole, frame in zip(recipe.wholes, frames, strict=True)]
        meshes = [in_numbers(recipe.frames[0], piece.mesh) for piece in shaped(recipe.shaping, wholes)]
        for number, mesh in enumerate(meshes):
            self._made[key_of(recipe.model_copy(update={"number": number}))] = mesh
        if recipe.number >= len(meshes):
            raise Refused("piece-gone", f"what is cut no longer has a piece {recipe.number + 1}")
        return meshes[recipe.number]

    def _taken_in(self, recipe: IntakeRecipe) -> Mesh:
        """All bodies of a source are found in one reading, so all of them are kept at hand."""
        beside = {name: self._pantry.original(sha256) for name, sha256 in recipe.beside}
        data = self._pantry.original(recipe.sha256)
        contents = read_model(recipe.name, data, fineness=recipe.fineness, sew=recipe.sewn, beside=beside)
        found_bodies = bodies_of_contents(without_idle(contents)[0], stem_of(recipe.name))
        for number, found_body in enumerate(found_bodies):
            self._made[key_of(recipe.model_copy(update={"number": number}))] = found_body.mesh
        if recipe.number >= len(found_bodies):
            raise Refused("body-gone", f"{recipe.name} no longer has a body {recipe.number + 1}")
        return found_bodies[recipe.number].mesh
