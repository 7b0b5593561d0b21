import { useEffect, useRef } from "react";
import type { JobView } from "../api/types";
import { announce } from "../house/announce";

/** Say what has changed of a job: what was done, what stops a release now, what is released. */
export function useAnnounced(view: JobView | undefined): void {
  const before = useRef(view);
  useEffect(() => {
    const known = before.current;
    before.current = view;
    if (!known || !view || known.id !== view.id || known === view) return;
    const says = [...whatWasDone(known, view), ...whatStops(known, view), ...whatIsReleased(known, view)];
    if (says.length) announce(`${says.join(". ")}.`);
  }, [view]);
}

function whatWasDone(before: JobView, now: JobView): string[] {
  if (now.number === before.number) return [];
  if (now.redo && now.redo !== before.redo && now.redo === before.undo) return [`Undone: ${now.redo}`];
  if (now.undo && now.undo === before.redo) return [`Done again: ${now.undo}`];
  return now.undo && now.undo !== before.undo ? [`Done: ${now.undo}`] : [];
}

const stopsOf = (view: JobView) =>
  view.survey.findings.filter((finding) => finding.severity === "stop" && !finding.accepted).length;

function whatStops(before: JobView, now: JobView): string[] {
  const [were, are] = [stopsOf(before), stopsOf(now)];
  if (were === are) return [];
  if (!are) return ["Nothing stops a release any more"];
  return [are === 1 ? "1 finding stops a release" : `${are} findings stop a release`];
}

function whatIsReleased(before: JobView, now: JobView): string[] {
  const newest = now.releases[0];
  if (!newest || newest.number === before.releases[0]?.number) return [];
  return [`Release ${newest.number} is written, read back and proven`];
}
