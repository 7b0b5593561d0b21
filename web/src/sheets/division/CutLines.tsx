import type { Vec3 } from "../../api/types";
import type { Ground } from "../../bench/Bench";
import type { Point2 } from "../../bench/view";
import { rounded } from "../../blocks/numbers";
import css from "./Division.module.css";
import { SEAMS } from "./PlaneTable";
import type { Dividing } from "./useDivision";

type Shown = NonNullable<Dividing["prospect"]>["planes"][number];

/** Cutting planes as drawings have them: hatched sections, chain lines with thick ends, arrows and letters. */
export function CutLines({ ground, dividing }: { ground: Ground; dividing: Dividing }) {
  const prospect = dividing.problem ? undefined : dividing.prospect;
  // Drawn even when there is no plane: with nothing over it, a browser was seen to leave out parts of the canvas.
  return (
    <svg className={css.lines} width={ground.view.width} height={ground.view.height} aria-hidden>
      <defs>
        <pattern id="cut-hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="7" height="7" fill="#f6f3ec" fillOpacity="0.72" />
          <path d="M0 0V7" stroke="#22262b" strokeWidth="1.1" />
        </pattern>
      </defs>
      {prospect?.planes.map((plane) => (
        <Plane key={plane.letter} plane={plane} ground={ground} low={prospect.low as Vec3} high={prospect.high as Vec3} />
      ))}
    </svg>
  );
}

function Plane({ plane, ground, low, high }: { plane: Shown; ground: Ground; low: Vec3; high: Vec3 }) {
  // The bench has its origin in the middle of what it shows.
  const project = (point: Vec3) => ground.view.project(point.map((one, i) => one - (low[i]! + high[i]!) / 2) as Vec3);
  const path = plane.rings.map((ring) => `M${ring.map((point) => project(point as Vec3).map((one) => one.toFixed(1)).join(" ")).join("L")}Z`).join("");
  const ends = endsOf(plane, low, high, project);
  const way = arrowOf(plane, ground);
  return (
    <g>
      <path d={path} className={css.cut} />
      {ends && (
        <>
          <path d={`M${ends[0].join(" ")}L${ends[1].join(" ")}`} stroke="#22262b" strokeDasharray="14 3 3 3" fill="none" />
          {ends.map((end, i) => {
            const inward: Point2 = [(ends[1 - i]![0] - end[0]) / 1, (ends[1 - i]![1] - end[1]) / 1];
            const long = Math.hypot(...inward) || 1;
            const stub: Point2 = [end[0] + (inward[0] / long) * 18, end[1] + (inward[1] / long) * 18];
            const tip: Point2 = [end[0] + way[0] * 20, end[1] + way[1] * 20];
            const side: Point2 = [-way[1], way[0]];
            return (
              <g key={i}>
                <path d={`M${end.join(" ")}L${stub.join(" ")}`} stroke="#22262b" strokeWidth="3.2" />
                <path d={`M${end.join(" ")}L${tip.join(" ")}`} stroke="#22262b" strokeWidth="1.2" />
                <path d={`M${tip.join(" ")}L${tip[0] - way[0] * 9 + side[0] * 3.4} ${tip[1] - way[1] * 9 + side[1] * 3.4}L${tip[0] - way[0] * 9 - side[0] * 3.4} ${tip[1] - way[1] * 9 - side[1] * 3.4}Z`} fill="#22262b" />
                <text x={tip[0] + way[0] * 11} y={tip[1] + way[1] * 11}>
                  {plane.letter}
                </text>
                {i === 1 && (
                  <text className={css.at} x={end[0] - (inward[0] / long) * 34} y={end[1] - (inward[1] / long) * 18}>
                    {rounded(plane.at_mm, 1)}
                    {plane.seam ? ` ${SEAMS[plane.seam]!.split(" ").pop()}` : ""}
                  </text>
                )}
              </g>
            );
          })}
        </>
      )}
    </g>
  );
}

/** Which way, in pixels, a plane looks: towards what is above it. */
function arrowOf(plane: Shown, ground: Ground): Point2 {
  const [x, y] = ground.view.along(plane.normal as Vec3);
  const long = Math.hypot(x, y);
  return long < 1e-6 ? [0, -1] : [x / long, y / long];
}

/** The line of a plane across the body as it is seen: through its middle, a little longer than the body is wide. */
function endsOf(plane: Shown, low: Vec3, high: Vec3, project: (point: Vec3) => Point2): [Point2, Point2] | null {
  const middle = low.map((one, i) => (one + high[i]!) / 2) as Vec3;
  const normal = plane.normal as Vec3;
  const off = plane.at_mm - normal.reduce((sum, one, i) => sum + one * middle[i]!, 0);
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
    const half = reach(way, low, high) * 1.14 + size * 0.05;
    return [-half, half].map((by) => project(foot.map((one, i) => one + by * way[i]!) as Vec3)) as [Point2, Point2];
  });
  const longest = spans.sort((a, b) => span(b) - span(a))[0]!;
  return span(longest) < 8 ? null : longest;
}

const span = ([a, b]: [Point2, Point2]) => Math.hypot(a[0] - b[0], a[1] - b[1]);
const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const unit = (a: Vec3): Vec3 => a.map((one) => one / Math.hypot(...a)) as Vec3;

/** Half of what a box spans along a way. */
function reach(way: Vec3, low: Vec3, high: Vec3): number {
  return way.reduce((sum, one, i) => sum + (Math.abs(one) * (high[i]! - low[i]!)) / 2, 0);
}
