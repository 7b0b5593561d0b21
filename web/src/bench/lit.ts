import { useSyncExternalStore } from "react";

/**
 * What is pointed at, on the sheet or in the bench, lit in both: by the ids of bodies, seats, or of a body on a seat.
 * Rows and marks that are about such say so by `data-body`, several ids apart by spaces.
 */
let lit: readonly string[] = [];
const listeners = new Set<() => void>();

export function lightUp(ids: readonly string[]): void {
  if (ids.join(" ") === lit.join(" ")) return;
  lit = ids;
  markRows();
  listeners.forEach((tell) => tell());
}

/** The ids by which a drawn body is known: `seat|body` on a plate, else its own. */
export const idsOf = (drawn: string): string[] => [drawn, ...(drawn.includes("|") ? drawn.split("|") : [])];

/** Whether a drawn body is lit. */
export const isLit = (drawn: string, ids: readonly string[]): boolean => idsOf(drawn).some((id) => ids.includes(id));

function markRows() {
  document.querySelectorAll("[data-lit]").forEach((row) => row.removeAttribute("data-lit"));
  for (const id of lit)
    document.querySelectorAll(`[data-body~="${CSS.escape(id)}"]`).forEach((row) => row.setAttribute("data-lit", ""));
}

/** Light what is pointed at, or has the focus, on the sheet. Returns what ends it. */
export function followPointing(): () => void {
  const follow = ({ target }: Event) => {
    const row = target instanceof Element ? target.closest<HTMLElement>("[data-body]") : null;
    if (row) lightUp(row.dataset.body!.split(" "));
    else if (!(target instanceof HTMLCanvasElement)) lightUp([]);
  };
  document.addEventListener("pointerover", follow);
  document.addEventListener("focusin", follow);
  return () => {
    document.removeEventListener("pointerover", follow);
    document.removeEventListener("focusin", follow);
    lightUp([]);
  };
}

function listen(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

export const useLit = (): readonly string[] => useSyncExternalStore(listen, () => lit);
