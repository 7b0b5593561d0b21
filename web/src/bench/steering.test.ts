import { OrthographicCamera, Vector3 } from "three";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { describe, expect, it } from "vitest";
import { steer, steerOf } from "./steering";

function desk() {
  const eye = new OrthographicCamera(-10, 10, 10, -10);
  eye.up.set(0, 0, 1);
  eye.position.set(0, -20, 0);
  const target = new Vector3();
  const controls = { target, update: () => (eye.lookAt(target), eye.updateMatrixWorld()) } as unknown as OrbitControls;
  controls.update();
  return { eye, controls };
}

const at = (eye: OrthographicCamera) => eye.position.toArray().map((value) => Math.round(value * 1e3) / 1e3 + 0);

describe("the view by keyboard", () => {
  it("turns about what is looked at, and six steps are a quarter", () => {
    const { eye, controls } = desk();
    for (let step = 0; step < 6; step++) steer(eye, controls, steerOf("ArrowRight", false)!);
    expect(at(eye)).toEqual([20, 0, 0]);
    for (let step = 0; step < 9; step++) steer(eye, controls, steerOf("ArrowUp", false)!);
    expect(eye.position.z).toBeCloseTo(20, 3); // never over the top
    expect(eye.position.length()).toBeCloseTo(20, 6);
  });
  it("shifts eye and what is looked at together, and comes nearer", () => {
    const { eye, controls } = desk();
    steer(eye, controls, steerOf("ArrowRight", true)!);
    expect(at(eye)).toEqual([60, -20, 0]);
    expect(controls.target.toArray()).toEqual([60, 0, 0]);
    steer(eye, controls, steerOf("+", false)!);
    steer(eye, controls, steerOf("ArrowUp", true)!);
    expect(controls.target.z).toBeCloseTo(48, 6);
    expect(steerOf("x", false)).toBeNull();
  });
});
