import { useState, type PointerEvent } from "react";
import type { Axis, DivisionPreview, Vec3 } from "../../api/types";
import { tell } from "../../api/useJob";
import type { Ground } from "../../bench/Bench";
import { GaugeDimensions } from "../../bench/Dimensions";
import type { Point2 } from "../../bench/view";
import { mm, rounded } from "../../blocks/numbers";
import css from "./Division.module.css";
import { PinMarks } from "./PinMarks";
import { SEAMS } from "./PlaneTable";
import { AXES } from "./places";
import { useDrag } from "./useDrag";
import type { Dividing } from "./useDivision";

type PlaneShown = DivisionPreview["planes"][number];

/** So near, in pixels, a dragged plane goes to a seam. */
const SNAP = 7;

/** A plane as it is drawn: one that cuts, or an end of a trial. */
interface Line {
  letter: string;
  normal: Vec3;
  at: number;
  says: string;
  /** Drawn farther out than planes that cut, so that both can be told. */
  far?: boolean;
}

interface Props {
  ground: Ground;
  dividing: Dividing;
}

/** How planes are drawn and dragged over the bench. */
interface CutDrawing extends Props {
  prospect: DivisionPreview;
  low: Vec3;
  high: Vec3;
  middle: Vec3;
  project: (point: Vec3) => Point2;
  /** By how many mm a plane is dragged just now, by its key. */
  byOf: (key: string) => number;
  held: string | null;
  drag: (event: PointerEvent, key: string, line: Line, axis: Axis | null, drop: (by: number) => void) => void;
  grab: ReturnType<typeof useDrag>;
}

/** Take a plane by its end: told by how many millimetres it goes along its normal, at the next seam if that is near. */
function useLineDrag({ ground, dividing }: Props) {
  const { seams, lookAlong } = dividing;
  const [held, hold] = useState<{ key: string; by: number } | null>(null);
  const grab = useDrag();
  const drag: CutDrawing["drag"] = (event, key, line, axis, drop) => {
    const [x, y] = ground.view.along(line.normal);
    const per = x * x + y * y;
    if (per < 1e-6) return;
    if (axis) lookAlong(axis);
    let by = 0;
    const move = (dx: number, dy: number) => {
      by = (dx * x + dy * y) / per;
      const near =
        axis && seams?.axis === axis
          ? seams.seams.map((seam) => seam.at_mm - line.at).find((one) => Math.abs(one - by) * Math.sqrt(per) < SNAP)
          : undefined;
      by = near ?? by;
      hold({ key, by });
    };
    grab(event, move, (moved) => {
      hold(null);
      if (moved) drop(by);
    });
  };
  return { held: held?.key ?? null, byOf: (key: string) => (held?.key === key ? held.by : 0), drag, grab };
}

/** Cutting planes as drawings have them: hatched sections, chain lines with thick ends, arrows and letters; dragged by their ends. */
export function CutLines(props: Props) {
  const { ground, dividing } = props;
  const dragging = useLineDrag(props);
  const prospect = dividing.problem ? undefined : dividing.prospect;
  // Pieces that are drawn apart are not where the planes are.
  if (!prospect || dividing.thought.length) return <Empty ground={ground} />;
  const [low, high] = [prospect.low as Vec3, prospect.high as Vec3];
  const middle = low.map((one, i) => (one + high[i]!) / 2) as Vec3;
  // The bench has its origin in the middle of what it shows.
  const project = (point: Vec3) => ground.view.project(point.map((one, i) => one - middle[i]!) as Vec3);
  const drawing: CutDrawing = { ...props, ...dragging, prospect, low, high, middle, project };
  const { held, byOf } = dragging;
  const aimed = held?.startsWith("plane") ? Number(held.slice(6)) : dividing.chosen;
  const dimensioned = aimed === null ? undefined : prospect.planes[aimed];
  return (
    <>
      <svg className={css.lines} width={ground.view.width} height={ground.view.height}>
        <Hatch />
        {prospect.planes.map((plane, i) => (
          <DraggedPlane key={i} number={i} plane={plane} chosen={i === aimed} drawing={drawing} />
        ))}
        <TrialEnds drawing={drawing} />
        <MarkedPlaces drawing={drawing} />
        <PinMarks ground={ground} dividing={dividing} project={project} grab={dragging.grab} />
      </svg>
      {aimed !== null && dimensioned?.axis && (
        <Position
          ground={ground}
          dividing={dividing}
          number={aimed}
          plane={dimensioned}
          by={byOf(`plane-${aimed}`)}
          middle={middle}
        />
      )}
    </>
  );
}

