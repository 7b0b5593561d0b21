import type { MachineInForce, Vec3 } from "../api/types";
import css from "./Bench.module.css";
import type { Point2 } from "./view";

const WIDTH = 112;
const HEIGHT = 90;

/**
 * The body's box inside the machine's, small and to one scale: from the first sheet on one sees whether
 * it goes in. What stands out of the volume is hatched.
 */
export function MachineInset({ machine, size, within }: { machine: MachineInForce; size: Vec3; within: boolean }) {
  const volume = machine.room as Vec3;
  const round = machine.shape === "round";
  const reach = [...boxAt(volume, volume), ...boxAt(size, volume)].map(oblique);
  const [left, right] = [Math.min(...reach.map((p) => p[0])), Math.max(...reach.map((p) => p[0]))];
  const [top, bottom] = [Math.min(...reach.map((p) => p[1])), Math.max(...reach.map((p) => p[1]))];
  const scale = Math.min((WIDTH - 10) / (right - left), (HEIGHT - 10) / (bottom - top));
  const at = (corner: Vec3): Point2 => {
    const [x, y] = oblique(corner);
    return [5 + (x - left) * scale, HEIGHT - 5 - (bottom - y) * scale];
  };
  return (
    <figure
      className={css.inset}
      aria-label={within ? `goes into ${machine.name} as it lies` : `larger than ${machine.name} as it lies`}
    >
      <svg width={WIDTH} height={HEIGHT} aria-hidden>
        <defs>
          <pattern id="outside" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <path d="M0 0V7" stroke="var(--stop)" strokeWidth="3" />
          </pattern>
        </defs>
        <path
          d={
            round
              ? drum(volume)
                  .map((ring) => poly(ring.map((c) => at(c))))
                  .join("")
              : edges(boxAt(volume, volume).map((c) => at(c)))
          }
          fill="none"
          stroke="var(--rule-strong)"
          strokeDasharray="7 2 1.5 2"
        />
        <path
          d={faces(boxAt(size, volume).map((c) => at(c)))}
          fill={within ? "var(--body)" : "url(#outside)"}
          stroke="var(--ink)"
          strokeLinejoin="round"
        />
      </svg>
      <figcaption className={within ? undefined : "stop"}>
        {within ? `in ${machine.name}` : `over ${machine.name}`}
      </figcaption>
    </figure>
  );
}

/** The eight corners of a box that stands centred on the plate: lower ring, then upper. */
function boxAt([x, y, z]: Vec3, plate: Vec3): Vec3[] {
  const [mx, my] = [plate[0] / 2, plate[1] / 2];
  const ring = (h: number): Vec3[] => [
    [mx - x / 2, my - y / 2, h],
    [mx + x / 2, my - y / 2, h],
    [mx + x / 2, my + y / 2, h],
    [mx - x / 2, my + y / 2, h],
  ];
  return [...ring(0), ...ring(z)];
}

/** The rims of a round volume, below and above, and two uprights. */
function drum([x, y, z]: Vec3): Vec3[][] {
  const rim = (h: number) =>
    Array.from({ length: 40 }, (_, i): Vec3 => [
      (x / 2) * (1 + Math.cos((i * Math.PI) / 20)),
      (y / 2) * (1 + Math.sin((i * Math.PI) / 20)),
      h,
    ]);
  const side = (i: number): Vec3[] => [rim(0)[i]!, rim(z)[i]!];
  return [rim(0), rim(z), side(2), side(22)];
}

function oblique([x, y, z]: Vec3): Point2 {
  return [x + 0.42 * y, -z - 0.3 * y];
}

function poly(points: Point2[]): string {
  return `M${points.map((p) => p.map((v) => v.toFixed(1)).join(" ")).join("L")}Z`;
}

function edges(c: Point2[]): string {
  const uprights = [0, 1, 2, 3].map((i) => `M${c[i]!.join(" ")}L${c[i + 4]!.join(" ")}`).join("");
  return poly(c.slice(0, 4)) + poly(c.slice(4)) + uprights;
}

/** Front, right and top face: what is seen of a solid box. */
function faces(c: Point2[]): string {
  return poly([c[0]!, c[1]!, c[5]!, c[4]!]) + poly([c[1]!, c[2]!, c[6]!, c[5]!]) + poly(c.slice(4));
}
