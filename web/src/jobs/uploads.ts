import { useSyncExternalStore } from "react";

/** A file on its way to the server. */
export interface Upload {
  id: number;
  name: string;
  /** From 0 to 1; what waits for its turn has not begun. */
  share: number;
  begun: boolean;
  /** Leave it: what was sent of it is thrown away. */
  cancel: () => void;
}

const listeners = new Set<() => void>();
let now: readonly Upload[] = [];
let last = 0;

function set(next: readonly Upload[]) {
  now = next;
  listeners.forEach((listener) => listener());
}

/** Put files in line; they outlive the page that they were dropped on. */
export function lineUp(names: readonly string[], cancel: (place: number) => void): number[] {
  const added = names.map((name, place) => ({
    id: ++last,
    name,
    share: 0,
    begun: false,
    cancel: () => cancel(place),
  }));
  set([...now, ...added]);
  return added.map(({ id }) => id);
}

export function advance(id: number, share: number) {
  set(now.map((upload) => (upload.id === id ? { ...upload, share, begun: true } : upload)));
}

export function end(id: number) {
  set(now.filter((upload) => upload.id !== id));
}

function listen(listener: () => void) {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

/** All files that are on their way, from whichever page. */
export const useUploads = (): readonly Upload[] => useSyncExternalStore(listen, () => now);
