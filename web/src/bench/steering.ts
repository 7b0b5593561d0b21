import { Spherical, Vector3, type OrthographicCamera } from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

/** A step of the view by keyboard. */
export type Steer = { turn: [around: number, up: number] } | { shift: [right: number, up: number] } | { zoom: number };

const TURN = Math.PI / 12;
const SHIFT_PX = 60;
const ZOOM = 1.25;
const NEARLY_UPRIGHT = 1e-3;

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** What a key asks of the view, while the bench has the keys: arrows turn it, with Shift they shift it, + and − zoom. */
export function steerOf(key: string, shift: boolean): Steer | null {
  const arrow = ARROWS[key];
  if (arrow) return shift ? { shift: arrow } : { turn: arrow };
  if (key === "+" || key === "=") return { zoom: ZOOM };
  if (key === "-" || key === "−") return { zoom: 1 / ZOOM };
  return null;
}

/** Take a step: turned about what is looked at, shifted across the screen, or nearer. */
export function steer(eye: OrthographicCamera, controls: OrbitControls, step: Steer) {
  if ("zoom" in step) {
    eye.zoom *= step.zoom;
    eye.updateProjectionMatrix();
  } else if ("turn" in step) {
    // The job's z is up; three's spherical angles are about y.
    const away = eye.position.clone().sub(controls.target);
    const angles = new Spherical().setFromCartesianCoords(away.x, away.z, -away.y);
    angles.theta += step.turn[0] * TURN;
    angles.phi = Math.min(Math.PI - NEARLY_UPRIGHT, Math.max(NEARLY_UPRIGHT, angles.phi - step.turn[1] * TURN));
    const turned = new Vector3().setFromSpherical(angles);
    eye.position.copy(controls.target).add(new Vector3(turned.x, -turned.z, turned.y));
  } else {
    const px = SHIFT_PX / eye.zoom;
    const right = new Vector3().setFromMatrixColumn(eye.matrixWorld, 0);
    const up = new Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
    const move = right.multiplyScalar(step.shift[0] * px).addScaledVector(up, step.shift[1] * px);
    eye.position.add(move);
    controls.target.add(move);
  }
  controls.update();
}
