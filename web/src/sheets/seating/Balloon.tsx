import { useMemo } from "react";
import type { SeatState } from "../../api/types";
import type { Frame } from "./PlanFrame";
import css from "./Seating.module.css";

const INK = "var(--ink)";
const SIGNS = {
  overlap: "var(--stop)",
  outside: "var(--stop)",
  margin: "var(--look)",
  tilt: "var(--look)",
  sunk: "var(--stop)",
  lifted: INK,
} as const;

interface BalloonProps {
  seat: SeatState;
  frame: Frame;
  offset: [number, number] | null;
  chosen: boolean;
  rings: readonly (readonly (readonly number[])[])[] | undefined;
}

/** The number of a seat, on the seat: where it has an opening in its middle, on its material. */
export function Balloon({ seat, frame, offset, chosen, rings }: BalloonProps) {
  const [px, py] = useMemo(() => onMaterial(seat, rings, 24 / frame.scale), [seat, rings, frame.scale]);
  const [cx, cy] = frame.at(px + (offset?.[0] ?? 0), py + (offset?.[1] ?? 0));
  const mark = seat.marks.find((one) => one !== "lifted");
  return (
    <g pointerEvents="none" data-body={seat.id}>
      <circle
        cx={cx}
        cy={cy}
        r={11}
        fill="var(--field)"
        stroke={mark ? SIGNS[mark] : INK}
        strokeWidth={chosen ? 2.4 : 1.4}
      />
      <text className={css.balloon} x={cx} y={cy} style={mark ? { fill: SIGNS[mark] } : undefined}>
        {seat.number}
      </text>
    </g>
  );
}

/** A place on the material that a balloon of some width covers no outline at; in the middle where there is none. */
function onMaterial(seat: SeatState, rings: BalloonProps["rings"], wide: number): [number, number] {
  const { low, high } = seat.room!;
  const middle: [number, number] = [(low[0]! + high[0]!) / 2, (low[1]! + high[1]!) / 2];
  if (!rings?.length || within(rings, middle)) return middle;
  // Along the middle line, the middle of the widest stretch of material.
  const crossings = rings.flatMap((ring) =>
    ring.slice(1).flatMap((b, i) => {
      const a = ring[i]!;
      return a[1]! > middle[1] !== b[1]! > middle[1]
        ? [a[0]! + ((middle[1] - a[1]!) / (b[1]! - a[1]!)) * (b[0]! - a[0]!)]
        : [];
    }),
  );
  crossings.sort((a, b) => a - b);
  let best: [number, number] = middle,
    widest = 0;
  for (let i = 0; i + 1 < crossings.length; i += 2) {
    const width = crossings[i + 1]! - crossings[i]!;
    if (width > widest * 1.001) [widest, best] = [width, [(crossings[i]! + crossings[i + 1]!) / 2, middle[1]]];
  }
  return widest >= wide ? best : middle;
}

function within(rings: readonly (readonly (readonly number[])[])[], [x, y]: [number, number]): boolean {
  let inside = false;
  for (const ring of rings)
    for (let i = 1; i < ring.length; i++) {
      const [a, b] = [ring[i - 1]!, ring[i]!];
      if (a[1]! > y !== b[1]! > y && x < a[0]! + ((y - a[1]!) / (b[1]! - a[1]!)) * (b[0]! - a[0]!)) inside = !inside;
    }
  return inside;
}
