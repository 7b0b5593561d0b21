import { BoxGeometry, Mesh, MeshBasicMaterial, OrthographicCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Vec3 } from "../api/types";
import { edgeKey, type BenchMesh } from "./meshData";
import { pickAt } from "./picking";
import { viewOf } from "./view";

/** A box of 40 x 20 x 10 with its edges inked and its diagonals not. */
function scene() {
  const source = new BoxGeometry(40, 20, 10);
  // Welded: eight vertices, as the server sends them.
  const points: Vec3[] = [];
  const index: number[] = [];
  const position = source.attributes.position!;
  for (let i = 0; i < source.index!.count; i++) {
    const at = new Vector3().fromBufferAttribute(position as never, source.index!.getX(i)).toArray() as Vec3;
    let id = points.findIndex((point) => point.join() === at.join());
    if (id < 0) id = points.push(at) - 1;
    index.push(id);
  }
  const surface = source.clone();
  for (const name of Object.keys(surface.attributes)) surface.deleteAttribute(name);
  surface.setAttribute(
    "position",
    new (position.constructor as typeof import("three").BufferAttribute)(new Float32Array(points.flat()), 3),
  );
  surface.setIndex(index);
  const inked = new Set<number>();
  points.forEach((a, i) =>
    points.forEach((b, j) => {
      const differing = a.filter((value, k) => value !== b[k]).length;
      if (i < j && differing === 1) inked.add(edgeKey(i, j, points.length));
    }),
  );
  const sorted = Float64Array.from(inked).sort();
  const data: BenchMesh = { origin: [0, 0, 0], surface, ink: surface, inked: sorted, vertices: 8, triangles: 12 };
  const mesh = new Mesh(surface, new MeshBasicMaterial());
  mesh.updateMatrixWorld();
  const camera = new OrthographicCamera(-40, 40, 30, -30, 0, 500);
  camera.position.set(0, 0, 100);
  camera.up.set(0, 1, 0);
  camera.lookAt(0, 0, 0);
  camera.updateProjectionMatrix();
  const view = viewOf(camera, 800, 600);
  return { data, mesh, camera, view };
}

describe("picking from above, ten pixels to the millimetre", () => {
  const { data, mesh, camera, view } = scene();
  const at = (x: number, y: number) => pickAt([400 + x * 10, 300 - y * 10], [{ body: "b", mesh, data }], camera, view);

  it("takes a corner when near one", () => {
    const pick = at(19.5, 9.6)!;
    expect(pick.anchor.on).toBe("vertex");
    expect(pick.point.map(Math.round)).toEqual([20, 10, 5]);
    expect([...pick.anchor.weights].sort()).toEqual([0, 0, 1]);
  });
  it("takes an inked edge when near one, at the place nearest the pointer", () => {
    const pick = at(3, 9.5)!;
    expect(pick.anchor.on).toBe("edge");
    expect(pick.point[0]).toBeCloseTo(3, 1);
    expect(pick.point[1]).toBeCloseTo(10);
  });
  it("takes the surface elsewhere, also on a diagonal that is not inked", () => {
    for (const [x, y] of [
      [5, 2],
      [0, 0],
    ] as const) {
      const pick = at(x, y)!;
      expect(pick.anchor.on).toBe("surface");
      expect(pick.anchor.weights.reduce((a, b) => a + b)).toBeCloseTo(1);
      expect(pick.point[0]).toBeCloseTo(x, 1);
      expect(pick.point[2]).toBeCloseTo(5);
    }
  });
  it("holds at the middle of an inked edge", () => {
    const found = at(20.5, 0.6);
    expect(found?.anchor.on).toBe("middle");
    expect([...found!.anchor.weights].sort()).toEqual([0, 0.5, 0.5]);
  });
  it("forgives a pointer just off the body, and no more", () => {
    expect(at(20.5, 4)?.anchor.on).toBe("edge");
    expect(at(23, 0)).toBeNull();
  });
  it("keeps the order of faces while it searches", () => {
    const before = Array.from(data.surface.index!.array);
    at(5, 2);
    expect(Array.from(data.surface.index!.array)).toEqual(before);
  });
});
