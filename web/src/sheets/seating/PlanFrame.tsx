import type { PlateState } from "../../api/types";
import { mm } from "../../blocks/numbers";
import css from "./Seating.module.css";

export const BAND = 26;
const AROUND = { top: 78, right: 76, bottom: 236, left: 76 };
/** In a window that is no wider than this, the title block is below the layers. */
const STACKED = { width: 780, bottom: 318 };
const LETTERS = "ABCDEFGHI";
const INK = "var(--ink)";

/** How the plate lies on the page. */
export interface Frame {
  scale: number;
  /** Millimetres on the plate to pixels. */
  at: (x: number, y: number) => [number, number];
  left: number;
  top: number;
  wide: number;
  high: number;
}

export function framed(x: number, y: number, size: { width: number; height: number }): Frame {
  const wide = size.width - AROUND.left - AROUND.right - 2 * BAND;
  const bottom = size.width <= STACKED.width ? STACKED.bottom : AROUND.bottom;
  const high = size.height - AROUND.top - bottom - 2 * BAND;
  const scale = Math.max(0.05, Math.min(wide / x, high / y));
  const left = AROUND.left + BAND + (wide - x * scale) / 2;
  const top = AROUND.top + BAND + (high - y * scale) / 2;
  return {
    scale,
    left,
    top,
    wide: x * scale,
    high: y * scale,
    at: (px, py) => [left + px * scale, top + (y - py) * scale],
  };
}

export function plateShape(plate: PlateState, frame: Frame, x: number, y: number) {
  if (plate.machine.volume!.shape === "round")
    return <circle cx={frame.left + frame.wide / 2} cy={frame.top + frame.high / 2} r={(x * frame.scale) / 2} />;
  return <rect x={frame.left} y={frame.top} width={x * frame.scale} height={y * frame.scale} />;
}

interface SheetFrameProps {
  plate: PlateState;
  frame: Frame;
  number: number;
  of: number;
  /** Width and depth of the plate, in mm. */
  x: number;
  y: number;
}

const upTo = (count: number) => Array.from({ length: count }, (_, i) => i);

/** The border in zones, mm ticks, the room within margins as a chain line, the front left corner. */
export function SheetFrame({ plate, frame, number, of, x, y }: SheetFrameProps) {
  const { left, top, wide, high } = frame;
  return (
    <g aria-hidden>
      <text className={css.title} x={left - BAND} y={top - BAND - 14}>
        plate {number} of {of}
        {plate.follows ? ", a second pass" : ""}
      </text>
      <text className={css.caption} x={left + wide + BAND} y={top - BAND - 14} textAnchor="end">
        from above; P plan, O oblique
      </text>
      <Ground plate={plate} frame={frame} x={x} />
      <Zones plate={plate} frame={frame} />
      <Ticks frame={frame} x={x} y={y} />
      <RoomWithin plate={plate} frame={frame} />
      <path d={`M${left} ${top + high - 26}V${top + high}H${left + 26}`} fill="none" stroke={INK} strokeWidth="2.4" />
      <text className={css.caption} x={left - BAND} y={top + high + BAND + 20}>
        0, front left{plate.machine.start !== "front left" ? `; it starts ${plate.machine.start}` : ""}
      </text>
      <text className={css.caption} x={left + wide + BAND} y={top + high + BAND + 20} textAnchor="end">
        {mm(x)} × {mm(y)} mm
      </text>
    </g>
  );
}

/** The paper, and on it the plate; what is beside a round one is hatched. */
function Ground({ plate, frame, x }: { plate: PlateState; frame: Frame; x: number }) {
  const { left, top, wide, high } = frame;
  const round = plate.machine.volume!.shape === "round";
  return (
    <>
      <rect
        x={left - BAND}
        y={top - BAND}
        width={wide + 2 * BAND}
        height={high + 2 * BAND}
        fill="var(--page)"
        stroke={INK}
        strokeWidth="1.6"
      />
      <rect
        x={left}
        y={top}
        width={wide}
        height={high}
        fill={round ? "url(#beside)" : "var(--paper-raised)"}
        stroke={INK}
        strokeWidth={round ? 0.8 : 1.2}
      />
      {round && (
        <circle
          cx={left + wide / 2}
          cy={top + high / 2}
          r={(x * frame.scale) / 2}
          fill="var(--paper-raised)"
          stroke={INK}
          strokeWidth="1.4"
        />
      )}
    </>
  );
}

