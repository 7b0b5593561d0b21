import { expect, test } from "vitest";
import { Problem } from "../api/client";
import cases from "./typed.cases.json";
import { typedNumber } from "./typed";

test.each(cases)("“$typed” is read as the core reads it", ({ typed, reads }) => {
  if (reads === null) expect(() => typedNumber(typed)).toThrow(Problem);
  else expect(typedNumber(typed)).toBe(reads);
});

test("a unit that the field names may stand behind the number", () => {
  expect(typedNumber("12,5 mm", "mm")).toBe(12.5);
  expect(typedNumber("45°", "°")).toBe(45);
  expect(() => typedNumber("5 in", "mm")).toThrow(Problem);
});
