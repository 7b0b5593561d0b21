import { useCallback, useEffect, useMemo, useState } from "react";
import type { Pick } from "../../bench/picking";

/** What a click on the body is for: a plane through a face or through three places, a drain, a face of a second colour. */
export type Want = "face" | "three" | "drain" | "marks";

export interface Taking {
  want: Want | null;
  /** Places taken so far, where several are wanted. */
  got: Pick[];
  ask: (want: Want | null) => void;
  keep: (picks: Pick[]) => void;
}

/** Clicks on the body that are taken for something; Esc leaves it. */
export function useTaking(): Taking {
  const [want, setWant] = useState<Want | null>(null);
  const [got, keep] = useState<Pick[]>([]);
  const ask = useCallback((next: Want | null) => {
    setWant(next);
    keep([]);
  }, []);
  useEffect(() => {
    if (!want) return;
    const pressed = (event: KeyboardEvent) => event.key === "Escape" && ask(null);
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [want, ask]);
  return useMemo(() => ({ want, got, ask, keep }), [want, got, ask]);
}
