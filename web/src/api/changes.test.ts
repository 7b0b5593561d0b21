import { describe, expect, it } from "vitest";
import CASES_JSON from "./changes.cases.json";
import { applied, type Change } from "./changes";

/** Made by the server's own function, see tests/api/test_answers.py. */
const CASES = CASES_JSON as { says: string; old: unknown; new: unknown; change: Change }[];

describe("changes of an answer", () => {
  it.each(CASES)("make what the server has: $says", ({ old, new: wanted, change }) => {
    expect(applied(old, change)).toEqual(wanted);
  });

  it("leave alone what did not change", () => {
    const old = {
      bodies: [
        { id: "a", size: 1 },
        { id: "b", size: 2 },
      ],
      more: { x: 1 },
    };
    const made = applied(old, { set: { bodies: { set: { b: { set: { size: { is: 3 } } } } } } }) as typeof old;
    expect(made.bodies[0]).toBe(old.bodies[0]);
    expect(made.more).toBe(old.more);
    expect(made.bodies[1]).toEqual({ id: "b", size: 3 });
  });
});