interface DraggedPlaneProps {
  number: number;
  plane: PlaneShown;
  chosen: boolean;
  drawing: CutDrawing;
}

/** One plane with its section; where it is dragged to, it is typed. */
function DraggedPlane({ number, plane, chosen, drawing }: DraggedPlaneProps) {
  const { ground, dividing, low, high, project, byOf, held, drag } = drawing;
  const { plan, choose } = dividing;
  const line = lineOf(plane);
  const key = `plane-${number}`;
  const drop = (by_mm: number) => void plan({ do: "drag", number, by_mm }).catch(tell);
  return (
    <g data-plane={plane.letter}>
      <path d={pathOf(plane, project)} className={held === key ? css.cutWas : css.cut} />
      <CutLine
        line={{ ...line, at: line.at + byOf(key) }}
        ground={ground}
        low={low}
        high={high}
        project={project}
        chosen={chosen}
        down={(event) => {
          choose(number);
          drag(event, key, line, plane.axis, drop);
        }}
      />
    </g>
  );
}

/** The two ends of a trial that is thought of. */
function TrialEnds({ drawing }: { drawing: CutDrawing }) {
  const { ground, dividing, low, high, project, byOf, drag } = drawing;
  const { meant, mean } = dividing;
  const { axis, ...ends } = meant.trial;
  const there = (["low", "high"] as const).filter((end) => Number.isFinite(parseFloat(ends[end])));
  return there.map((end) => {
    const line: Line = {
      letter: end === "low" ? "from" : "to",
      normal: AXES.map((one) => (one === axis ? 1 : 0)) as Vec3,
      at: parseFloat(ends[end]),
      says: "",
      far: true,
    };
    const at = (by: number) => Number((line.at + by).toFixed(2));
    return (
      <g key={end} data-plane={`trial ${end}`}>
        <CutLine
          line={{ ...line, at: at(byOf(end)) }}
          ground={ground}
          low={low}
          high={high}
          project={project}
          inward={end === "high"}
          down={(event) =>
            drag(event, end, line, axis, (by) => mean({ trial: { ...meant.trial, [end]: String(at(by)) } }))
          }
        />
      </g>
    );
  });
}

/** Outlines of a drawing where they would split the body, and places that were picked. */
function MarkedPlaces({ drawing: { ground, dividing, project } }: { drawing: CutDrawing }) {
  const { placed, meant, taking } = dividing;
  const written = (ring: Vec3[]) =>
    ring.map((point) =>
      project(point)
        .map((one) => one.toFixed(1))
        .join(" "),
    );
  return (
    <>
      {placed.length > 0 && (
        <path className={css.drawing} d={placed.map((ring) => `M${written(ring).join("L")}Z`).join("")} />
      )}
      {[...meant.drains, ...meant.marks.flatMap((mark) => (mark.at ? [mark.at] : []))].map((at, i) => (
        <Place key={i} at={project(at)} />
      ))}
      {taking.got.map((pick, i) => (
        <Place key={`got ${i}`} at={ground.view.project(pick.point)} />
      ))}
    </>
  );
}

/** Drawn even when there is nothing: with nothing over it, a browser was seen to leave out parts of the canvas. */
function Empty({ ground }: { ground: Ground }) {
  return (
    <svg className={css.lines} width={ground.view.width} height={ground.view.height} aria-hidden>
      <Hatch />
    </svg>
  );
}

/** A place that was picked. */
const Place = ({ at: [x, y] }: { at: Point2 }) => (
  <g className={css.place} data-testid="picked-place">
    <circle cx={x} cy={y} r={5.5} />
    <path d={`M${x - 9} ${y}h18M${x} ${y - 9}v18`} />
  </g>
);

