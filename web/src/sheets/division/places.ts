import { Problem } from "../../api/client";
import type { Vec3 } from "../../api/types";

const NAMES = ["X", "Y", "Z"];

/** A place as it was typed, all of it or along some axes, the others as they were. */
export function placeIn(text: string, axes: readonly number[] = [0, 1, 2], before: readonly number[] = [0, 0, 0]): Vec3 {
  const numbers = text.split(/[,;\s]+/).filter(Boolean).map(Number);
  if (numbers.length !== axes.length || !numbers.every(Number.isFinite)) throw new Problem(422, "place", `“${text}” is no place`, "", `type ${axes.map((k) => NAMES[k]).join(" and ")} in mm`);
  return before.map((one, k) => (axes.includes(k) ? numbers[axes.indexOf(k)]! : one)) as Vec3;
}
