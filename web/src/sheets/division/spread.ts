import type { BodySurvey, Vec3 } from "../../api/types";
import { middleOf, movedApart } from "./apart";
import type { Dividing } from "./useDivision";

/** The pieces of a division drawn apart, by body. */
export function spread({ pieces, apart }: Dividing): Map<string, BodySurvey> {
  const middles = pieces.map(({ body, facts }) => middleOf(facts, body.low, body.high));
  const middle = [0, 1, 2].map(
    (i) => middles.reduce((sum, place) => sum + place[i]!, 0) / Math.max(1, middles.length),
  ) as Vec3;
  return new Map(pieces.map(({ body, facts }, i) => [body.id, movedApart(facts, middle, middles[i]!, apart)]));
}
