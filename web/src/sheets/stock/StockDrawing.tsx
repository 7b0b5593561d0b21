import type { StockDrawing as Drawing, StockView } from "../../api/types";
import { fileNumber } from "../../blocks/numbers";

const WIDTH = 400;
const GAP = 34;
const PADDING = 22;
const TALLEST = 190;

type At = (point: readonly number[]) => [number, number];

/** A part before it is made: cut through its axis and hatched, and seen from above, with its dimensions. */
export function StockDrawing({ part }: { part: StockView }) {
  const views = [part.section, part.plan];
  const sizes = views.map(({ low, high }) => [high[0]! - low[0]!, high[1]! - low[1]!] as const);
  const across = sizes.reduce((sum, [x]) => sum + x, 0);
  const tall = Math.max(...sizes.map(([, y]) => y));
  const scale = Math.min((WIDTH - 2 * PADDING - GAP) / across, TALLEST / tall);
  const height = tall * scale + 2 * PADDING;
  const taken = across * scale + GAP;
  const starts = [(WIDTH - taken) / 2, (WIDTH - taken) / 2 + sizes[0]![0] * scale + GAP];
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height.toFixed(0)}`} role="img" aria-label={`drawing of ${part.name}`}>
      <defs>
        <pattern id="stock-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--paper-raised)" />
          <path d="M0 0V6" stroke="var(--ink-soft)" strokeWidth="0.8" />
        </pattern>
      </defs>
      {views.map((view, i) => {
        const middle = (height - sizes[i]![1] * scale) / 2;
        const at: At = ([x, y]) => [
          starts[i]! + (x! - view.low[0]!) * scale,
          height - middle - (y! - view.low[1]!) * scale,
        ];
        return <View key={view.view} view={view} at={at} hatched={view.view === "section"} />;
      })}
    </svg>
  );
}

function View({ view, at, hatched }: { view: Drawing; at: At; hatched: boolean }) {
  const path = (rings: Drawing["areas"][number]) =>
    rings.map((ring) => `M${ring.map((point) => at(point).map(rounded).join(" ")).join("L")}Z`).join("");
  return (
    <g>
      {view.areas.map((rings, i) => (
        <path
          key={i}
          d={path(rings)}
          fill={hatched ? "url(#stock-hatch)" : "var(--paper-raised)"}
          fillRule="evenodd"
          stroke="var(--ink)"
          strokeWidth="1.4"
        />
      ))}
      {view.threads.map((ends, i) => (
        <Line key={i} ends={ends.map((point) => at(point as number[]))} />
      ))}
      {hatched && <Axis view={view} at={at} />}
      {view.dimensions.map((row, i) => (
        <DimensionLine key={i} row={row} at={at} />
      ))}
    </g>
  );
}

const rounded = (value: number) => value.toFixed(1);

function Line({ ends, dashes }: { ends: [number, number][]; dashes?: string }) {
  const [[x1, y1], [x2, y2]] = ends as [[number, number], [number, number]];
  return <line {...{ x1, y1, x2, y2 }} stroke="var(--ink)" strokeWidth="0.7" strokeDasharray={dashes} />;
}

/** The axis of the section, as a chain line. */
function Axis({ view, at }: { view: Drawing; at: At }) {
  const points = view.areas.flat(2);
  const heights = points.map((point) => point[1]!);
  if (!points.length || points.every((point) => point[0]! > -1e-6)) return null;
  const reach = (Math.max(...heights) - Math.min(...heights)) * 0.06;
  return (
    <Line ends={[at([0, Math.min(...heights) - reach]), at([0, Math.max(...heights) + reach])]} dashes="10 3 2 3" />
  );
}

/** One dimension: extension lines, a line with ticks, and its upright numeral. */
function DimensionLine({ row, at }: { row: Drawing["dimensions"][number]; at: At }) {
  const [a, b] = [at(row.line_start), at(row.line_end)];
  const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as const;
  const says = `${row.round ? "ø " : ""}${fileNumber(Number(row.mm.toFixed(4)))}`;
  const tick = ([x, y]: [number, number]) => `M${rounded(x - 3)} ${rounded(y + 3)}l6 -6`;
  const shown = row.letter ? `${row.letter} ${says}` : says;
  const wide = shown.length * 5.6 + 4;
  // A line too short for its numeral has that behind its end.
  const along = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const beside = Math.abs(a[1] - b[1]) < 0.01 ? along < wide + 8 : along < 18;
  const [x, y] = !beside
    ? middle
    : Math.abs(a[1] - b[1]) < 0.01
      ? [Math.max(a[0], b[0]) + wide / 2 + 5, middle[1]]
      : [middle[0] + wide / 2 + 6, middle[1]];
  return (
    <g>
      <Line ends={[at(row.start), a]} />
      <Line ends={[at(row.end), b]} />
      <Line ends={[a, b]} />
      <path d={tick(a) + tick(b)} stroke="var(--ink)" strokeWidth="1.3" />
      <rect x={x - wide / 2} y={y - 7} width={wide} height="14" fill="var(--paper)" />
      <text x={x} y={y + 4} fontSize="10.5" textAnchor="middle" fontFamily="var(--number)" fill="var(--ink)">
        {shown}
      </text>
    </g>
  );
}
