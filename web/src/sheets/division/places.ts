import { Problem } from "../../api/client";
import { typedNumber } from "../../blocks/typed";
import type { Axis, Vec3 } from "../../api/types";

const NAMES = ["X", "Y", "Z"];

export const AXES: readonly Axis[] = ["x", "y", "z"];

/** A place as it was typed, all of it or along some axes, the others as they were. */
export function placeIn(
  text: string,
  axes: readonly number[] = [0, 1, 2],
  before: readonly number[] = [0, 0, 0],
): Vec3 {
  // Commas stand between numbers where nothing else does; beside semicolons they are decimal commas.
  const apart = text.includes(";") ? /;/ : /,\s+|,(?=[^\s])|\s+/;
  const numbers = text
    .trim()
    .split(apart)
    .map((one) => typedNumber(one));
  if (numbers.length !== axes.length)
    throw new Problem(
      422,
      "place",
      `“${text}” is no place`,
      "",
      `type ${axes.map((k) => NAMES[k]).join(" and ")} in mm, such as ${axes.map(() => "12.5").join(", ")}`,
    );
  return before.map((one, k) => (axes.includes(k) ? numbers[axes.indexOf(k)]! : one)) as Vec3;
}
