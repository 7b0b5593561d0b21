import { useQueries, type UseQueryResult } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { Matrix4 } from "three";
import { api } from "../api/client";
import type { Body, BodySurvey, Placement, Vec3 } from "../api/types";
import type { BenchMesh } from "./meshData";
import { parsedAside } from "./parsing";
import type { Earlier } from "./strokes";

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
      queryFn: async () => parsedAside(await api.mesh(name)),
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

/** The placement of what a body was: from numbers of its own to where the body is. */
export function placementOfEarlier(placement: Placement, { rows, shift }: Pick<Earlier, "rows" | "shift">): Placement {
  const columns = [0, 1, 2].map((i) => rows.map((row) => row[i]!));
  const turned = (outer: Vec3[]) => outer.map((row) => columns.map((column) => dot(row, column)) as Vec3);
  const moved = (by: readonly number[], outer: Vec3[]) => by.map((s, i) => s + dot(outer[i]!, shift)) as Vec3;
  const real = placement.true as Vec3[];
  const seated = placement.seated as Vec3[];
  return {
    ...placement,
    true: turned(real) as Placement["true"],
    true_shift: moved(placement.true_shift, real),
    seated: turned(seated) as Placement["seated"],
    seated_shift: moved(placement.seated_shift, seated),
  };
}

const dot = (a: readonly number[], b: readonly number[]) => a.reduce((sum, one, i) => sum + one * b[i]!, 0);

/** Apply the rows of a placement to a point of the file. */
export function apply(rows: readonly (readonly number[])[], point: readonly number[]): Vec3 {
  return rows.map((row) => row[0]! * point[0]! + row[1]! * point[1]! + row[2]! * point[2]!) as Vec3;
}
