import type { JobView } from "../../api/types";
import type { Ground } from "../../bench/Bench";
import benchCss from "../../bench/Bench.module.css";
import type { Seating } from "./useSeating";

/** Faces that are to show carry the drawing office's mark of a finished surface: a tick with its long arm up. */
export function ShowingMarks({ ground, view, seating }: { ground: Ground; view: JobView; seating: Seating }) {
  const { seat } = seating;
  if (!seat?.plate) return null;
  const marks = seat.bodies.flatMap((one) =>
    (view.job.bodies.find((body) => body.id === one.body)?.showing ?? []).map((mark) =>
      ground.view.project(ground.place(`${seat.id}|${one.body}`, mark.point)),
    ),
  );
  return (
    <svg className={benchCss.over} aria-hidden data-testid="showing" data-count={marks.length}>
      {marks.map(([x, y], i) => (
        <g key={i} fill="none" strokeLinejoin="round">
          <path
            d={`M${x - 7} ${y - 11}L${x} ${y}L${x + 13} ${y - 22}H${x + 22}`}
            stroke="var(--page)"
            strokeWidth="5"
          />
          <path
            d={`M${x - 7} ${y - 11}L${x} ${y}L${x + 13} ${y - 22}H${x + 22}M${x - 7} ${y - 11}H${x + 6.5}`}
            stroke="var(--settled)"
            strokeWidth="2"
          />
        </g>
      ))}
    </svg>
  );
}
