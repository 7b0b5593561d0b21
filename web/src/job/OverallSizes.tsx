import type { JobHandle } from "../api/useJob";
import type { Vec3 } from "../api/types";
import type { Ground } from "../bench/Bench";
import { OverallDimensions } from "../bench/Dimensions";
import { fileNumber, mm } from "../blocks/numbers";
import { dragged } from "./dragging";
import type { Subject } from "./subject";

/** What is drawn of a subject in the bench. */
export interface DrawnProps {
  handle: JobHandle;
  subject: Subject;
  ground: Ground;
  typed: boolean;
  /** The factor is dragged: how many times its value. */
  ratio: number;
}

/** Overall dimensions: numbers of the file while the unit is open, else mm, typed on Truing. */
export function OverallSizes({
  handle,
  subject,
  ground,
  whole,
  typed,
  seated,
  ratio,
}: DrawnProps & { seated: boolean; whole: boolean }) {
  const { facts } = subject;
  const numerals = Object.fromEntries(
    (["x", "y", "z"] as const).map((axis, i) => {
      const along = facts.chain?.size_mm[i];
      if (along === undefined)
        return [
          axis,
          { text: fileNumber(facts.numbers?.[i] ?? 0), label: axis, prefix: axis.toUpperCase(), suffix: "?" },
        ];
      const size =
        seated && facts.room ? facts.room.high[i]! - facts.room.low[i]! : along * dragged(subject.decided, ratio)[i]!;
      return [
        axis,
        {
          text: mm(size),
          full: String(Number(size.toPrecision(12))),
          label: `Size along ${axis.toUpperCase()}, in the bench`,
          prefix: axis.toUpperCase(),
          commit: typed
            ? (text: string) => handle.act({ do: "size-axis", body: subject.key, axis, typed: text })
            : undefined,
        },
      ];
    }),
  );
  // Of one body among several the box is its own.
  return <OverallDimensions ground={whole ? ground : groundOfOne(ground, subject, seated)} numerals={numerals} />;
}

function groundOfOne(ground: Ground, subject: Subject, seated: boolean): Ground {
  const room = subject.facts.room;
  if (seated && room) return { ...ground, box: { low: room.low as Vec3, high: room.high as Vec3 } };
  const ends = subject.bodies.flatMap((body) => [ground.place(body.id, body.low), ground.place(body.id, body.high)]);
  const along = (pick: (...values: number[]) => number) =>
    [0, 1, 2].map((i) => pick(...ends.map((end) => end[i]!))) as Vec3;
  return { ...ground, box: { low: along(Math.min), high: along(Math.max) } };
}
