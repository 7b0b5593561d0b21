import { expect, test } from "vitest";
import { movedBy, parted, typedText, without, type PlaneShown } from "./planes";

const shown = (normal: number[], at_mm: number) => ({ normal, at_mm }) as PlaneShown;

test("a plane is taken apart and put together as it was typed", () => {
  for (const text of ["z=96", "0,0.5,1 @ 40", "z=12 from low tilted 15 about x and -3 about y where above A, below B"])
    expect(typedText(parted(text))).toBe(text);
  expect(typedText({ place: "z=3", tilts: { x: "0", y: " " }, where: "" })).toBe("z=3");
});

test("a plane is moved along its normal by what was typed of it", () => {
  const [low, high] = [[0, 0, 0] as [number, number, number], [40, 30, 20] as [number, number, number]];
  expect(movedBy(parted("z=3"), shown([0, 0, 1], 3), 2.5, low, high).place).toBe("z=5.5");
  const [sin, cos] = [Math.sin(Math.PI / 6), Math.cos(Math.PI / 6)];
  const tilted = movedBy(parted("z=10 tilted 30 about x"), shown([0, -sin, cos], -15 * sin + 10 * cos), cos, low, high);
  expect(typedText(tilted)).toBe("z=11 tilted 30 about x");
  expect(movedBy(parted("0,0.6,0.8 @ 20"), shown([0, 0.6, 0.8], 20), -1, low, high).place).toBe("0,0.6,0.8 @ 19");
});

test("a plane that goes limits nothing any more, and letters move up", () => {
  const left = without(["z=1", "z=2", "x=3 where above A, below B", "y=1 where above B, below C"].map(parted), 1);
  expect(left.map(typedText)).toEqual(["z=1", "x=3 where above A", "y=1 where below B"]);
});
