import type { Vec3 } from "../api/types";
import css from "./Bench.module.css";
import type { Box, View } from "./view";

/** Names the front left corner of the plate, and which way X and Y run. */
export function PlateLetters({ view, volume }: { view: View; volume: Box }) {
  const [x, y, z] = volume.low;
  const size = Math.max(...volume.high.map((high, i) => high - volume.low[i]!));
  const marks: [Vec3, string][] = [
    [[x - size / 28, y - size / 28, z], "0"],
    [[x + size / 6, y - size / 26, z], "X"],
    [[x - size / 26, y + size / 6, z], "Y"],
  ];
  return (
    <>
      {marks.map(([point, says]) => {
        const [left, top] = view.project(point);
        return (
          <span key={says} className={css.letter} style={{ left, top }}>
            {says}
          </span>
        );
      })}
    </>
  );
}