const Hatch = () => (
  <defs>
    <pattern id="cut-hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
      <rect width="7" height="7" fill="var(--paper)" fillOpacity="0.72" />
      <path d="M0 0V7" stroke="var(--ink)" strokeWidth="1.1" />
    </pattern>
  </defs>
);

const lineOf = (plane: PlaneShown): Line => ({
  letter: plane.letter,
  normal: plane.normal as Vec3,
  at: plane.at_mm,
  says: plane.seam ? SEAMS[plane.seam]!.split(" ").pop()! : "",
});

const pathOf = (plane: PlaneShown, project: (point: Vec3) => Point2) =>
  plane.rings
    .map(
      (ring) =>
        `M${ring
          .map((point) =>
            project(point as Vec3)
              .map((one) => one.toFixed(1))
              .join(" "),
          )
          .join("L")}Z`,
    )
    .join("");

/** How far a plane is from the low end of the body, as a dimension that can be typed. */
function Position({
  ground,
  dividing,
  number,
  plane,
  by,
  middle,
}: {
  ground: Ground;
  dividing: Dividing;
  number: number;
  plane: PlaneShown;
  by: number;
  middle: Vec3;
}) {
  const { prospect, plan } = dividing;
  const i = AXES.indexOf(plane.axis!);
  const [low, high] = [prospect!.low, prospect!.high].map((ends) => ends.map((one, k) => one - middle[k]!)) as [
    Vec3,
    Vec3,
  ];
  // Of the four edges along it the one away from the overall dimensions: those are at the left and at the foot.
  const edges = [0, 1, 2, 3].map(
    (which) => low.map((one, k) => (k === i ? one : (which >> ((k - i + 2) % 3)) & 1 ? high[k]! : one)) as Vec3,
  );
  const far = (at: Vec3) => ground.view.project(at)[i === 2 ? 0 : 1] * (i === 2 ? 1 : -1);
  const start = edges.reduce((best, place) => (far(place) > far(best) ? place : best));
  const end = start.map((one, k) => (k === i ? plane.at_mm + by - middle[i]! : one)) as Vec3;
  const long = plane.at_mm + by - prospect!.low[i]!;
  const commit = (typed: string) => plan({ do: "place", number, text: `${plane.axis}=${typed.trim()} from low` });
  return (
    <GaugeDimensions
      ground={ground}
      gauges={[
        {
          key: "plane",
          a: start,
          b: end,
          numeral: { text: mm(long), label: `Plane ${plane.letter}, from the low end`, prefix: plane.letter, commit },
        },
      ]}
    />
  );
}

interface CutLineProps {
  line: Line;
  ground: Ground;
  low: Vec3;
  high: Vec3;
  project: (point: Vec3) => Point2;
  chosen?: boolean;
  /** It looks against its normal: what it keeps is below. */
  inward?: boolean;
  down: (event: PointerEvent) => void;
}

function CutLine({ line, ground, low, high, project, chosen, inward, down }: CutLineProps) {
  const ends = endsOf(line, low, high, project);
  const way = arrowOf(line, ground, inward);
  if (!ends) return null;
  const ink = chosen ? "var(--settled-bright)" : "var(--ink)";
  return (
    <g stroke={ink}>
      <path d={`M${ends[0].join(" ")}L${ends[1].join(" ")}`} strokeDasharray="14 3 3 3" fill="none" />
      {ends.map((end, i) => {
        const inner: Point2 = [ends[1 - i]![0] - end[0], ends[1 - i]![1] - end[1]];
        const long = Math.hypot(...inner) || 1;
        const stub: Point2 = [end[0] + (inner[0] / long) * 18, end[1] + (inner[1] / long) * 18];
        const tip: Point2 = [end[0] + way[0] * 20, end[1] + way[1] * 20];
        const side: Point2 = [-way[1], way[0]];
        const said = saidAt(end, [inner[0] / long, inner[1] / long], way, side);
        return (
          <g key={i}>
            <path d={`M${end.join(" ")}L${stub.join(" ")}`} strokeWidth="3.2" />
            <path d={`M${end.join(" ")}L${tip.join(" ")}`} strokeWidth="1.2" />
            <path
              stroke="none"
              d={`M${tip.join(" ")}L${tip[0] - way[0] * 9 + side[0] * 3.4} ${tip[1] - way[1] * 9 + side[1] * 3.4}L${tip[0] - way[0] * 9 - side[0] * 3.4} ${tip[1] - way[1] * 9 - side[1] * 3.4}Z`}
              fill={ink}
            />
            <text stroke="none" x={tip[0] + way[0] * 11} y={tip[1] + way[1] * 11}>
              {line.letter}
            </text>
            {i === 1 && (
              <text stroke="none" className={css.at} x={said[0]} y={said[1]}>
                {rounded(line.at, 1)}
                {line.says ? ` ${line.says}` : ""}
              </text>
            )}
            <path
              className={css.handle}
              d={`M${tip.join(" ")}L${end.join(" ")}L${stub.join(" ")}`}
              onPointerDown={down}
            >
              <title>Drag to move the plane; it stops at seams</title>
            </path>
          </g>
        );
      })}
    </g>
  );
}

