import type { SheetName } from "../api/types";

const KEPT_AS = "aimtrue-places";
const MOST = 200;

/** Where one was in a job: its sheet and what was selected. */
interface Place {
  sheet: SheetName;
  selected: string[];
}

function places(): [job: string, place: Place][] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT_AS) ?? "[]");
    return Array.isArray(kept) ? (kept as [string, Place][]) : [];
  } catch {
    return [];
  }
}

export function lastPlace(job: string): Place | undefined {
  return places().find(([known]) => known === job)?.[1];
}

/** The sheet on which one left a job; the first of a job that was not opened here yet. */
export const lastSheet = (job: string): SheetName => lastPlace(job)?.sheet ?? "intake";

/** Remember where one is, so that opening the job again leads there. */
export function keepPlace(job: string, place: Place) {
  const others = places().filter(([known]) => known !== job);
  try {
    localStorage.setItem(KEPT_AS, JSON.stringify([[job, place], ...others].slice(0, MOST)));
  } catch {
    // A browser that keeps nothing opens each job on its first sheet.
  }
}
