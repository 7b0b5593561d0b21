import { useSyncExternalStore } from "react";
import type { Pick } from "./picking";

/** The place under the pointer while places are picked: what follows it is drawn anew, and nothing else of the page. */
let hovered: Pick | null = null;
const listeners = new Set<() => void>();

export function hoverAt(pick: Pick | null): void {
  hovered = pick;
  listeners.forEach((tell) => tell());
}

function listen(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

export const useHovered = (): Pick | null => useSyncExternalStore(listen, () => hovered);
