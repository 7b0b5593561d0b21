import type { Body, BodySurvey, PieceDrawn, Vec3 } from "../../api/types";

const IDENTITY: [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** How far a piece is moved when pieces are drawn apart: away from the middle of all, by a share of where it is. */
export function movedApart(facts: BodySurvey, middle: Vec3, of: Vec3, share: number): BodySurvey {
  const shift = facts.placement.true_shift.map((one, i) => one! + share * (of[i]! - middle[i]!)) as Vec3;
  return { ...facts, placement: { ...facts.placement, true_shift: shift } };
}

/** Pieces that are thought of as bodies for the bench: in mm already, moved away from the middle of all. */
export function thoughtApart(
  whole: Body,
  facts: BodySurvey,
  pieces: PieceDrawn[],
  share: number,
): { body: Body; facts: BodySurvey }[] {
  const middles = pieces.map((piece) => piece.low.map((low, i) => (low + piece.high[i]!) / 2) as Vec3);
  const middle = [0, 1, 2].map((i) => middles.reduce((sum, place) => sum + place[i]!, 0) / pieces.length) as Vec3;
  const plain = { ...facts, placement: { ...facts.placement, true: IDENTITY, true_shift: [0, 0, 0] as Vec3 } };
  return pieces.map((piece, i) => ({
    body: {
      ...whole,
      id: `piece ${i + 1}`,
      kit: whole.kit ?? whole.id,
      bench: piece.bench,
      geometry: piece.bench,
      low: piece.low,
      high: piece.high,
    },
    facts: movedApart(plain, middle, middles[i]!, share),
  }));
}

/** Where the middle of a body is, in mm of the corrected body. */
export function middleOf(facts: BodySurvey, low: readonly number[], high: readonly number[]): Vec3 {
  const rows = facts.placement.true as readonly (readonly number[])[];
  const at = low.map((one, i) => (one + high[i]!) / 2);
  return rows.map(
    (row, i) => row.reduce((sum, one, k) => sum + one * at[k]!, 0) + facts.placement.true_shift[i]!,
  ) as Vec3;
}
