"""Recipes: whatever was done to a body, its geometry can be made again from the bytes of its source."""

from __future__ import annotations

from typing import Literal

import numpy as np
import pytest

from aimtrue.core.formats import threemf
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.tasks import JoinTask, MendTask, SeparateTask, TakeAsOneTask
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.mesh.serialization import to_bytes
from aimtrue.core.mesh.solids import solid_of, traced
from aimtrue.core.model.body import recipe_of
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.recipe import KeptRecipe, key_of
from aimtrue.core.recipes import RecipeBuilder
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading
from tests.core.test_remake import done
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

A, B = BodyId("s1-1"), BodyId("s1-2")


def pair(*meshes: Mesh) -> Bench:
    items = [threemf.BuildObject(f"body {number}", mesh) for number, mesh in enumerate(meshes, 1)]
    return bench_of("pair.3mf", threemf.write(items, Unit.MM, "", ""))


def made_again(bench: Bench) -> None:
    """Every body of a job equals what its recipe makes, to the last bit."""
    kitchen = RecipeBuilder(bench)
    for body in bench.job.bodies:
        assert to_bytes(kitchen.made(recipe_of(body))) == to_bytes(bench.mesh(body.geometry)), body.name


def test_what_was_taken_in_is_made_again() -> None:
    made_again(
        bench_of("two.stl", binary_stl(corners_of(merged([box(2, 3, 5), box(1, 1, 1, at=(9, 0, 0))]))))
    )


@pytest.mark.parametrize("remedy", ["close-holes", "rebuild", "face-outward"])
def test_a_mended_body_is_made_again(remedy: Literal["close-holes", "rebuild", "face-outward"]) -> None:
    whole = box(20, 30, 50)
    faces = whole.faces[:, ::-1] if remedy == "face-outward" else whole.faces[2:]
    bench = pair(Mesh(whole.vertices, faces))
    done(bench, MendTask(bodies=(A,), remedy=remedy, tolerance="2" if remedy == "rebuild" else ""))
    assert bench.job.bodies[0].recipe is not None
    assert bench.job.bodies[0].recipe.step == "mended"
    made_again(bench)


def test_a_chain_of_work_is_made_again() -> None:
    bench = pair(box(10, 10, 10), box(10, 10, 10, at=(8, 2, 2)))
    done(bench, JoinTask(bodies=(A, B)))
    made_again(bench)
    bench = pair(box(4, 4, 4), box(4, 4, 4, at=(20, 0, 0)))
    done(bench, TakeAsOneTask(bodies=(A, B)))
    done(bench, SeparateTask(body=bench.job.bodies[0].id))
    assert len(bench.job.bodies) == 2
    made_again(bench)


def test_equal_recipes_have_one_key_and_others_another() -> None:
    one, other = (recipe_of(body) for body in pair(box(2, 3, 5), box(1, 1, 1)).job.bodies)
    assert key_of(one) == key_of(one.model_copy())
    assert key_of(one) != key_of(other)


def test_a_body_from_before_recipes_is_kept_as_it_is() -> None:
    bench = pair(box(2, 3, 5))
    body = bench.job.bodies[0].model_copy(update={"recipe": None})
    assert recipe_of(body) == KeptRecipe(geometry=body.geometry)
    assert RecipeBuilder(bench).made(recipe_of(body)) is bench.mesh(body.geometry)


def test_each_triangle_of_a_join_knows_the_face_that_it_comes_from() -> None:
    meshes = [box(10, 10, 10), box(10, 10, 10, at=(8, 2, 2))]
    solids = [solid for mesh in meshes if (solid := solid_of(mesh)) is not None]
    traced_solids = traced(solids[0] + solids[1], solids, meshes)
    normals = (
        traced_solids.mesh.area_vectors / np.linalg.norm(traced_solids.mesh.area_vectors, axis=1)[:, None]
    )
    seen = set()
    for whole, mesh in enumerate(meshes):
        for triangle in range(mesh.triangles):
            on_it = traced_solids.come_from(whole, triangle)
            seen |= set(on_it.tolist())
            way = mesh.area_vectors[triangle] / np.linalg.norm(mesh.area_vectors[triangle])
            np.testing.assert_allclose(normals[on_it], np.tile(way, (len(on_it), 1)), atol=1e-12)
    assert seen == set(range(traced_solids.mesh.triangles))


def test_a_reading_between_joined_bodies_stays_on_the_faces_that_it_was_picked_on() -> None:
    bench = pair(box(10, 10, 10), box(10, 10, 10, at=(8, 2, 2)))

    def corner(body: BodyId, *point: float) -> PickedSpot:
        mesh = bench.mesh(bench.job.body(body).geometry)
        vertex = int(np.flatnonzero((mesh.vertices == point).all(axis=1))[0])
        face, place = np.argwhere(mesh.faces == vertex)[0].tolist()
        weights = tuple(float(k == place) for k in range(3))
        return PickedSpot(body=body, anchor=Anchor(face=face, weights=weights, on="vertex"))

    spots = (corner(A, 0, 0, 0), corner(B, 18, 12, 12))
    bench.do(AddReading(body=A, kind="points", spots=spots))
    done(bench, JoinTask(bodies=(A, B)))
    [reading] = bench.job.readings
    [body] = bench.job.bodies
    assert (reading.body, reading.gauge.other, reading.lost) == (body.id, None, False)
    mesh = bench.mesh(body.geometry)
    for anchor, point in zip(reading.gauge.anchors, reading.gauge.points, strict=True):
        there = np.asarray(anchor.weights) @ mesh.vertices[mesh.faces[anchor.face]]
        np.testing.assert_allclose(there, point, atol=1e-9)
    assert survey(bench.job, bench).bodies[0].readings[0].model_mm == pytest.approx(
        np.sqrt(18**2 + 12**2 + 12**2)
    )
