import type { Vec3 } from "../api/types";
import css from "./Bench.module.css";
import type { Box, View } from "./view";

/** Names the front left corner of the plate, and which way X and Y run. */
export function PlateLetters({ view, volume }: { view: View; volume: Box }) {
  const [x, y, z] = volume.low;
  const size = Math.max(volume.high[0] - x, volume.high[1] - y);
  const marks: [Vec3, string][] = [
    [[x - size / 32, y - size / 32, z], "0"],
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