/** Where a plane's number stands at its end: outside and behind the arrow, or beside an arrow that goes on with the line. */
function saidAt(end: Point2, inner: Point2, way: Point2, side: Point2): Point2 {
  const along = Math.abs(way[0] * inner[0] + way[1] * inner[1]);
  const down = side[1] < 0 ? -1 : 1;
  if (along > 0.7) return [end[0] + way[0] * 14 + side[0] * 22 * down, end[1] + way[1] * 14 + side[1] * 22 * down];
  return [end[0] - inner[0] * 30 - way[0] * 16, end[1] - inner[1] * 12 - way[1] * 16];
}

/** Which way, in pixels, a plane looks: towards what is above it. */
function arrowOf(line: Line, ground: Ground, inward?: boolean): Point2 {
  const [x, y] = ground.view.along(line.normal);
  const long = Math.hypot(x, y) * (inward ? -1 : 1);
  return Math.abs(long) < 1e-6 ? [0, -1] : [x / long, y / long];
}

/** The line of a plane across the body as it is seen: through its middle, a little longer than the body is wide. */
function endsOf(
  { normal, at, far }: Line,
  low: Vec3,
  high: Vec3,
  project: (point: Vec3) => Point2,
): [Point2, Point2] | null {
  const middle = low.map((one, i) => (one + high[i]!) / 2) as Vec3;
  const off = at - normal.reduce((sum, one, i) => sum + one * middle[i]!, 0);
  const foot = middle.map((one, i) => one + off * normal[i]!) as Vec3;
  // An upright plane is told at the top of the body, where its line crosses nothing of it.
  const upright = Math.abs(normal[2]!) < 0.1;
  if (upright) foot[2] = high[2];
  const size = Math.hypot(...high.map((one, i) => one - low[i]!)) / 2;
  // Of the two ways in the plane the one that is seen longer.
  const aside: Vec3 = Math.abs(normal[2]!) < 0.9 ? [0, 0, 1] : [1, 0, 0];
  const first = unit(cross(normal, aside));
  const second = cross(normal, first);
  const ways = upright ? [cross(normal, [0, 0, 1])] : [first, second];
  const spans = ways.map((way) => {
    const half = reach(way, low, high) * (far ? 1.42 : 1.14) + size * 0.05;
    return [-half, half].map((by) => project(foot.map((one, i) => one + by * way[i]!) as Vec3)) as [Point2, Point2];
  });
  const longest = spans.sort((a, b) => span(b) - span(a))[0]!;
  return span(longest) < 8 ? null : longest;
}

const span = ([a, b]: [Point2, Point2]) => Math.hypot(a[0] - b[0], a[1] - b[1]);
const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: Vec3): Vec3 => a.map((one) => one / Math.hypot(...a)) as Vec3;

/** Half of what a box spans along a way. */
function reach(way: Vec3, low: Vec3, high: Vec3): number {
  return way.reduce((sum, one, i) => sum + (Math.abs(one) * (high[i]! - low[i]!)) / 2, 0);
}
