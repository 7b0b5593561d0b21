import { Raycaster, Vector2, Vector3, Matrix4, type Mesh, type OrthographicCamera } from "three";
import { MeshBVH, acceleratedRaycast } from "three-mesh-bvh";
import type { Anchor, Vec3 } from "../api/types";
import { isInked, type BenchMesh } from "./meshData";
import type { Point2, View } from "./view";

/** A place under the pointer: the body, the anchor for the server, and where it is on the bench. */
export interface Pick {
  body: string;
  anchor: Anchor;
  point: Vec3;
}

const VERTEX_REACH = 11;
const EDGE_REACH = 8;
/** Where to look when the pointer just misses the body: edges are thin. */
const AROUND: Point2[] = [
  [0, 0],
  ...[4, 8].flatMap((radius) =>
    Array.from({ length: 8 }, (_, i): Point2 => [
      radius * Math.cos((i * Math.PI) / 4),
      radius * Math.sin((i * Math.PI) / 4),
    ]),
  ),
];

/** Let rays be cast by the search tree, which is built here where no worker has done it. Copies share a geometry. */
export function makeSearchable(mesh: Mesh): void {
  mesh.raycast = acceleratedRaycast;
  // Indirect: the order of faces must stay, face numbers are those of the server.
  mesh.geometry.boundsTree ??= new MeshBVH(mesh.geometry, { indirect: true });
}

/** A drawn body that can be picked on. */
export interface Target {
  body: string;
  mesh: Mesh;
  data: BenchMesh;
}

/** Find the place under a pixel: a vertex when near one, else an inked edge, else the surface. */
export function pickAt(pixel: Point2, targets: Target[], camera: OrthographicCamera, view: View): Pick | null {
  for (const { mesh } of targets) makeSearchable(mesh);
  for (const [dx, dy] of AROUND) {
    const hit = firstHit([pixel[0] + dx, pixel[1] + dy], targets, camera, view);
    if (hit)
      return {
        body: hit.target.body,
        ...snapped(pixel, hit.face, hit.local, hit.target.mesh.matrixWorld, hit.target.data, view),
      };
  }
  return null;
}

/** Find the body under a pixel. */
export function bodyAt(pixel: Point2, targets: Target[], camera: OrthographicCamera, view: View): string | null {
  return firstHit(pixel, targets, camera, view)?.target.body ?? null;
}

function firstHit(pixel: Point2, targets: Target[], camera: OrthographicCamera, view: View) {
  const caster = new Raycaster();
  (caster as Raycaster & { firstHitOnly: boolean }).firstHitOnly = true;
  caster.setFromCamera(new Vector2((pixel[0] / view.width) * 2 - 1, 1 - (pixel[1] / view.height) * 2), camera);
  const hit = caster.intersectObjects(
    targets.map((one) => one.mesh),
    false,
  )[0];
  const target = targets.find((one) => one.mesh === hit?.object);
  if (!hit || !target || hit.faceIndex == null) return null;
  return {
    target,
    face: hit.faceIndex,
    local: hit.point.clone().applyMatrix4(target.mesh.matrixWorld.clone().invert()),
  };
}

function snapped(
  pixel: Point2,
  face: number,
  local: Vector3,
  world: Matrix4,
  data: BenchMesh,
  view: View,
): Omit<Pick, "body"> {
  const index = data.surface.index!;
  const ids = [0, 1, 2].map((k) => index.getX(face * 3 + k)) as Vec3;
  const corners = ids.map((id) => new Vector3().fromBufferAttribute(data.surface.attributes.position as never, id));
  const onScreen = corners.map((corner) => view.project(corner.clone().applyMatrix4(world).toArray() as Vec3));

  const near = onScreen.map((at) => Math.hypot(at[0] - pixel[0], at[1] - pixel[1]));
  const closest = near.indexOf(Math.min(...near));
  if (near[closest]! <= VERTEX_REACH) {
    const weights: Vec3 = [0, 0, 0];
    weights[closest] = 1;
    return placeOf(face, weights, "vertex", corners, world);
  }
  const edge = nearestEdge(pixel, ids, onScreen, data);
  if (edge) {
    const weights: Vec3 = [0, 0, 0];
    weights[edge.from] = 1 - edge.share;
    weights[edge.to] = edge.share;
    return placeOf(face, weights, edge.share === 0.5 ? "middle" : "edge", corners, world);
  }
  return placeOf(face, barycentric(local, corners), "surface", corners, world);
}

function nearestEdge(pixel: Point2, ids: Vec3, onScreen: Point2[], data: BenchMesh) {
  let best: { from: number; to: number; share: number; far: number } | null = null;
  for (const [from, to] of [
    [0, 1],
    [1, 2],
    [2, 0],
  ] as Point2[]) {
    if (!isInked(data, ids[from]!, ids[to]!)) continue;
    const [a, b] = [onScreen[from]!, onScreen[to]!];
    const run: Point2 = [b[0] - a[0], b[1] - a[1]];
    const size = run[0] ** 2 + run[1] ** 2;
    if (size === 0) continue;
    const along = Math.min(1, Math.max(0, ((pixel[0] - a[0]) * run[0] + (pixel[1] - a[1]) * run[1]) / size));
    // Near its middle an edge holds there.
    const share = Math.abs(along - 0.5) * Math.sqrt(size) <= VERTEX_REACH ? 0.5 : along;
    const far = Math.hypot(a[0] + run[0] * share - pixel[0], a[1] + run[1] * share - pixel[1]);
    if (far <= EDGE_REACH && (!best || far < best.far)) best = { from, to, share, far };
  }
  return best;
}

function barycentric(point: Vector3, corners: Vector3[]): Vec3 {
  const [a, b, c] = corners as [Vector3, Vector3, Vector3];
  const [u, v, w] = [b.clone().sub(a), c.clone().sub(a), point.clone().sub(a)];
  const [uu, uv, vv, wu, wv] = [u.dot(u), u.dot(v), v.dot(v), w.dot(u), w.dot(v)];
  const scale = uu * vv - uv * uv;
  const [s, t] = [(vv * wu - uv * wv) / scale, (uu * wv - uv * wu) / scale];
  return [1 - s - t, s, t];
}

function placeOf(
  face: number,
  weights: Vec3,
  on: Anchor["on"],
  corners: Vector3[],
  world: Matrix4,
): Omit<Pick, "body"> {
  const point = new Vector3();
  corners.forEach((corner, i) => point.addScaledVector(corner, weights[i]!));
  return { anchor: { face, weights, on }, point: point.applyMatrix4(world).toArray() as Vec3 };
}
