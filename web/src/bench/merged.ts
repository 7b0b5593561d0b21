import { BufferAttribute, BufferGeometry, Color, Sphere, Vector3, type Matrix4 } from "three";
import type { BenchMesh } from "./meshData";

/** From so many bodies on, all are drawn as one: each alone takes six draw calls. */
export const MERGED_FROM = 24;
/** Vertices up to which it is quick enough to do again whenever a body moves. */
const MERGED_UP_TO = 1_500_000;

interface Part {
  mesh: BenchMesh;
  matrix: Matrix4;
  colour: string;
}

export interface Merged {
  surface: BufferGeometry;
  ink: BufferGeometry;
}

/** Whether several bodies are better drawn as one. */
export function mergeable(parts: readonly Part[]): boolean {
  return parts.length >= MERGED_FROM && parts.reduce((sum, part) => sum + part.mesh.vertices, 0) <= MERGED_UP_TO;
}

/** All bodies as one surface with a colour per vertex, and one set of inked edges, in bench coordinates. */
export function merged(parts: readonly Part[]): Merged {
  const vertices = parts.reduce((sum, part) => sum + part.mesh.vertices, 0);
  const positions = new Float32Array(3 * vertices);
  const colours = new Float32Array(3 * vertices);
  const faces = new Uint32Array(parts.reduce((sum, part) => sum + part.mesh.surface.index!.count, 0));
  const ends = new Uint32Array(parts.reduce((sum, part) => sum + part.mesh.ink.index!.count, 0));
  const [point, colour] = [new Vector3(), new Color()];
  let [vertex, face, end] = [0, 0, 0];
  for (const { mesh, matrix, colour: name } of parts) {
    const own = mesh.surface.getAttribute("position") as BufferAttribute;
    colour.set(name);
    for (let i = 0; i < mesh.vertices; i++) {
      point
        .fromBufferAttribute(own, i)
        .applyMatrix4(matrix)
        .toArray(positions, 3 * (vertex + i));
      colour.toArray(colours, 3 * (vertex + i));
    }
    face = shifted(mesh.surface.index!.array, faces, face, vertex);
    end = shifted(mesh.ink.index!.array, ends, end, vertex);
    vertex += mesh.vertices;
  }
  const points = new BufferAttribute(positions, 3);
  const surface = new BufferGeometry()
    .setAttribute("position", points)
    .setAttribute("color", new BufferAttribute(colours, 3));
  surface.setIndex(new BufferAttribute(faces, 1));
  const ink = new BufferGeometry().setAttribute("position", points);
  ink.setIndex(new BufferAttribute(ends, 1));
  surface.boundingSphere = ink.boundingSphere = new Sphere(new Vector3(), Infinity);
  return { surface, ink };
}

function shifted(from: ArrayLike<number>, to: Uint32Array, at: number, by: number): number {
  for (let i = 0; i < from.length; i++) to[at + i] = from[i]! + by;
  return at + from.length;
}
