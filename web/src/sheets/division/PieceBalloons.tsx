import { useMemo } from "react";
import type { Vec3 } from "../../api/types";
import type { Ground, Shown } from "../../bench/Bench";
import type { BenchMesh } from "../../bench/meshData";
import css from "./Division.module.css";

const OUT = 30;
const RADIUS = 10;
/** Corners of a large mesh that are looked at. */
const LOOKED_AT = 4000;

/** The numbers of pieces that are drawn apart, as balloons with a leader each. */
export function PieceBalloons({ ground, shown }: { ground: Ground; shown: Shown[] }) {
  const spots = useMemo(() => shown.map((one) => (one.mesh ? spotOn(one.mesh) : null)), [shown]);
  const [cx, cy] = ground.view.project([0, 0, 0]);
  return (
    <svg className={css.lines} width={ground.view.width} height={ground.view.height} aria-hidden data-testid="balloons">
      {shown.map((one, i) => {
        const spot = spots[i];
        if (!spot) return null;
        const [x, y] = ground.view.project(ground.place(one.id, spot));
        const long = Math.hypot(x - cx, y - cy) || 1;
        const at = [x + ((x - cx) / long) * OUT, y + ((y - cy) / long) * OUT] as const;
        return (
          <g key={one.id}>
            <circle cx={x} cy={y} r={2.2} fill="var(--ink)" />
            <path d={`M${x} ${y}L${at[0]} ${at[1]}`} stroke="var(--ink)" strokeWidth="1" />
            <circle cx={at[0]} cy={at[1]} r={RADIUS} fill="var(--page)" stroke="var(--ink)" strokeWidth="1.4" />
            <text className={css.balloon} x={at[0]} y={at[1]}>
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** A corner of a mesh that is near the middle of its box, in numbers of its file. */
function spotOn(mesh: BenchMesh): Vec3 {
  const places = mesh.surface.attributes.position!.array;
  const every = 3 * Math.max(1, Math.floor(places.length / 3 / LOOKED_AT));
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let i = 0; i < places.length; i += 3)
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k]!, places[i + k]!);
      high[k] = Math.max(high[k]!, places[i + k]!);
    }
  const middle = low.map((one, k) => (one + high[k]!) / 2);
  let [best, near] = [0, Infinity];
  for (let i = 0; i < places.length; i += every) {
    const away = middle.reduce((sum, one, k) => sum + (one - places[i + k]!) ** 2, 0);
    if (away < near) [best, near] = [i, away];
  }
  return mesh.origin.map((one, k) => one + places[best + k]!) as Vec3;
}
