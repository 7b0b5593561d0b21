import type { Body, BodySurvey, DecisionsInForce, JobView, KitSurvey } from "../api/types";

/** What the sheets and the title block are about: one body, or a kit as a whole. */
export interface Subject {
  /** Id of the body or kit; what a change of size or seat is sent for. */
  key: string;
  name: string;
  /** The only body, or the first of the kit. */
  body: Body;
  bodies: Body[];
  facts: BodySurvey | KitSurvey;
  /** What is in force: correction, shrinkage and seat. */
  decided: DecisionsInForce;
}

/** The subject of a selection; null when it is several bodies that have no common size. */
export function subjectOf(view: JobView, selected: string[]): Subject | null {
  const { job, survey } = view;
  // What is only there to check against is shown when it is chosen, and else stands aside.
  const printed = job.bodies.filter((body) => !body.for_checking);
  const chosen = selected.length ? job.bodies.filter((body) => selected.includes(body.id)) : printed;
  const only = chosen.length === 1 ? chosen[0] : undefined;
  if (only) {
    const facts = survey.bodies.find((one) => one.id === only.id);
    const decided = survey.decided.find((force) => force.id === facts?.owner);
    return facts && decided ? { key: only.id, name: only.name, body: only, bodies: [only], facts, decided } : null;
  }
  const kit = job.kits?.find((one) => one.id === chosen[0]?.kit);
  const facts = survey.kits.find((one) => one.id === kit?.id);
  const decided = survey.decided.find((force) => force.id === kit?.id);
  if (!kit || !facts || !decided || facts.bodies.length !== chosen.length || chosen.some((body) => body.kit !== kit.id))
    return null;
  return { key: kit.id, name: kit.name, body: chosen[0]!, bodies: chosen, facts, decided };
}
