import { useCallback, useMemo, useState } from "react";
import type { JobView } from "../api/types";
import type { Mark, Marks } from "../bench/Bench";
import { lastPlace } from "./lastPlace";

/** Which bodies are selected, which are hidden, and what is marked in the bench. */
export interface Selection {
  selected: string[];
  hidden: string[];
  marks: Marks | null;
  /** Select a body (null: nothing); with `more` it joins or leaves what is selected. */
  select: (body: string | null, more?: boolean) => void;
  selectAll: (bodies: string[]) => void;
  hide: (bodies: string[]) => void;
  showAll: () => void;
  /** Fly to places and mark them. */
  mark: (places: Mark[]) => void;
}

export function useSelection(id: string, view: JobView | undefined): Selection {
  const [chosen, setChosen] = useState<string[]>(() => lastPlace(id)?.selected ?? []);
  const [away, setAway] = useState<string[]>([]);
  const [marks, setMarks] = useState<Marks | null>(null);
  // Bodies go and come by undo and remedies; what is no longer there is neither selected nor hidden.
  const here = useMemo(() => new Set(view?.job.bodies.map((body) => body.id)), [view]);
  const selected = useMemo(() => chosen.filter((id) => here.has(id)), [chosen, here]);
  const hidden = useMemo(() => away.filter((id) => here.has(id)), [away, here]);
  return {
    selected,
    hidden,
    marks,
    select: useCallback((body, more) => {
      setMarks(null);
      setChosen((now) => {
        if (body === null) return more ? now : [];
        if (!more) return now.length === 1 && now[0] === body ? [] : [body];
        return now.includes(body) ? now.filter((id) => id !== body) : [...now, body];
      });
    }, []),
    selectAll: useCallback((bodies) => setChosen(bodies), []),
    hide: useCallback((bodies) => setAway((now) => [...new Set([...now, ...bodies])]), []),
    showAll: useCallback(() => setAway([]), []),
    mark: useCallback((places) => setMarks((now) => ({ places, at: (now?.at ?? 0) + 1 })), []),
  };
}
