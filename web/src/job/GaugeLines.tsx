import { GaugeDimensions, type GaugeLine } from "../bench/Dimensions";
import { useHovered } from "../bench/hovered";
import { mm } from "../blocks/numbers";
import { SIGNS } from "../sheets/truing/gauges";
import { readingsOf } from "../sheets/truing/readingsOf";
import { useDistance, type Picking } from "../sheets/truing/usePicking";
import type { DrawnProps } from "./OverallSizes";

const SETTLED = "var(--settled)";
const LOOK = "var(--look)";
const INK = "var(--ink)";

/** Readings as dimension lines, and the pair being picked. */
export function GaugeLines({
  handle,
  subject,
  ground,
  typed,
  picking,
  ratio,
}: DrawnProps & { picking: Picking | null }) {
  // With an axis held, what a gauge comes to meanwhile only the core can tell.
  const times = subject.decided.correction.held?.some(Boolean) ? 1 : ratio;
  const gauges: GaugeLine[] = readingsOf(handle.view, subject).flatMap((reading, i) => {
    const measured = subject.facts.readings.find((one) => one.id === reading.id);
    if (!measured?.ends) return [];
    const [a, b] = measured.ends;
    const angle = reading.gauge.kind === "angle";
    return [
      {
        key: reading.id,
        a: ground.place(reading.body, a!),
        b: ground.place(reading.gauge.other ?? reading.body, b!),
        around:
          reading.gauge.kind === "perimeter"
            ? reading.gauge.points!.map((point) => ground.place(reading.body, point))
            : undefined,
        within: ["diameter", "radius", "depth", "wall", "faces", "angle", "perimeter"].includes(reading.gauge.kind),
        numeral: {
          text: `${SIGNS[reading.gauge.kind] ?? ""}${mm(angle ? measured.model_mm : measured.model_mm * times)}${angle ? "°" : ""}`,
          full: String(Number(measured.model_mm.toPrecision(12))),
          label: `Reading ${i + 1}, in the bench`,
          prefix: `(${i + 1})`,
          colour: reading.real_mm == null && !measured.band ? INK : measured.met ? SETTLED : LOOK,
          commit:
            typed && !angle
              ? (text: string, again: boolean) =>
                  handle.act({ do: "set-reading", reading: reading.id, typed: text, sure: again })
              : undefined,
        },
      },
    ];
  });
  return (
    <>
      <GaugeDimensions ground={ground} gauges={gauges} />
      {picking && <PickedPair ground={ground} picking={picking} />}
    </>
  );
}

/** The dimension between the first place that was picked and the one under the pointer. */
function PickedPair({ ground, picking }: { ground: DrawnProps["ground"]; picking: Picking }) {
  const second = useHovered();
  const distance = useDistance(picking);
  const pair =
    picking.first && second && distance && picking.way.key === "points"
      ? [
          {
            key: "picking",
            a: picking.first.point,
            b: second.point,
            numeral: { text: mm(distance), label: "distance", colour: "var(--stop)" },
          },
        ]
      : [];
  return <GaugeDimensions ground={ground} gauges={pair} onBody />;
}
