import type { UnitCandidate, MachineInForce } from "../../api/types";
import { UNIT_WORDS } from "../../blocks/numbers";
import css from "./IntakeSheet.module.css";

const WIDTH = 366;
const HEIGHT = 128;
const A4 = [210, 297] as const;

/** The likeliest candidates as outlines from the front, to one scale, beside a sheet of A4 and the machine. */
export function UnitOutlines({ candidates, machine }: { candidates: UnitCandidate[]; machine: MachineInForce }) {
  const volume = machine.room as number[];
  const rows = candidates
    .filter((row) => row.score >= 0.005)
    .slice(0, 3)
    .map((row) => ({
      name: UNIT_WORDS[row.unit]!,
      width: (row.size_mm as number[])[0]!,
      height: (row.size_mm as number[])[2]!,
      ours: true,
    }));
  const known = [
    { name: "A4", width: A4[0], height: A4[1], ours: false },
    { name: machine.name!, width: volume[0]!, height: volume[2]!, ours: false },
  ];
  // What is far larger than the machine is cut off: it would make everything else a dot.
  const most = 3 * Math.max(...volume);
  const boxes = [...rows, ...known].map((box) => ({ ...box, cut: Math.max(box.width, box.height) > most }));
  const shown = boxes.map((box) => ({ ...box, w: Math.min(box.width, most), h: Math.min(box.height, most) }));
  const slot = WIDTH / shown.length;
  const scale = Math.min(
    (slot - 10) / Math.max(...shown.map((box) => box.w)),
    (HEIGHT - 34) / Math.max(...shown.map((box) => box.h)),
  );
  return (
    <figure className={css.outlines} aria-label="The candidates to scale, seen from the front">
      <svg width={WIDTH} height={HEIGHT} role="img" aria-hidden>
        <path d={`M0 ${HEIGHT - 30.5}H${WIDTH}`} stroke="var(--rule)" />
        {shown.map((box, i) => {
          const [w, h] = [Math.max(2, box.w * scale), Math.max(2, box.h * scale)];
          const middle = (i + 0.5) * slot;
          return (
            <g key={box.name}>
              <rect
                x={middle - w / 2}
                y={HEIGHT - 30 - h}
                width={w}
                height={h}
                fill={box.ours ? "var(--body)" : "none"}
                stroke={box.ours ? "var(--ink)" : "var(--rule-strong)"}
                strokeDasharray={box.ours ? (box.cut ? "3 2" : undefined) : "7 2 1.5 2"}
              />
              <text x={middle} y={HEIGHT - 16} textAnchor="middle" className={css.label}>
                {box.name.split(" ")[0]}
              </text>
              <text x={middle} y={HEIGHT - 3} textAnchor="middle" className={css.label}>
                {box.cut ? "cut off" : box.name.split(" ").slice(1).join(" ")}
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}
