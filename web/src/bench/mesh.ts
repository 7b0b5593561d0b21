import { useQueries, type UseQueryResult } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { BufferAttribute, BufferGeometry, Matrix4, Sphere, Vector3 } from "three";
import { api } from "../api/client";
import type { Body, BodySurvey, Placement, Vec3 } from "../api/types";

/** A body as the bench draws it: positions are relative to `origin`, in numbers of the file. */
export interface BenchMesh {
  origin: Vec3;
  surface: BufferGeometry;
  ink: BufferGeometry;
  /** Ends of inked edges as sorted pairs, `low * vertices + high`. */
  inked: Set<number>;
  vertices: number;
  triangles: number;
}

const HEAD = 40;
const MAGIC = 0x31425441; // "ATB1", little-endian

/** Read the layout written by aimtrue.core.mesh.serialization.bench_bytes. */
export function parseBench(data: ArrayBuffer): BenchMesh {
  const head = new DataView(data);
  if (data.byteLength < HEAD || head.getUint32(0, true) !== MAGIC) throw new Error("the mesh for drawing is damaged");
  const [vertices, triangles, edges] = [4, 8, 12].map((at) => head.getUint32(at, true)) as Vec3;
  const origin = [16, 24, 32].map((at) => head.getFloat64(at, true)) as Vec3;
  const positions = new Float32Array(data, HEAD, vertices * 3);
  const faces = new Uint32Array(data, HEAD + vertices * 12, triangles * 3);
  const ends = new Uint32Array(data, HEAD + vertices * 12 + triangles * 12, edges * 2);

  const points = new BufferAttribute(positions, 3);
  const surface = new BufferGeometry();
  surface.setAttribute("position", points);
  surface.setIndex(new BufferAttribute(faces, 1));
  const ink = new BufferGeometry();
  ink.setAttribute("position", points);
  ink.setIndex(new BufferAttribute(ends, 1));
  // Placed by matrix and always in view: the renderer need not measure them.
  surface.boundingSphere = ink.boundingSphere = new Sphere(new Vector3(), Infinity);

  const inked = new Set<number>();
  for (let i = 0; i < ends.length; i += 2) inked.add(edgeKey(ends[i]!, ends[i + 1]!, vertices));
  return { origin, surface, ink, inked, vertices, triangles };
}

export function edgeKey(a: number, b: number, vertices: number): number {
  return a < b ? a * vertices + b : b * vertices + a;
}

/**
 * Where the meshes of a body for drawing are, the best first: one with its kept bores as they are now, and that of
 * its geometry, which is drawn until the other is there.
 */
export function meshesOf(job: string, body: Body, facts: BodySurvey | undefined): string[] {
  const own = `bench/${body.bench}`;
  return facts?.reshaped ? [`jobs/${job}/bodies/${body.id}/bench/${facts.reshaped}`, own] : [own];
}

/** Fetch meshes, each once: one never changes under its name. */
export function useBenchMeshes(names: string[]): { meshes: Map<string, BenchMesh>; failed: boolean; waiting: boolean } {
  const key = [...new Set(names)].join("\n");
  const distinct = useMemo(() => (key ? key.split("\n") : []), [key]);
  // The same function for the same names, so that the same meshes give the same answer: what is worked out of it, as
  // one mesh of many, is not made anew whenever the page is drawn.
  const combine = useCallback(
    (results: UseQueryResult<BenchMesh>[]) => ({
      meshes: new Map(results.flatMap((result, i) => (result.data ? [[distinct[i]!, result.data] as const] : []))),
      failed: results.some((result) => result.isError),
      waiting: results.some((result) => !result.data),
    }),
    [distinct],
  );
  return useQueries({
    queries: distinct.map((name) => ({
      queryKey: ["bench", name],
      queryFn: async () => parseBench(await api.mesh(name)),
      staleTime: Infinity,
      gcTime: 60_000,
    })),
    combine,
  });
}

/**
 * The matrix from a mesh's relative positions to the bench.
 *
 * For `true` the middle of all that is shown is put at the bench's origin, since a file's own origin can be metres
 * away; for `seated` the bench's origin is the front left corner of the plate.
 */
export function placed(
  mesh: Pick<BenchMesh, "origin">,
  placement: Placement,
  mode: "true" | "seated",
  middle: Vec3,
): Matrix4 {
  const rows = placement[mode] as Vec3[];
  const [ox, oy, oz] = mesh.origin;
  const shift = mode === "seated" ? placement.seated_shift : placement.true_shift.map((s, i) => s - middle[i]!);
  const moved = rows.map((row, i) => row[0] * ox + row[1] * oy + row[2] * oz + shift[i]!);
  const [x, y, z] = rows as [Vec3, Vec3, Vec3];
  return new Matrix4().set(...x, moved[0]!, ...y, moved[1]!, ...z, moved[2]!, 0, 0, 0, 1);
}

/** Apply the rows of a placement to a point of the file. */
export function apply(rows: readonly (readonly number[])[], point: readonly number[]): Vec3 {
  return rows.map((row) => row[0]! * point[0]! + row[1]! * point[1]! + row[2]! * point[2]!) as Vec3;
}
