import { expect, test } from "vitest";
import type { BodySurvey } from "../../api/types";
import { middleOf, movedApart } from "./apart";

const facts = {
  placement: {
    true: [
      [2, 0, 0],
      [0, 0, -2],
      [0, 2, 0],
    ],
    true_shift: [1, 2, 3],
  },
} as unknown as BodySurvey;

test("the middle of a body goes through its placement", () => {
  expect(middleOf(facts, [0, 0, 0], [2, 4, 6])).toEqual([3, -4, 7]);
});

test("a piece is moved away from the middle of all, and not at all when they are together", () => {
  expect(movedApart(facts, [0, 0, 0], [4, 0, -2], 0.5).placement.true_shift).toEqual([3, 2, 2]);
  expect(movedApart(facts, [0, 0, 0], [4, 0, -2], 0).placement.true_shift).toEqual([1, 2, 3]);
});
