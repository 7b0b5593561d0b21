import { applied, type Change } from "./changes";
import type { JobAnswer, JobView } from "./types";

/** The last answers about one job, by name: what the server may send changes to. */
const HISTORY = 6;
const held = new Map<string, Map<string, JobView>>();

/** The newest answer that this page holds of a job; empty when it holds none. */
export function newestHeld(id: string): string {
  return [...(held.get(id)?.keys() ?? [])].at(-1) ?? "";
}

/** Take an answer; null when it changes one that is no longer held. */
export function received(id: string, answer: JobAnswer): JobView | null {
  const known = held.get(id) ?? new Map<string, JobView>();
  const base = known.get(answer.since);
  if (!answer.job && !base) return null;
  const view = answer.job ?? (applied(base, answer.changes as Change) as JobView);
  known.delete(answer.name);
  known.set(answer.name, view);
  for (const name of [...known.keys()].slice(0, -HISTORY)) known.delete(name);
  held.set(id, known);
  return view;
}
