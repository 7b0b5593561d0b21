import { describe, expect, it } from "vitest";
import { rangeOf, ticksOf } from "./lanes";

const lane = (low: number | null, high: number | null, wanted: number | null = null) => ({
  reading: "r",
  low,
  high,
  wanted,
  drives: true,
});

describe("lanes", () => {
  it("shows all ends and the factor in force, with room around", () => {
    const [low, high] = rangeOf({ factor: 1.2, lanes: [lane(0.9, 1.1, 1), lane(1, null)] });
    expect(low).toBeLessThan(0.9);
    expect(high).toBeGreaterThan(1.2);
    expect(high - low).toBeLessThan(0.5);
  });
  it("shows something around a window of no width, and never nothing or less", () => {
    const [low, high] = rangeOf({ factor: 0.001, lanes: [lane(0.001, 0.001, 0.001)] });
    expect(low).toBeGreaterThan(0);
    expect(high).toBeGreaterThan(low);
  });
  it("ticks round values within", () => {
    const ticks = ticksOf(0.9762, 0.9923);
    expect(ticks.map((tick) => tick.text)).toEqual(["0.980", "0.985", "0.990"]);
    expect(ticksOf(0.5, 40).length).toBeLessThan(8);
  });
});
