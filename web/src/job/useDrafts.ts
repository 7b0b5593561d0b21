import { useCallback, useEffect, useRef, useState } from "react";
import { api } from "../api/client";

/** Drafts of the bodies of a job, by the ids of these. */
export type Drafts<T> = Record<string, T>;

/** How long nothing is laid out anew before what is there is kept. */
const KEPT_AFTER_MS = 400;

/**
 * What is laid out for each body and not yet made. It is kept with the job, so that it survives a reload and is there
 * in another window; what is laid out before the kept ones are there goes before them.
 *
 * @param body that is looked at.
 */
export function useDrafts<T>(job: string | undefined, name: string, body: string | undefined) {
  const [drafts, set] = useState<Drafts<T>>({});
  const changed = useRef(new Set<string>());
  const sending = useRef<Promise<unknown>>(Promise.resolve());
  useEffect(() => {
    if (!job) return;
    let left = false;
    const show = (kept: Record<string, unknown>) => {
      const mine = kept[name] as Drafts<T> | undefined;
      if (!left && mine) set((laid) => ({ ...mine, ...laid }));
    };
    // Without the kept ones the sheet begins blank, as it did before they were.
    api.drafts(job).then(show, () => undefined);
    return () => {
      left = true;
    };
    // A body may have been given what was laid out for the one whose place it took.
  }, [job, name, body]);
  useEffect(() => {
    if (!job || !changed.current.size) return;
    // Only what was laid out here: another page may lay out other bodies.
    const keep = () => {
      if (!changed.current.size) return;
      const mine = Object.fromEntries([...changed.current].map((body) => [body, drafts[body] ?? null]));
      changed.current.clear();
      // What could not be kept goes with the next change.
      const again = () => Object.keys(mine).forEach((body) => changed.current.add(body));
      // One after the other: of two that are under way at once, the older could be kept last.
      sending.current = sending.current.then(() => api.keepDraft(job, name, mine).catch(again));
    };
    const timer = window.setTimeout(keep, KEPT_AFTER_MS);
    // A page that is left within that time keeps what is there.
    window.addEventListener("pagehide", keep);
    return () => {
      window.clearTimeout(timer);
      window.removeEventListener("pagehide", keep);
    };
  }, [job, name, drafts]);
  const change = useCallback((body: string, to: (now: T | undefined) => T | undefined) => {
    set((all) => {
      const next = to(all[body]);
      if (next === undefined || next === all[body]) return all;
      changed.current.add(body);
      return { ...all, [body]: next };
    });
  }, []);
  return [drafts, change] as const;
}
