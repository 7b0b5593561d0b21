import { BufferAttribute, BufferGeometry } from "three";
import { describe, expect, it } from "vitest";
import { coarsened } from "./coarse";

/** A square of n by n cells in the plane z = 0. */
function square(n: number): BufferGeometry {
  const points: number[] = [];
  const faces: number[] = [];
  for (let y = 0; y <= n; y++) for (let x = 0; x <= n; x++) points.push(x, y, 0);
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const a = y * (n + 1) + x;
      faces.push(a, a + 1, a + n + 1, a + 1, a + n + 2, a + n + 1);
    }
  const made = new BufferGeometry();
  made.setAttribute("position", new BufferAttribute(new Float32Array(points), 3));
  made.setIndex(new BufferAttribute(new Uint32Array(faces), 1));
  return made;
}

describe("coarsened", () => {
  it("keeps corners and drops most triangles", () => {
    const fine = square(100);
    const coarse = coarsened(fine, 10);
    expect(coarse.index!.count).toBeLessThan(fine.index!.count / 20);
    expect(coarse.index!.count).toBeGreaterThan(3 * 100);
    expect(coarse.getAttribute("position")).toBe(fine.getAttribute("position"));
  });

  it("keeps the colours of bodies that are drawn as one", () => {
    const fine = square(20);
    fine.setAttribute("color", new BufferAttribute(new Float32Array(3 * 21 * 21), 3));
    expect(coarsened(fine, 4).getAttribute("color")).toBe(fine.getAttribute("color"));
    expect(coarsened(square(20), 4).hasAttribute("color")).toBe(false);
  });

  it("still covers the whole of it", () => {
    const coarse = coarsened(square(60), 12);
    const at = coarse.getAttribute("position").array;
    const used = [...coarse.index!.array].map((i) => at[3 * i]!);
    expect(Math.min(...used)).toBe(0);
    expect(Math.max(...used)).toBe(60);
  });

  it("leaves a mesh that is coarse already as it is", () => {
    const few = square(3);
    expect([...coarsened(few, 48).index!.array]).toEqual([...few.index!.array]);
  });
});
