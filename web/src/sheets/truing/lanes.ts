import type { ReadingsVerdict } from "../../api/types";

/** The factors that lanes show: all their ends and the factor in force, with some room around. */
export function rangeOf(truth: Pick<ReadingsVerdict, "lanes" | "factor">): [number, number] {
  const ends = truth.lanes
    .flatMap((lane) => [lane.low, lane.high, lane.wanted])
    .filter((value): value is number => value != null);
  const [least, most] = [Math.min(truth.factor, ...ends), Math.max(truth.factor, ...ends)];
  // A window of a hair's breadth still wants to be seen around.
  const room = Math.max((most - least) * 0.12, truth.factor * 0.002);
  return [Math.max(least - room, 1e-9), most + room];
}

/** A few round values between two factors. */
export function ticksOf(low: number, high: number): { value: number; text: string }[] {
  const rough = (high - low) / 4;
  const ten = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((times) => times * ten).find((size) => size >= rough)!;
  const digits = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const first = Math.ceil(low / step);
  const count = Math.floor(high / step) - first + 1;
  return Array.from({ length: Math.max(0, count) }, (_, i) => {
    const value = (first + i) * step;
    return { value, text: value.toFixed(digits) };
  });
}
