import type { BodySurvey, Vec3 } from "../../api/types";

/** How far a piece is moved when pieces are drawn apart: away from the middle of all, by a share of where it is. */
export function movedApart(facts: BodySurvey, middle: Vec3, of: Vec3, share: number): BodySurvey {
  const shift = facts.placement.true_shift.map((one, i) => one! + share * (of[i]! - middle[i]!)) as Vec3;
  return { ...facts, placement: { ...facts.placement, true_shift: shift } };
}

/** Where the middle of a body is, in mm of the corrected body. */
export function middleOf(facts: BodySurvey, low: readonly number[], high: readonly number[]): Vec3 {
  const rows = facts.placement.true as readonly (readonly number[])[];
  const at = low.map((one, i) => (one + high[i]!) / 2);
  return rows.map((row, i) => row.reduce((sum, one, k) => sum + one * at[k]!, 0) + facts.placement.true_shift[i]!) as Vec3;
}
