import benchCss from "../../bench/Bench.module.css";
import { Press } from "../../blocks/Press";
import type { Seating } from "./useSeating";

/** From the plan back into the bench; P leads to the plan from anywhere. */
export function PlanViews({ seating }: { seating: Seating }) {
  return (
    <div className={benchCss.views} role="toolbar" aria-label="Plan">
      <Press onClick={() => seating.lookFromAbove(false)}>
        <kbd>O</kbd> bench
      </Press>
    </div>
  );
}
