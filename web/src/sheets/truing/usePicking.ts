import { useCallback, useEffect, useState } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import { Problem } from "../../api/client";
import type { Vec3 } from "../../api/types";
import type { Pick } from "../../bench/picking";

/** Picking two places for a reading. */
export interface Picking {
  on: boolean;
  first: Pick | null;
  second: Pick | null;
  /** Between the first place and the one under the pointer, in mm. */
  distance: number | null;
  /** A reading was just made, and its real length should be typed next. */
  wanted: boolean;
  served: () => void;
  start: () => void;
  stop: () => void;
  pick: (pick: Pick) => void;
  hover: (pick: Pick | null) => void;
}

export function usePicking(handle: JobHandle | null): Picking {
  const [on, setOn] = useState(false);
  const [first, setFirst] = useState<Pick | null>(null);
  const [second, hover] = useState<Pick | null>(null);
  const [wanted, setWanted] = useState(false);

  const stop = useCallback(() => {
    setOn(false);
    setFirst(null);
    hover(null);
  }, []);

  useEffect(() => {
    if (!on) return;
    const pressed = (event: KeyboardEvent) => event.key === "Escape" && stop();
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [on, stop]);

  const pick = (place: Pick) => {
    if (!handle) return;
    if (!first) {
      setFirst(place);
      return;
    }
    if (place.body !== first.body) {
      tell(new Problem(0, "two-bodies", "the two places are on different bodies", "", "pick the second place on the body of the first"));
      return;
    }
    handle
      .act({ do: "add-reading", body: first.body, a: first.anchor, b: place.anchor, typed: "" })
      .then(() => {
        stop();
        setWanted(true);
      })
      .catch((error: unknown) => {
        // The first place stands; only the second is picked again.
        tell(error);
      });
  };

  return {
    on,
    first,
    second,
    distance: first && second ? apart(first.point, second.point) : null,
    wanted,
    served: useCallback(() => setWanted(false), []),
    start: () => setOn(true),
    stop,
    pick,
    hover,
  };
}

function apart(a: Vec3, b: Vec3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
