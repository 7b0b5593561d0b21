import type { FirstLayer } from "../../api/types";

const [WIDE, HIGH, GAP] = [176, 64, 16];
/** Of half a line around what is drawn, so that none is cut. */
const EDGE = 1;

type Rings = readonly (readonly (readonly number[])[])[];

/** The first layer as it stands, hatched; beside what it would be if level, where that is another. */
export function Footprints({ first }: { first: FirstLayer }) {
  const level = first.level_rings as Rings;
  const shown: [string, Rings][] = [
    ["as it stands", first.rings as Rings],
    ...(level.length ? ([["if level", level]] as [string, Rings][]) : []),
  ];
  const boxes = shown.map(([, rings]) => boundsOf(rings));
  const scale = Math.min(
    ...boxes.map(([x0, y0, x1, y1]) =>
      Math.min((WIDE - 2 * EDGE) / Math.max(x1 - x0, 1e-6), HIGH / Math.max(y1 - y0, 1e-6)),
    ),
  );
  const high = Math.max(...boxes.map(([, y0, , y1]) => (y1 - y0) * scale));
  return (
    <svg
      width={2 * WIDE + GAP}
      height={high + 22}
      style={{ display: "block", margin: "2px 16px 6px" }}
      role="img"
      aria-label={`the first layer${level.length ? ", beside what it would be if level" : ""}`}
    >
      <defs>
        <pattern id="first" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill="var(--page)" />
          <path d="M0 0V5" stroke="var(--ink)" strokeWidth="1.3" />
        </pattern>
      </defs>
      {shown.map(([says, rings], i) => {
        const [x0, , , y1] = boxes[i]!;
        const at = ([x, y]: readonly number[]) =>
          `${(i * (WIDE + GAP) + (x! - x0) * scale + EDGE).toFixed(1)} ${((y1 - y!) * scale + EDGE).toFixed(1)}`;
        return (
          <g key={says}>
            <path
              d={rings.map((ring) => `M${ring.map(at).join("L")}Z`).join("")}
              fill={i ? "var(--paper-warm)" : "url(#first)"}
              stroke={i ? "var(--rule-strong)" : "var(--ink)"}
              strokeWidth="1.1"
              strokeDasharray={i ? "4 3" : undefined}
              fillRule="evenodd"
            />
            <text x={i * (WIDE + GAP)} y={high + 18} fill="var(--ink-soft)" style={{ font: "12.5px Barlow" }}>
              {says}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

function boundsOf(rings: Rings): [number, number, number, number] {
  const points = rings.flat();
  const along = (axis: number) => points.map((point) => point[axis]!);
  const low = (axis: number) => along(axis).reduce((a, b) => Math.min(a, b), Infinity);
  const top = (axis: number) => along(axis).reduce((a, b) => Math.max(a, b), -Infinity);
  return points.length ? [low(0), low(1), top(0), top(1)] : [0, 0, 1, 1];
}
