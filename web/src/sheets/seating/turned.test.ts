import { expect, test } from "vitest";
import { turnedAbout } from "./turned";
import { snapped } from "./useHand";

test("an outline turned by a quarter keeps the middle of its bounds", () => {
  const bar = [
    [
      [10, 10],
      [40, 10],
      [40, 20],
      [10, 20],
      [10, 10],
    ],
  ];
  const xs = turnedAbout(bar, 90)
    .flat()
    .map(([x]) => x!);
  const ys = turnedAbout(bar, 90)
    .flat()
    .map(([, y]) => y!);
  expect(
    [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)].map((v) => Math.round(v * 1e6) / 1e6),
  ).toEqual([20, 30, 0, 30]);
});

test("so does one that has no symmetry", () => {
  const wedge = [
    [
      [0, 0],
      [30, 0],
      [0, 10],
      [0, 0],
    ],
  ];
  const xs = turnedAbout(wedge, 30)
    .flat()
    .map(([x]) => x!);
  expect((Math.min(...xs) + Math.max(...xs)) / 2).toBeCloseTo(15, 9);
});

test("an angle holds at the marks, or to a tenth of a degree, the shorter way round", () => {
  expect([snapped(52, true), snapped(52.04, false), snapped(350, true), snapped(-190, true)]).toEqual([
    45, 52, -15, 165,
  ]);
});
