import type { BodySurvey, DecisionsInForce, JobView, Vec3 } from "../api/types";
import type { Subject } from "./subject";

/** The bodies that a change of a subject's factor moves. */
export function movedWith(view: JobView, { decided }: Subject): string[] {
  return view.survey.bodies.filter((body) => body.owner === decided.id).map((body) => body.id);
}

/** By how much each axis goes with a dragged factor: a held one stays. */
export function dragged({ correction }: DecisionsInForce, ratio: number): number[] {
  return (correction.held ?? [false, false, false]).map((held) => (held ? 1 : ratio));
}

/** A body drawn as it would be with its factor dragged; nothing is asked of the server meanwhile. */
export function scaled(decided: DecisionsInForce, facts: BodySurvey, ratio: number): BodySurvey {
  const along = dragged(decided, ratio);
  const rows = facts.placement.true.map((row, i) =>
    row.map((value) => value * along[i]!),
  ) as typeof facts.placement.true;
  const shift = facts.placement.true_shift.map((value, i) => value * along[i]!) as Vec3;
  return { ...facts, placement: { ...facts.placement, true: rows, true_shift: shift } };
}
