import { BufferAttribute, BufferGeometry, Sphere, Vector3 } from "three";

/** Triangles from which a mesh is worth drawing coarser while it moves. */
export const COARSER_FROM = 30_000;
const CELLS = 48;
/** Of many bodies drawn as one, each is a small part of the grid. */
export const CELLS_OF_MANY = 240;

const coarse = new WeakMap<BufferGeometry, BufferGeometry>();

/** A mesh drawn coarser, made when it is first needed. */
export function coarseOf(surface: BufferGeometry, cells = CELLS): BufferGeometry {
  const known = coarse.get(surface) ?? coarsened(surface, cells);
  coarse.set(surface, known);
  return known;
}

/**
 * The same corners with far fewer triangles: those within a cell of a grid become one of them (Rossignac and Borrel
 * 1993). For the moments in which a mesh moves on a machine that cannot keep up; whatever stands still is drawn whole.
 */
export function coarsened(surface: BufferGeometry, cells = CELLS): BufferGeometry {
  const points = surface.getAttribute("position") as BufferAttribute;
  const at = points.array as Float32Array;
  const faces = surface.index!.array as Uint32Array;
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < at.length; i++) {
    const axis = i % 3;
    low[axis] = Math.min(low[axis]!, at[i]!);
    high[axis] = Math.max(high[axis]!, at[i]!);
  }
  const step = Math.max(high[0]! - low[0]!, high[1]! - low[1]!, high[2]! - low[2]!) / cells || 1;
  const first = new Map<number, number>();
  const stands = new Uint32Array(points.count);
  for (let i = 0; i < points.count; i++) {
    const along = (axis: number) => Math.floor((at[3 * i + axis]! - low[axis]!) / step);
    const cell = (along(0) * (cells + 1) + along(1)) * (cells + 1) + along(2);
    const known = first.get(cell);
    if (known === undefined) first.set(cell, i);
    stands[i] = known ?? i;
  }
  const kept: number[] = [];
  for (let f = 0; f < faces.length; f += 3) {
    const [a, b, c] = [stands[faces[f]!]!, stands[faces[f + 1]!]!, stands[faces[f + 2]!]!];
    if (a !== b && b !== c && c !== a) kept.push(a, b, c);
  }
  const coarse = new BufferGeometry();
  coarse.setAttribute("position", points);
  if (surface.hasAttribute("color")) coarse.setAttribute("color", surface.getAttribute("color"));
  coarse.setIndex(new BufferAttribute(new Uint32Array(kept), 1));
  coarse.boundingSphere = new Sphere(new Vector3(), Infinity);
  return coarse;
}
