import type { LayerPaths } from "../../../api/types";

/** The way through a layer up to a share of its time, and where that ends; whole, it ends nowhere. */
export function upTo(paths: LayerPaths, share: number): { paths: LayerPaths; end: readonly number[] | null } {
  if (share >= 1) return { paths, end: null };
  const total = paths.runs.reduce((sum, run) => sum + run.seconds, 0);
  let left = share * total;
  const runs: LayerPaths["runs"] = [];
  for (const run of paths.runs) {
    if (run.seconds > left) {
      const points = started(run.points, run.seconds ? left / run.seconds : 0);
      return { paths: { ...paths, runs: [...runs, { ...run, points }] }, end: points.at(-1)! };
    }
    left -= run.seconds;
    runs.push(run);
  }
  return { paths, end: null };
}

type Points = LayerPaths["runs"][number]["points"];

/** The beginning of a line, by a share of its length. */
function started(points: Points, share: number): Points {
  const lengths = points.slice(1).map((end, i) => Math.hypot(end[0]! - points[i]![0]!, end[1]! - points[i]![1]!));
  let left = share * lengths.reduce((sum, one) => sum + one, 0);
  const begun = [points[0]!];
  for (const [i, length] of lengths.entries()) {
    const [from, to] = [points[i]!, points[i + 1]!];
    if (length > left) {
      const part = length ? left / length : 0;
      begun.push([from[0]! + part * (to[0]! - from[0]!), from[1]! + part * (to[1]! - from[1]!)]);
      return begun;
    }
    left -= length;
    begun.push(to);
  }
  return begun;
}
