import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Arrival, ReceivingHabits, Unit } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { mm } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { sentence } from "../../blocks/words";
import css from "./ReleaseSheet.module.css";

const UNITS: [Unit, string][] = [
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
];
const USUAL: ReceivingHabits = {
  takes_for: "mm",
  heeds_unit: true,
  puts_down: false,
  centres: false,
  merges: false,
  enlarges: false,
  tiny_mm: 5,
};
const SWITCHES: [keyof ReceivingHabits, string][] = [
  ["heeds_unit", "heeds a unit that the file says"],
  ["puts_down", "puts every object down on the plate"],
  ["centres", "moves all of it to the middle"],
  ["merges", "makes one object of all"],
  ["enlarges", "enlarges what is under 5 mm"],
];

/** What a receiving end with some habits would make of a release, drawn beside what was meant. */
export function ReceivingEnd({ job, release }: { job: string; release: number }) {
  const [habits, set] = useState<ReceivingHabits>(USUAL);
  const { data, error } = useQuery({
    queryKey: ["receive", job, release, habits],
    queryFn: () => api.receive(job, release, habits),
    placeholderData: (before: Arrival | undefined) => before,
    staleTime: Infinity,
  });
  return (
    <>
      <div className={css.lines}>
        <span>takes bare numbers for</span>
        <Choice
          label="Takes bare numbers for"
          value={habits.takes_for!}
          options={UNITS}
          choose={(takes_for) => set({ ...habits, takes_for })}
          width={130}
        />
      </div>
      <div className={css.switches}>
        {SWITCHES.map(([name, says]) => (
          <Checkbox
            key={String(name)}
            label={says}
            checked={Boolean(habits[name])}
            onChange={(event) => set({ ...habits, [name]: event.target.checked })}
          />
        ))}
      </div>
      {!data && !error && <p className="soft">Reading it as such a program would.</p>}
      {error && <p className="stop">{sentence(error.message)}</p>}
      {data && <Beside arrival={data} />}
      {data?.surprises.map((surpris, i) => (
        <p key={i} className={css.mind} role="status">
          <span aria-hidden className={`${sheetCss.sign} ${sheetCss.stop} stop`} />
          <span>
            {surpris.file.endsWith(" files") && `${surpris.file}: `}
            {sentence([surpris.body, surpris.says].filter(Boolean).join(": "))}{" "}
            <span className="soft">{sentence(surpris.remedy)}</span>
          </span>
        </p>
      ))}
      {data && data.surprises.length === 0 && <p className={`settled ${css.fine}`}>It arrives as it was meant.</p>}
    </>
  );
}

const WIDE = 340,
  HIGH = 120;

/** From the front: what was meant as a dashed line, what arrives filled, each with its overall size. */
function Beside({ arrival }: { arrival: Arrival }) {
  const meant = arrival.objects.filter((object) => object.meant_low);
  if (!meant.length) return null;
  const lows = [...meant.map((one) => one.meant_low!), ...arrival.objects.map((object) => object.low)] as number[][];
  const highs = [...meant.map((one) => one.meant_high!), ...arrival.objects.map((object) => object.high)] as number[][];
  const x0 = Math.min(...lows.map((p) => p[0]!)),
    x1 = Math.max(...highs.map((p) => p[0]!));
  const z0 = Math.min(0, ...lows.map((p) => p[2]!)),
    z1 = Math.max(...highs.map((p) => p[2]!));
  const scale = Math.min((WIDE - 20) / Math.max(x1 - x0, 1e-9), (HIGH - 20) / Math.max(z1 - z0, 1e-9));
  const left = (WIDE - (x1 - x0) * scale) / 2;
  const box = (low: number[], high: number[]) => ({
    x: left + (low[0]! - x0) * scale,
    y: HIGH - 8 - (high[2]! - z0) * scale,
    width: Math.max(1, (high[0]! - low[0]!) * scale),
    height: Math.max(1, (high[2]! - low[2]!) * scale),
  });
  const size = (ends: [number[], number[]][]) =>
    [0, 1, 2]
      .map((k) => mm(Math.max(...ends.map(([, high]) => high[k]!)) - Math.min(...ends.map(([low]) => low[k]!))))
      .join(" × ");
  return (
    <figure className={css.beside}>
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} role="img" aria-label="What was meant, dashed, and what arrives">
        <line x1="4" x2={WIDE - 4} y1={HIGH - 8 + z0 * scale} y2={HIGH - 8 + z0 * scale} className={css.zero} />
        {arrival.objects.map((object, i) => (
          <rect key={i} {...box(object.low as number[], object.high as number[])} className={css.arrives} />
        ))}
        {meant.map((one, i) => (
          <rect key={i} {...box(one.meant_low as number[], one.meant_high as number[])} className={css.meant} />
        ))}
      </svg>
      <figcaption>
        <span>meant, dashed: {size(meant.map((one) => [one.meant_low as number[], one.meant_high as number[]]))}</span>
        <span>arrives: {size(arrival.objects.map((object) => [object.low as number[], object.high as number[]]))}</span>
      </figcaption>
    </figure>
  );
}
