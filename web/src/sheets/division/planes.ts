import type { Axis, Division, DivisionPreview, Vec3 } from "../../api/types";

export type PlaneShown = DivisionPreview["planes"][number];

/** A plane that is thought of, in the parts that are typed: where, how it is tilted, and what it is limited to. */
export interface DraftPlane {
  /** `z=120`, or `0,0.5,1 @ 40`. */
  place: string;
  /** Degrees about the axes. */
  tilts: Partial<Record<Axis, string>>;
  /** `above A, below B`; empty where it cuts everything. */
  where: string;
}

export const AXES: readonly Axis[] = ["x", "y", "z"];

/** A plane as the core reads it. */
export function typedText({ place, tilts, where }: DraftPlane): string {
  const turns = AXES.filter((axis) => tilts[axis]?.trim() && Number(tilts[axis]) !== 0).map(
    (axis) => `${tilts[axis]!.trim()} about ${axis}`,
  );
  return `${place}${turns.length ? ` tilted ${turns.join(" and ")}` : ""}${where ? ` where ${where}` : ""}`;
}

/** The parts of a plane that was typed. */
export function parted(text: string): DraftPlane {
  const [rest, where = ""] = text.split(/\s+where\s+/i) as [string, string?];
  const [place, turns = ""] = rest.split(/\s+tilted\s+/i) as [string, string?];
  const tilts: DraftPlane["tilts"] = {};
  for (const [, degrees, axis] of turns.matchAll(/([-+\d.]+)\s*(?:°|deg)?\s+about\s+([xyz])/gi))
    tilts[axis!.toLowerCase() as Axis] = degrees;
  return { place: place.trim(), tilts, where: where.trim() };
}

/** The axis that a plane is across, before it is tilted; none of one along any direction. */
export function axisOf({ place }: DraftPlane): Axis | null {
  const found = /^\s*([xyz])\s*=/i.exec(place);
  return found ? (found[1]!.toLowerCase() as Axis) : null;
}

/** The planes of a division as they were typed; where a machine was asked for, as they were placed. */
export function plainly(division: Division): DraftPlane[] {
  const { asked, shaping } = division;
  if (asked.by === "planes" && !asked.fit) return (asked.planes ?? []).map(parted);
  return shaping.by === "planes" ? shaping.planes.map((plane) => across(plane.normal as number[], plane.at)) : [];
}

/** A plane as it would be typed. */
export function across(normal: readonly number[], at: number): DraftPlane {
  const axis = AXES.find((_, i) => normal.every((one, k) => one === (k === i ? 1 : 0)));
  return { place: axis ? `${axis}=${Number(at.toFixed(6))}` : `${normal.join(",")} @ ${at}`, tilts: {}, where: "" };
}

/** A plane moved along its normal, to a hundredth of a millimetre; `shown` is how it lies now. */
export function movedBy(plane: DraftPlane, shown: PlaneShown, by: number, low: Vec3, high: Vec3): DraftPlane {
  const axis = axisOf(plane);
  if (!axis) return { ...plane, place: `${plane.place.split("@")[0]!.trim()} @ ${hundredth(shown.at_mm + by)}` };
  const i = AXES.indexOf(axis);
  const normal = shown.normal as Vec3;
  // Where it meets the line through the middle of the body along its axis: that is what was typed.
  const aside = normal.reduce((sum, one, k) => sum + (k === i ? 0 : (one * (low[k]! + high[k]!)) / 2), 0);
  return { ...plane, place: `${axis}=${hundredth((shown.at_mm + by - aside) / normal[i]!)}` };
}

/** Planes without one of them; those that were limited by it cut everything, and letters move up. */
export function without(planes: DraftPlane[], gone: number): DraftPlane[] {
  const letter = letterOf(gone);
  return planes
    .filter((_, i) => i !== gone)
    .map((plane) => {
      const sides = plane.where
        .split(",")
        .map((side) => side.trim())
        .filter((side) => side && !side.endsWith(` ${letter}`));
      const renamed = sides.map((side) =>
        side.replace(/[A-Z]+$/, (old) => (numberOf(old) > gone ? letterOf(numberOf(old) - 1) : old)),
      );
      return { ...plane, where: renamed.join(", ") };
    });
}

/** The letter of a plane, as the core names it: A to Z, then AA and on. */
export function letterOf(number: number): string {
  return (number >= 26 ? letterOf(Math.floor(number / 26) - 1) : "") + String.fromCharCode(65 + (number % 26));
}

const numberOf = (letters: string) => [...letters].reduce((sum, one) => sum * 26 + one.charCodeAt(0) - 64, 0) - 1;
const hundredth = (value: number) => Number(value.toFixed(2));
