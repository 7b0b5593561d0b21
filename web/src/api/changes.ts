/** How to make one answer of an earlier one; written by the server, see `aimtrue/api/changes.py`. */
export type Change =
  { is: unknown } | { at: Record<string, Change> } | { set: Record<string, Change>; gone?: string[]; ids?: string[] };

type Entry = { id: string };

/** Apply a change; what it leaves alone stays the very same object. */
export function applied(old: unknown, change: Change): unknown {
  if ("is" in change) return change.is;
  if ("at" in change) return (old as unknown[]).map((one, i) => changed(one, change.at[i]));
  if (Array.isArray(old)) return byId(old as Entry[], change.set, change.ids);
  const result = { ...(old as Record<string, unknown>) };
  for (const key of change.gone ?? []) delete result[key];
  for (const [key, one] of Object.entries(change.set)) result[key] = applied(result[key], one);
  return result;
}

function byId(old: Entry[], set: Record<string, Change>, ids?: string[]): unknown[] {
  const before = new Map(old.map((one) => [one.id, one]));
  return (ids ?? [...before.keys()]).map((id) => changed(before.get(id), set[id]));
}

function changed(old: unknown, change: Change | undefined): unknown {
  return change ? applied(old, change) : old;
}
