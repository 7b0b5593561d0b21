import type { GaugeKind } from "../../api/types";

/** A way to measure that can be chosen: its gauge, what to call it, and what to pick. */
export interface Way {
  key: string;
  kind: GaugeKind;
  says: string;
  picks: number;
  /** What to click, said while picking. */
  hint: string;
  /** The centre of what is picked is meant. */
  centre?: boolean;
  /** An axis is chosen beside it. */
  axis?: boolean;
  sign?: string;
}

export const WAYS: Way[] = [
  {
    key: "points",
    kind: "points",
    says: "two points",
    picks: 2,
    hint: "a place; it snaps to corners, edges and their middles",
  },
  { key: "faces", kind: "faces", says: "two parallel faces", picks: 2, hint: "a flat face" },
  {
    key: "diameter",
    kind: "diameter",
    says: "diameter",
    picks: 1,
    hint: "inside a bore, or on a boss or arc",
    sign: "ø",
  },
  { key: "radius", kind: "radius", says: "radius", picks: 1, hint: "inside a bore, or on a boss or arc", sign: "R" },
  { key: "centres", kind: "points", says: "between two centres", picks: 2, hint: "a bore or boss", centre: true },
  { key: "depth", kind: "depth", says: "depth", picks: 1, hint: "inside a bore, or on a boss" },
  { key: "wall", kind: "wall", says: "wall thickness", picks: 1, hint: "a wall; it is measured straight through" },
  { key: "extent", kind: "extent", says: "overall extent", picks: 0, hint: "", axis: true },
  {
    key: "perimeter",
    kind: "perimeter",
    says: "girth of a section",
    picks: 1,
    hint: "the height to wrap the tape around",
    axis: true,
  },
  { key: "angle", kind: "angle", says: "angle of two faces", picks: 2, hint: "a flat face" },
];

export function wayOf(key: string): Way {
  return WAYS.find((way) => way.key === key) ?? WAYS[0]!;
}

/** The way that makes gauges of a kind. */
export function keyOfKind(kind: GaugeKind): string {
  return WAYS.find((way) => way.kind === kind)?.key ?? "points";
}

export const SIGNS: Partial<Record<GaugeKind, string>> = { diameter: "ø ", radius: "R " };
