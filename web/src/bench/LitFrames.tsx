import { Box3, type BufferAttribute, type Matrix4 } from "three";
import type { Vec3 } from "../api/types";
import css from "./Bench.module.css";
import { isLit, useLit } from "./lit";
import type { BenchMesh } from "./meshData";
import { cornersOf, type View } from "./view";

interface Drawn {
  id: string;
  mesh: BenchMesh;
  matrix: Matrix4;
}

const boxes = new WeakMap<BenchMesh, Box3>();

/** The box of a mesh in its own numbers, worked out once. */
function boxOf(mesh: BenchMesh): Box3 {
  const known = boxes.get(mesh);
  if (known) return known;
  const box = new Box3().setFromBufferAttribute(mesh.surface.attributes.position as BufferAttribute);
  boxes.set(mesh, box);
  return box;
}

/** How far the corners of a frame reach along its sides, in pixels. */
const REACH = 14;
const GAP = 6;

/** Corners around bodies that are pointed at on the sheet; of a single body there is nothing to tell apart. */
export function LitFrames({ drawn, view }: { drawn: Drawn[]; view: View }) {
  const lit = useLit();
  const shown = drawn.length > 1 ? drawn.filter(({ id }) => isLit(id, lit)) : [];
  if (!shown.length) return null;
  return (
    <svg className={css.lit} width={view.width} height={view.height} aria-hidden data-testid="lit">
      {shown.map(({ id, mesh, matrix }) => (
        <path key={id} d={frameOf(mesh, matrix, view)} />
      ))}
    </svg>
  );
}

function frameOf(mesh: BenchMesh, matrix: Matrix4, view: View): string {
  const { min, max } = boxOf(mesh).clone().applyMatrix4(matrix);
  const points = cornersOf({ low: min.toArray() as Vec3, high: max.toArray() as Vec3 }).map(view.project);
  const [left, right] = spanOf(points.map(([x]) => x));
  const [top, bottom] = spanOf(points.map(([, y]) => y));
  const corner = (x: number, y: number, dx: number, dy: number) => `M${x + dx * REACH} ${y}H${x}V${y + dy * REACH}`;
  return (
    corner(left, top, 1, 1) + corner(right, top, -1, 1) + corner(left, bottom, 1, -1) + corner(right, bottom, -1, -1)
  );
}

const spanOf = (values: number[]): [number, number] => [Math.min(...values) - GAP, Math.max(...values) + GAP];
