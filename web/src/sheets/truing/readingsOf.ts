import type { JobView, Reading } from "../../api/types";
import type { Subject } from "../../job/subject";

/** The readings on the bodies of a subject, whose places are still there. */
export function readingsOf(view: JobView, subject: Subject): Reading[] {
  const here = new Set(subject.bodies.map((body) => body.id));
  return (view.job.readings ?? []).filter((reading) => here.has(reading.body) && !reading.lost);
}

/** The readings of a subject whose places are gone. */
export function lostOf(view: JobView, subject: Subject): Reading[] {
  const here = new Set(subject.bodies.map((body) => body.id));
  return (view.job.readings ?? []).filter((reading) => here.has(reading.body) && reading.lost);
}

/** What corrects a subject: the key of the truth about it is that of its kit, unless it is corrected alone. */
export function truthKey(subject: Subject): string {
  return subject.decided.id;
}
