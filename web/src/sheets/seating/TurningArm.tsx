import type { PointerEvent } from "react";
import type { SeatState } from "../../api/types";
import type { Frame } from "./PlanFrame";
import css from "./Seating.module.css";

const OUT = 30;
const INK = "var(--ink)";

interface Props {
  seat: SeatState;
  frame: Frame;
  /** How far it is turned just now, in degrees. */
  turn: number;
  carried: boolean;
  down: (event: PointerEvent) => void;
}

/** A centre line through the chosen seat with a knob to turn it by; the angle as a dimension while it turns. */
export function TurningArm({ seat, frame, turn, carried, down }: Props) {
  if (carried) return null;
  const { low, high } = seat.room!;
  const [cx, cy] = frame.at((low[0]! + high[0]!) / 2, (low[1]! + high[1]!) / 2);
  const reach = Math.max(34, (Math.hypot(high[0]! - low[0]!, high[1]! - low[1]!) / 2) * frame.scale * 0.72 + OUT);
  const at = (degrees: number, far: number): [number, number] => [
    cx + far * Math.cos((degrees * Math.PI) / 180),
    cy - far * Math.sin((degrees * Math.PI) / 180),
  ];
  const [x, y] = at(turn, reach);
  const [zx, zy] = at(0, reach + 8);
  const half = at(turn / 2, reach - 4);
  const [ax, ay] = at(0, reach - 16);
  const [bx, by] = at(turn, reach - 16);
  return (
    <g data-testid="turning-arm">
      <path
        d={`M${at(turn, 12).join(" ")}L${x} ${y}`}
        stroke={INK}
        strokeWidth="1"
        strokeDasharray="9 3 2 3"
        fill="none"
        pointerEvents="none"
      />
      {turn !== 0 && (
        <g pointerEvents="none">
          <path d={`M${at(0, 12).join(" ")}L${zx} ${zy}`} stroke="var(--rule-strong)" strokeWidth="1" fill="none" />
          <path
            d={`M${ax} ${ay}A${reach - 16} ${reach - 16} 0 ${Math.abs(turn) > 180 ? 1 : 0} ${turn > 0 ? 0 : 1} ${bx} ${by}`}
            stroke="var(--stop)"
            strokeWidth="1.4"
            fill="none"
          />
          <text className={css.angle} x={half[0]} y={half[1]} stroke="var(--page)" strokeWidth="4" paintOrder="stroke">
            {`${turn}°`.replace("-", "−")}
          </text>
        </g>
      )}
      <circle
        className={css.knob}
        cx={x}
        cy={y}
        r={6.5}
        fill="var(--page)"
        stroke={INK}
        strokeWidth="1.6"
        onPointerDown={down}
      >
        <title>Drag to turn; it holds every 15°, with Shift anywhere</title>
      </circle>
      <path
        d={`M${x - 3} ${y}A3 3 0 1 1 ${x} ${y + 3}`}
        stroke={INK}
        strokeWidth="1.3"
        fill="none"
        pointerEvents="none"
      />
    </g>
  );
}
