import { Vector3, type OrthographicCamera } from "three";
import type { Vec3 } from "../api/types";

export type Point2 = [number, number];

/** A box along the bench's axes. */
export interface Box {
  low: Vec3;
  high: Vec3;
}

/** What the drawing over the bench needs to know of the camera. */
export interface View {
  width: number;
  height: number;
  /** Bench point to pixels, y down. */
  project: (point: Vec3) => Point2;
  /** How far, in pixels, one millimetre along a direction goes. */
  along: (direction: Vec3) => Point2;
}

export function viewOf(camera: OrthographicCamera, width: number, height: number): View {
  camera.updateMatrixWorld();
  const matrix = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse);
  const at = new Vector3();
  const project = (point: Vec3): Point2 => {
    at.set(...point).applyMatrix4(matrix);
    return [((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height];
  };
  const origin = project([0, 0, 0]);
  return {
    width,
    height,
    project,
    along: (direction) => {
      const tip = project(direction);
      return [tip[0] - origin[0], tip[1] - origin[1]];
    },
  };
}

export function cornersOf(box: Box): Vec3[] {
  const corners: Vec3[] = [];
  for (const x of [box.low[0], box.high[0]])
    for (const y of [box.low[1], box.high[1]]) for (const z of [box.low[2], box.high[2]]) corners.push([x, y, z]);
  return corners;
}

export const sub = (a: Point2, b: Point2): Point2 => [a[0] - b[0], a[1] - b[1]];
export const add = (a: Point2, b: Point2): Point2 => [a[0] + b[0], a[1] + b[1]];
export const times = (a: Point2, by: number): Point2 => [a[0] * by, a[1] * by];
export const length = (a: Point2): number => Math.hypot(a[0], a[1]);
export const cross = (a: Point2, b: Point2): number => a[0] * b[1] - a[1] * b[0];
export const dot = (a: Point2, b: Point2): number => a[0] * b[0] + a[1] * b[1];

/** The part of the bench that no block covers, in pixels; the body is framed within it. */
export interface Margins {
  top: number;
  right: number;
  bottom: number;
  left: number;
}
