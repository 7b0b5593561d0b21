import { useSyncExternalStore } from "react";
import type { FitSurvey, JobView, PairState } from "../../api/types";

/** Which pair of the open job is looked at: told to the sheet, and to the drawing beside it. */
let chosen: string | null = null;
const listeners = new Set<() => void>();

export function choosePair(id: string | null): void {
  chosen = id;
  listeners.forEach((tell) => tell());
}

function listen(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

/** The pairs of a job as they stand. */
export const pairsOf = (view: JobView): PairState[] =>
  (view.survey.rooms?.fit as unknown as FitSurvey | undefined)?.pairs ?? [];

/** The pair that is looked at, if the job still has it. */
export function useChosenPair(view: JobView): PairState | null {
  const id = useSyncExternalStore(listen, () => chosen);
  return pairsOf(view).find((one) => one.id === id) ?? null;
}
