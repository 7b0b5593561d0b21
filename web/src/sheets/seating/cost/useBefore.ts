import { useEffect, useRef, useState } from "react";
import type { Estimate, JobView, PlateCost } from "../../../api/types";

export interface Before {
  /** What changed it, as history calls it. */
  change: string;
  estimate: Estimate;
  time: string;
}

/** What a plate took, quickly, before the last change that made a difference. */
export function useBefore(view: JobView, cost: PlateCost | undefined): Before | null {
  const last = useRef<PlateCost | undefined>(undefined);
  const [before, keep] = useState<Before | null>(null);
  const change = view.undo ?? "";
  useEffect(() => {
    const known = last.current;
    last.current = cost;
    if (!cost || !known || known.plate !== cost.plate) {
      keep(null);
      return;
    }
    const same = known.quick.seconds === cost.quick.seconds && known.quick.grams === cost.quick.grams;
    if (!same && change) keep({ change, estimate: known.quick, time: known.time_quick });
  }, [cost, change]);
  return before;
}
