import type { Axis, Vec3 } from "../api/types";
import { add, cornersOf, cross, dot, length, sub, times, type Box, type Point2, type View } from "./view";

/** A dimension line laid out on the screen: extension lines, the line with its ticks, and where its numeral goes. */
export interface Laid {
  extensions: [Point2, Point2][];
  line: [Point2, Point2];
  middle: Point2;
}

const AXES: Axis[] = ["x", "y", "z"];
const GAP = 5;
const BEYOND = 7;

/**
 * Lay out the overall dimension of a box along an axis, outside the body.
 *
 * Of the four box edges along the axis only those on the outline of the projected box will do; the extension
 * lines leave the box along another axis, away from it. Returns null when the axis is seen end-on.
 */
export function overallDimension(axis: Axis, box: Box, view: View, offset: number): Laid | null {
  const corners = cornersOf(box).map(view.project);
  const centre = times(corners.reduce(add), 1 / corners.length);
  const a = AXES.indexOf(axis);
  let best: { score: number; laid: Laid } | null = null;
  for (const [j, k] of [
    [(a + 1) % 3, (a + 2) % 3],
    [(a + 2) % 3, (a + 1) % 3],
  ] as [number, number][]) {
    for (const jSide of [0, 1]) {
      for (const kSide of [0, 1]) {
        const end = (side: number): Vec3 => {
          const point: Vec3 = [0, 0, 0];
          point[a] = side ? box.high[a]! : box.low[a]!;
          point[j] = jSide ? box.high[j]! : box.low[j]!;
          point[k] = kSide ? box.high[k]! : box.low[k]!;
          return point;
        };
        const [from, to] = [view.project(end(0)), view.project(end(1))];
        const run = sub(to, from);
        if (length(run) < 14) continue;
        const sides = corners.map((corner) => cross(run, sub(corner, from)) / length(run));
        const onOutline = Math.max(...sides) < 0.5 || Math.min(...sides) > -0.5;
        if (!onOutline) continue;
        // Leave along axis j, outward.
        const out: Vec3 = [0, 0, 0];
        out[j] = jSide ? 1 : -1;
        const step = view.along(out);
        const away = Math.abs(cross(run, step)) / length(run);
        const outward = cross(run, step) * cross(run, sub(centre, from)) < 0;
        if (!outward || away < 0.25 * length(step) || away === 0) continue;
        // Beside the body a numeral needs its own width, below it only its height.
        const reach = offset * (1 + 0.45 * (Math.abs(run[1]) / length(run)));
        const move = times(step, reach / away);
        const middle = times(add(add(from, to), times(move, 2)), 0.5);
        const laid = lay(from, to, move);
        // A numeral that is longer than its line stands beyond it.
        if (length(run) < 92) laid.middle = add(laid.middle, times(move, 26 / reach));
        // X and Y read best below the body, Z beside it; flat views leave little choice.
        const leftward = centre[0] - middle[0];
        const side = axis === "z" ? leftward : middle[1] - centre[1] + 0.2 * leftward;
        const straight = away / length(step);
        const score = side + 60 * straight - (axis !== "z" && j === 2 ? 120 : 0) - length(move) * 0.3;
        if (!best || score > best.score) best = { score, laid };
      }
    }
  }
  return best?.laid ?? null;
}

/**
 * Lay out a gauge between two places with its line clear of the body's outline.
 *
 * Returns both sides, the one with the shorter way first; the side that the overall sizes use comes
 * with room for them. Empty when the gauge is seen end-on.
 */
export function gaugeDimensions(from: Point2, to: Point2, outline: Point2[], index: number): Laid[] {
  const run = sub(to, from);
  if (length(run) < 8) return [];
  const normal: Point2 = [-run[1] / length(run), run[0] / length(run)];
  const reach = outline.map((corner) => dot(sub(corner, from), normal));
  const [low, high] = [Math.min(...reach), Math.max(...reach)];
  const upward = normal[1] < 0 ? 1 : -1;
  const up = (upward > 0 ? high : -low) + 24 + 30 * index;
  const down = (upward > 0 ? -low : high) + 76 + 30 * index;
  const sides = [lay(from, to, times(normal, upward * up)), lay(from, to, times(normal, -upward * down))];
  return up <= down ? sides : sides.reverse();
}

/** A gauge drawn straight between its places. */
export function straight(from: Point2, to: Point2): Laid {
  return { extensions: [], line: [from, to], middle: times(add(from, to), 0.5) };
}

function lay(from: Point2, to: Point2, move: Point2): Laid {
  const far = length(move);
  const unit = far > 0 ? times(move, 1 / far) : ([0, 0] as Point2);
  const start = (point: Point2) => add(point, times(unit, Math.min(GAP, far)));
  const stop = (point: Point2) => add(point, times(unit, far + BEYOND));
  const line: [Point2, Point2] = [add(from, move), add(to, move)];
  return {
    extensions: [
      [start(from), stop(from)],
      [start(to), stop(to)],
    ],
    line,
    middle: times(add(line[0], line[1]), 0.5),
  };
}

/** The oblique stroke that ends a dimension line, at 45 degrees to it. */
export function tick(at: Point2, line: [Point2, Point2], half = 5): [Point2, Point2] {
  const run = sub(line[1], line[0]);
  const size = length(run) || 1;
  const along: Point2 = [run[0] / size, run[1] / size];
  const oblique: Point2 = [(along[0] + along[1]) * half, (along[1] - along[0]) * half];
  return [sub(at, oblique), add(at, oblique)];
}
