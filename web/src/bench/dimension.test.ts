import { OrthographicCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Vec3 } from "../api/types";
import { gaugeDimensions, overallDimension, tick } from "./dimension";
import { placed } from "./mesh";
import { isInked, parseBench } from "./meshData";
import { cornersOf, cross, length, sub, viewOf, type Box, type View } from "./view";

const BOX: Box = { low: [-50, -20, -10], high: [50, 20, 10] };

function seen(from: Vec3): View {
  const camera = new OrthographicCamera(-200, 200, 150, -150, 0, 2000);
  camera.up.set(0, 0, 1);
  camera.position.copy(new Vector3(...from).normalize().multiplyScalar(500));
  camera.lookAt(0, 0, 0);
  camera.updateProjectionMatrix();
  return viewOf(camera, 800, 600);
}

describe("overall dimensions", () => {
  const oblique = seen([-0.55, -1, 0.62]);
  it.each(["x", "y", "z"] as const)("lie outside the body along %s and are as long as it", (axis) => {
    const laid = overallDimension(axis, BOX, oblique, 34)!;
    const run = sub(laid.line[1], laid.line[0]);
    const sides = cornersOf(BOX).map((corner) => cross(run, sub(oblique.project(corner), laid.line[0])) / length(run));
    const clear = Math.min(...sides) > 30 || Math.max(...sides) < -30;
    expect(clear).toBe(true);
    const index = "xyz".indexOf(axis);
    const along: Vec3 = [0, 0, 0];
    along[index] = BOX.high[index]! - BOX.low[index]!;
    expect(length(run)).toBeCloseTo(length(oblique.along(along)), 3);
  });
  it("are left out when their axis is seen end-on", () => {
    const front = seen([0, -1, 0]);
    expect(overallDimension("y", BOX, front, 34)).toBeNull();
    expect(overallDimension("x", BOX, front, 34)).not.toBeNull();
  });
});

describe("gauge dimensions", () => {
  it("clear the outline on both sides, the shorter way first", () => {
    const outline: [number, number][] = [
      [100, 100],
      [300, 100],
      [300, 200],
      [100, 200],
    ];
    const [first, second] = gaugeDimensions([100, 110], [300, 110], outline, 0);
    expect(first!.line[0][1]).toBeLessThan(100);
    expect(second!.line[0][1]).toBeGreaterThan(200);
    expect(gaugeDimensions([100, 100], [101, 100], outline, 0)).toEqual([]);
  });
  it("end in strokes across the line", () => {
    const [a, b] = tick(
      [10, 10],
      [
        [0, 10],
        [20, 10],
      ],
    );
    expect(length(sub(a, b))).toBeCloseTo(10 * Math.SQRT2);
  });
});

describe("the mesh for drawing", () => {
  const data = new ArrayBuffer(40 + 36 + 12 + 8);
  const head = new DataView(data);
  [..."ATB1"].forEach((char, i) => head.setUint8(i, char.charCodeAt(0)));
  [3, 1, 1].forEach((value, i) => head.setUint32(4 + 4 * i, value, true));
  [1000, 0, 0].forEach((value, i) => head.setFloat64(16 + 8 * i, value, true));
  new Float32Array(data, 40, 9).set([0, 0, 0, 1, 0, 0, 0, 1, 0]);
  new Uint32Array(data, 76, 3).set([0, 1, 2]);
  new Uint32Array(data, 88, 2).set([0, 1]);

  it("is read as it was written", () => {
    const mesh = parseBench(data);
    expect([mesh.vertices, mesh.triangles, mesh.origin]).toEqual([3, 1, [1000, 0, 0]]);
    expect(isInked(mesh, 0, 1)).toBe(true);
    expect(isInked(mesh, 0, 0)).toBe(false);
    expect(() => parseBench(new ArrayBuffer(40))).toThrow();
  });
  it("is placed with its origin, in double precision", () => {
    const rows: [Vec3, Vec3, Vec3] = [
      [25.4, 0, 0],
      [0, 25.4, 0],
      [0, 0, 25.4],
    ];
    const matrix = placed(
      parseBench(data),
      { true: rows, true_shift: [0, 0, 0], seated: rows, seated_shift: [1, 2, 3] },
      "true",
      [25400, 0, 0],
    );
    expect(new Vector3(1, 0, 0).applyMatrix4(matrix).toArray()).toEqual([25.4, 0, 0]);
  });
});
