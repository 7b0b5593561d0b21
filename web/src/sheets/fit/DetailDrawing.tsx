import { useSize } from "../../job/useSize";
import type { PairDetail } from "../../api/types";
import { rounded } from "../../blocks/numbers";

const FOOT = 184;
const HEAD = 104;

/** What is written beside a section. */
export interface SectionNotes {
  /** The body to the right of the gap, and that to the left of it. */
  names: [string, string];
  /** Behind the length of the clearance. */
  unit: string;
  /** Whether the clearance is none that will do. */
  bad: boolean;
}

/** A section: both bodies hatched in different directions, and the clearance as a dimension. */
export function DetailDrawing({ detail, notes }: { detail: PairDetail; notes: SectionNotes }) {
  const [frame, size] = useSize();
  const { width, height } = size ?? { width: 880, height: 754 };
  const room = Math.min(width - 260, height - FOOT - HEAD - 40);
  const scale = room / (2 * detail.half_mm);
  const middle: [number, number] = [(width - 200) / 2, HEAD + (height - HEAD - FOOT) / 2];
  const at = ([x, y]: readonly number[]): string =>
    `${(middle[0] + x! * scale).toFixed(1)} ${(middle[1] - y! * scale).toFixed(1)}`;
  const [right, left] = notes.names;
  const beside = middle[0] + room / 2 + 14;
  // Left of the gap: in the middle of what is inside, or beside it.
  const inner = middle[0] + Math.max(-0.3 * room, Math.min(0, (detail.ends[0]![0]! - detail.half_mm) * scale * 0.5));
  const path = (rings: PairDetail["a"]) => rings.map((ring) => `M${ring.map(at).join("L")}Z`).join("");
  return (
    <div ref={frame} style={{ position: "absolute", inset: 0 }}>
      <svg viewBox={`0 0 ${width} ${height}`} role="img" aria-label={`section through ${notes.names.join(" and ")}`}>
        <defs>
          <Hatch id="hatch-a" turn={45} />
          <Hatch id="hatch-b" turn={-45} />
          <clipPath id="shown">
            <rect x={middle[0] - room / 2} y={middle[1] - room / 2} width={room} height={room} />
          </clipPath>
        </defs>
        <g clipPath="url(#shown)" stroke="var(--ink)" strokeWidth="2" fillRule="evenodd">
          <path d={path(detail.a)} fill="url(#hatch-a)" />
          <path d={path(detail.b)} fill="url(#hatch-b)" />
        </g>
        <rect
          x={middle[0] - room / 2}
          y={middle[1] - room / 2}
          width={room}
          height={room}
          fill="none"
          stroke="var(--paper)"
          strokeWidth="5"
        />
        {detail.axis_mm !== null && (
          <path
            d={`M${middle[0] + detail.axis_mm! * scale} ${middle[1] - room / 2 - 10}v${room + 20}`}
            stroke="var(--ink)"
            strokeDasharray="22 4 3 4"
          />
        )}
        <Name says={right} at={[middle[0] + 0.44 * room, middle[1] + 0.2 * room]} to={beside} />
        <Name says={left} at={[inner, middle[1] + 0.36 * room]} to={beside} />
        <Clearance detail={detail} notes={notes} scale={scale} middle={middle} room={room} />
      </svg>
    </div>
  );
}

function Hatch({ id, turn }: { id: string; turn: number }) {
  return (
    <pattern id={id} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform={`rotate(${turn})`}>
      <rect width="7" height="7" fill="var(--paper-raised)" />
      <path d="M0 0V7" stroke="var(--ink-soft)" strokeWidth="1" />
    </pattern>
  );
}

/** The name of a body, beside the drawing, with a line to a place in it. */
function Name({ says, at: [x, y], to }: { says: string; at: [number, number]; to: number }) {
  return (
    <>
      <path d={`M${x} ${y}H${to - 6}`} stroke="var(--ink)" strokeWidth="1" />
      <circle cx={x} cy={y} r="3" fill="var(--ink)" />
      <text x={to} y={y + 5} fontSize="14" fill="var(--ink)">
        {says}
      </text>
    </>
  );
}

interface Dimension {
  detail: PairDetail;
  notes: SectionNotes;
  scale: number;
  middle: [number, number];
  room: number;
}

/** The clearance between two extension lines, its numeral beside them since the gap is narrow. */
function Clearance({ detail, notes, scale, middle, room }: Dimension) {
  const colour = notes.bad ? "var(--stop)" : "var(--settled)";
  const [left, right] = detail.ends.map(([x]) => middle[0] + x! * scale) as [number, number];
  const y = middle[1] - room / 2 - 14;
  return (
    <g stroke={colour} strokeWidth="1.5" fill="none" data-testid="detail-clearance">
      <path d={`M${left} ${y - 8}V${middle[1]}M${right} ${y - 8}V${middle[1]}`} />
      <path d={`M${left - 30} ${y}H${left}M${right} ${y}H${right + 30}`} />
      <path d={`M${left - 5} ${y + 5}l10 -10M${right - 5} ${y + 5}l10 -10`} strokeWidth="2" />
      <text x={right + 38} y={y + 5} fill={colour} stroke="none" fontSize="16" fontFamily="var(--number)">
        {rounded(detail.side_mm, 3).replace("-", "−")}
        {notes.unit}
      </text>
    </g>
  );
}
