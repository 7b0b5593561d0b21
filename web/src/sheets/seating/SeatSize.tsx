import type { SeatState, Vec3 } from "../../api/types";
import type { Ground } from "../../bench/Bench";
import { OverallDimensions } from "../../bench/Dimensions";
import { mm } from "../../blocks/numbers";

/** The size of the chosen seat as it stands, drawn in the bench. */
export function SeatSize({ ground, seat }: { ground: Ground; seat: SeatState }) {
  const { low, high } = seat.room!;
  const numerals = Object.fromEntries(
    (["x", "y", "z"] as const).map((axis, i) => [
      axis,
      { text: mm(high[i]! - low[i]!), label: axis, prefix: axis.toUpperCase() },
    ]),
  );
  return (
    <OverallDimensions ground={{ ...ground, box: { low: low as Vec3, high: high as Vec3 } }} numerals={numerals} />
  );
}
