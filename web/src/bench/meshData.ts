import { BufferAttribute, BufferGeometry, Sphere, Vector3 } from "three";
import type { Vec3 } from "../api/types";

/** A body as the bench draws it: positions are relative to `origin`, in numbers of the file. */
export interface BenchMesh {
  origin: Vec3;
  surface: BufferGeometry;
  ink: BufferGeometry;
  /** Ends of inked edges as `edgeKey` has them, sorted. */
  inked: Float64Array;
  vertices: number;
  triangles: number;
}

/** A mesh for drawing as arrays, as a worker hands it over. */
export interface MeshArrays {
  origin: Vec3;
  positions: Float32Array<ArrayBuffer>;
  faces: Uint32Array<ArrayBuffer>;
  ends: Uint32Array<ArrayBuffer>;
  inked: Float64Array<ArrayBuffer>;
}

const HEAD = 40;
const MAGIC = 0x31425441; // "ATB1", little-endian

/** Read the layout written by aimtrue.core.mesh.serialization.bench_bytes. */
export function readBench(data: ArrayBuffer): MeshArrays {
  const head = new DataView(data);
  if (data.byteLength < HEAD || head.getUint32(0, true) !== MAGIC) throw new Error("the mesh for drawing is damaged");
  const [vertices, triangles, edges] = [4, 8, 12].map((at) => head.getUint32(at, true)) as Vec3;
  const origin = [16, 24, 32].map((at) => head.getFloat64(at, true)) as Vec3;
  const positions = new Float32Array(data, HEAD, vertices * 3);
  const faces = new Uint32Array(data, HEAD + vertices * 12, triangles * 3);
  const ends = new Uint32Array(data, HEAD + vertices * 12 + triangles * 12, edges * 2);
  const inked = new Float64Array(edges);
  for (let i = 0; i < edges; i++) inked[i] = edgeKey(ends[2 * i]!, ends[2 * i + 1]!, vertices);
  return { origin, positions, faces, ends, inked: inked.sort() };
}

/** The surface of a mesh as the search tree and the renderer want it. */
export function surfaceOf({ positions, faces }: MeshArrays): BufferGeometry {
  const surface = new BufferGeometry();
  surface.setAttribute("position", new BufferAttribute(positions, 3));
  surface.setIndex(new BufferAttribute(faces, 1));
  return surface;
}

/** Make of arrays what is drawn. */
export function drawable(arrays: MeshArrays): BenchMesh {
  const { origin, positions, faces, ends, inked } = arrays;
  const surface = surfaceOf(arrays);
  const ink = new BufferGeometry();
  ink.setAttribute("position", surface.attributes.position!);
  ink.setIndex(new BufferAttribute(ends, 1));
  // Placed by matrix and always in view: the renderer need not measure them.
  surface.boundingSphere = ink.boundingSphere = new Sphere(new Vector3(), Infinity);
  return { origin, surface, ink, inked, vertices: positions.length / 3, triangles: faces.length / 3 };
}

/** Read a mesh for drawing here and now. */
export const parseBench = (data: ArrayBuffer): BenchMesh => drawable(readBench(data));

/** Whether an edge between two corners is inked. */
export function isInked({ inked, vertices }: BenchMesh, a: number, b: number): boolean {
  const key = edgeKey(a, b, vertices);
  let [low, high] = [0, inked.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (inked[middle]! < key) low = middle + 1;
    else high = middle;
  }
  return inked[low] === key;
}

export function edgeKey(a: number, b: number, vertices: number): number {
  return a < b ? a * vertices + b : b * vertices + a;
}