/** The zones in the border: figures along the front and the back, letters at both sides. */
function Zones({ plate, frame: { left, top, wide, high } }: { plate: PlateState; frame: Frame }) {
  const across = (share: number) => left + (wide * share) / plate.columns;
  const up = (share: number) => top + (high * share) / plate.rows;
  const dividers = [
    ...upTo(plate.columns - 1).map(
      (i) => `M${across(i + 1)} ${top - BAND}V${top}M${across(i + 1)} ${top + high}V${top + high + BAND}`,
    ),
    ...upTo(plate.rows - 1).map(
      (i) => `M${left - BAND} ${up(i + 1)}H${left}M${left + wide} ${up(i + 1)}H${left + wide + BAND}`,
    ),
  ];
  return (
    <>
      <path d={dividers.join("")} stroke={INK} strokeWidth="0.8" />
      {upTo(plate.columns).map((i) => (
        <g key={i} className={css.zone}>
          <text x={across(i + 0.5)} y={top - BAND / 2}>
            {i + 1}
          </text>
          <text x={across(i + 0.5)} y={top + high + BAND / 2}>
            {i + 1}
          </text>
        </g>
      ))}
      {upTo(plate.rows).map((i) => (
        <g key={i} className={css.zone}>
          <text x={left - BAND / 2} y={up(plate.rows - i - 0.5)}>
            {LETTERS[i]}
          </text>
          <text x={left + wide + BAND / 2} y={up(plate.rows - i - 0.5)}>
            {LETTERS[i]}
          </text>
        </g>
      ))}
    </>
  );
}

/** Ticks along the edges of the plate, every centimetre, or every five on a large one. */
function Ticks({ frame, x, y }: { frame: Frame; x: number; y: number }) {
  const { left, top, high } = frame;
  const step = x > 600 ? 50 : 10;
  const at = (length: number) => upTo(Math.floor(length / step) + 1).map((i) => i * step);
  const ticks = [
    ...at(x).map((v) => `M${frame.at(v, 0)[0]} ${top + high}v${v % (5 * step) ? -5 : -9}`),
    ...at(y).map((v) => `M${left} ${frame.at(0, v)[1]}h${v % (5 * step) ? 5 : 9}`),
  ];
  return <path d={ticks.join("")} stroke="var(--rule-strong)" strokeWidth="0.9" />;
}

/** What is left of the plate within its margins, as a chain line. */
function RoomWithin({ plate, frame }: { plate: PlateState; frame: Frame }) {
  if (!plate.keeps_free) return null;
  const places = plate.corners.map(([px, py]) => frame.at(px!, py!).map((v) => v.toFixed(1)));
  return (
    <path
      d={`M${places.map((place) => place.join(" ")).join("L")}Z`}
      fill="none"
      stroke="var(--rule-worn)"
      strokeDasharray="12 3 2 3"
    />
  );
}

/** Hatches of cut faces, of what is outside or clashes, and the stipple of a tilt. */
export function Patterns() {
  return (
    <defs>
      <pattern id="cut" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="6" height="6" fill="var(--page)" />
        <path d="M0 0V6" stroke={INK} strokeWidth="1.6" />
      </pattern>
      <pattern id="out" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0 0V8" stroke="var(--stop)" strokeWidth="3" />
      </pattern>
      <pattern id="clash" width="9" height="9" patternUnits="userSpaceOnUse">
        <path d="M0 0L9 9M9 0L0 9" stroke="var(--stop)" strokeWidth="1.5" />
      </pattern>
      <pattern id="tilted" width="6" height="6" patternUnits="userSpaceOnUse">
        <circle cx="1.5" cy="1.5" r="1" fill={INK} />
        <circle cx="4.5" cy="4.5" r="1" fill={INK} />
      </pattern>
      <pattern id="props" width="10" height="10" patternUnits="userSpaceOnUse">
        <path d="M5 2.5V8M2.8 2.5H7.2" stroke="var(--ink-soft)" strokeWidth="1" fill="none" />
      </pattern>
      <pattern id="beside" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="7" height="7" fill="var(--paper-warm)" />
        <path d="M0 0V7" stroke="var(--rule-fine)" strokeWidth="1" />
      </pattern>
    </defs>
  );
}
