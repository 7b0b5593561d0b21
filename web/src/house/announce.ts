import { useSyncExternalStore } from "react";

/** What is said to who cannot see it, once; the newest replaces what was not said yet. */
let said = "";
let turn = 0;
const listeners = new Set<() => void>();

/** Say something that is seen on the page anyhow. The same words said twice are two announcements. */
export function announce(text: string): void {
  turn += 1;
  said = turn % 2 ? text : `${text}\u00a0`;
  listeners.forEach((tell) => tell());
}

function listen(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

export const useAnnouncement = (): string => useSyncExternalStore(listen, () => said);
