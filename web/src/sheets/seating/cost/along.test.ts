import { describe, expect, it } from "vitest";
import type { LayerPaths } from "../../../api/types";
import { upTo } from "./along";

const paths: LayerPaths = {
  number: 1,
  layers: 1,
  top_mm: 0.2,
  seconds: 4,
  says: "4 s",
  runs: [
    {
      kind: "outline",
      points: [
        [0, 0],
        [10, 0],
      ],
      seconds: 1,
    },
    {
      kind: "travel",
      points: [
        [10, 0],
        [10, 10],
      ],
      seconds: 1,
    },
    {
      kind: "infill",
      points: [
        [10, 10],
        [0, 10],
        [0, 0],
      ],
      seconds: 2,
    },
  ],
};

describe("the way through a layer", () => {
  it("is whole at its end", () => {
    expect(upTo(paths, 1)).toEqual({ paths, end: null });
  });
  it("ends where its time says", () => {
    const { paths: begun, end } = upTo(paths, 0.75);
    expect(end).toEqual([0, 10]);
    expect(begun.runs.map((run) => run.kind)).toEqual(["outline", "travel", "infill"]);
    expect(upTo(paths, 0.125).end).toEqual([5, 0]);
    expect(upTo(paths, 0).end).toEqual([0, 0]);
  });
});
