import { useSyncExternalStore } from "react";

const ASKED_EVERY_MS = 2000;
const ANSWERED_WITHIN_MS = 5000;

const listeners = new Set<() => void>();
const returned = new Set<() => void>();
let lost = false;

function set(now: boolean) {
  lost = now;
  listeners.forEach((listener) => listener());
}

/** Ask whether the server is there, until it is. */
async function ask() {
  const there = await fetch("/api/health", { signal: AbortSignal.timeout(ANSWERED_WITHIN_MS) }).then(
    (answer) => answer.ok,
    () => false,
  );
  if (!there) return void setTimeout(() => void ask(), ASKED_EVERY_MS);
  set(false);
  returned.forEach((listener) => listener());
}

/** Told when a request did not reach the server: from now on it is asked for. */
export function connectionLost() {
  if (lost) return;
  set(true);
  setTimeout(() => void ask(), ASKED_EVERY_MS);
}

/** Be told when the server is there again. */
export function onReturn(listener: () => void) {
  returned.add(listener);
}

function listen(listener: () => void) {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

/** Whether the server does not answer now. */
export const useConnectionLost = (): boolean => useSyncExternalStore(listen, () => lost);
