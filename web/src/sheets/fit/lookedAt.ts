import { useSyncExternalStore } from "react";
import type { FitSurvey, JobView, PairState } from "../../api/types";

/** What is drawn in place of the bench: a pair that is kept, two bodies where one is tried, or the inspection sheet. */
export type LookedAt = { pair: string } | { one: string; other: string; place: string } | { sheet: "inspection" };

let looked: LookedAt | null = null;
const listeners = new Set<() => void>();

export function lookAt(what: LookedAt | null): void {
  looked = what;
  listeners.forEach((tell) => tell());
}

function listen(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

export const useLookedAt = (): LookedAt | null => useSyncExternalStore(listen, () => looked);

/** What is told of the fit of a job. */
export const fitOf = (view: JobView): FitSurvey | undefined =>
  view.survey.rooms?.fit as unknown as FitSurvey | undefined;

/** The pairs of a job as they stand. */
export const pairsOf = (view: JobView): PairState[] => fitOf(view)?.pairs ?? [];

/** The pair that is looked at, if the job still has it. */
export function useChosenPair(view: JobView): PairState | null {
  const at = useLookedAt();
  return at && "pair" in at ? (pairsOf(view).find((pair) => pair.id === at.pair) ?? null) : null;
}
