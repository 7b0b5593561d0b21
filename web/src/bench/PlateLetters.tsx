import type { Vec3 } from "../api/types";
import css from "./Bench.module.css";
import type { View } from "./view";

/** Names the front left corner of the plate, and which way X and Y run. */
export function PlateLetters({ view, volume }: { view: View; volume: readonly number[] }) {
  const size = Math.max(...volume);
  const marks: [Vec3, string][] = [
    [[-size / 28, -size / 28, 0], "0"],
    [[size / 6, -size / 26, 0], "X"],
    [[-size / 26, size / 6, 0], "Y"],
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
