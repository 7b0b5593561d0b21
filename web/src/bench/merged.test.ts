import { describe, expect, it } from "vitest";
import { BufferAttribute, BufferGeometry, Color, Matrix4 } from "three";
import { merged, mergeable, MERGED_FROM } from "./merged";
import type { BenchMesh } from "./meshData";

function triangle(): BenchMesh {
  const points = new BufferAttribute(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), 3);
  const surface = new BufferGeometry().setAttribute("position", points);
  surface.setIndex(new BufferAttribute(new Uint32Array([0, 1, 2]), 1));
  const ink = new BufferGeometry().setAttribute("position", points);
  ink.setIndex(new BufferAttribute(new Uint32Array([0, 1]), 1));
  return { origin: [0, 0, 0], surface, ink, inked: new Float64Array(), vertices: 3, triangles: 1 };
}

describe("bodies drawn as one", () => {
  it("stand where each of them stands, in its own colour", () => {
    const made = merged([
      { mesh: triangle(), matrix: new Matrix4(), colour: "#ff0000" },
      { mesh: triangle(), matrix: new Matrix4().makeTranslation(10, 0, 5), colour: "#0000ff" },
    ]);
    expect([...made.surface.index!.array]).toEqual([0, 1, 2, 3, 4, 5]);
    expect([...made.ink.index!.array]).toEqual([0, 1, 3, 4]);
    const points = made.surface.getAttribute("position");
    expect([points.getX(4), points.getY(4), points.getZ(4)]).toEqual([11, 0, 5]);
    const colours = made.surface.getAttribute("color");
    expect([colours.getX(0), colours.getZ(5)]).toEqual([new Color("#ff0000").r, new Color("#0000ff").b]);
  });

  it("are so only when there are many", () => {
    const few = Array.from({ length: MERGED_FROM - 1 }, () => ({
      mesh: triangle(),
      matrix: new Matrix4(),
      colour: "#000",
    }));
    expect(mergeable(few)).toBe(false);
    expect(mergeable([...few, few[0]!])).toBe(true);
  });
});
