import { Columns } from "../../../blocks/Columns";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../../../api/client";
import type { JobHandle } from "../../../api/useJob";
import type { TallyView } from "../../../api/types";
import { Fold } from "../../../blocks/Fold";
import { rounded } from "../../../blocks/numbers";
import { sheetCss } from "../../../blocks/Sheet";
import { typedNumber } from "../../../blocks/typed";
import { TypedField } from "../../../blocks/TypedField";
import { sentence } from "../../../blocks/words";
import css from "./cost.module.css";
import { useCost, grams, metres, money } from "./costOf";

/** More plates than these are not listed one by one. */
const LISTED = 12;

/** What all plates take together, so many times, and when each is done if they are begun now. */
export function AllPlates({ handle }: { handle: JobHandle }) {
  const { view } = handle;
  const [times, makeTimes] = useState(1);
  const [machines, haveMachines] = useState(1);
  const told = useCost(view);
  const { data, error } = useQuery({
    queryKey: ["tally", view.id, view.number, times, machines],
    queryFn: () => api.tally(view.id, times, machines),
    placeholderData: (before) => before,
    enabled: !!told?.plates?.length,
  });
  if (!told?.plates?.length) return null;
  const whole = (set: (count: number) => void) => async (typed: string) => set(Math.round(typedNumber(typed)));
  return (
    <Fold
      title="All plates"
      name="seating-tally"
      says={`${told.approximate ? "≈ " : ""}${told.time}, ${grams(told.grams!)} g`}
    >
      <div className={css.line}>
        <span>made</span>
        <TypedField label="How often all plates are made" value={String(times)} width={52} commit={whole(makeTimes)} />
        <span>times, on</span>
        <TypedField label="Machines of each kind" value={String(machines)} width={52} commit={whole(haveMachines)} />
        <span>of each machine</span>
      </div>
      {error && (
        <p className={css.problem} role="alert">
          {error instanceof Problem ? sentence(error.line) : "It cannot be told"}
        </p>
      )}
      {data && <TallyTable data={data} />}
    </Fold>
  );
}

const CLOCK = new Intl.DateTimeFormat("en-GB", { weekday: "short", hour: "2-digit", minute: "2-digit" });

/** When something that ends so many seconds from now is done. */
const doneAt = (seconds: number) => CLOCK.format(new Date(Date.now() + 1000 * seconds));

function TallyTable({ data }: { data: TallyView }) {
  return (
    <>
      <table className={`${sheetCss.table} ${css.sets}`} aria-label="When plates are done">
        <Columns of={["Plate", "on", { numbers: "takes" }, { numbers: "done, begun now" }]} />
        <tbody>
          {data.plans.map((plan) =>
            plan.plates.slice(0, LISTED).map((plate, i) => (
              <tr key={`${plan.name} ${i}`}>
                <td>{plate.number}</td>
                <td>{plan.machines > 1 ? `${plan.name} ${plate.machine}` : plan.name}</td>
                <td className={`${sheetCss.r} number`}>{plate.says}</td>
                <td className={`${sheetCss.r} number`}>{doneAt(plate.end_s)}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
      <p className={sheetCss.text}>
        {data.plans.map((plan) => `${plan.name}: ${plan.says} of machine time, done in ${plan.done}`).join("; ")}.{" "}
        {data.materials
          .map(
            (row) =>
              `${row.name}: ${grams(row.grams)} g${row.strand_m ? `, ${metres(row.strand_m)} m` : ""}, ${rounded(row.spools, 2)} spools of 1 kg`,
          )
          .join("; ")}
        {data.cost > 0 && `; ${money(data.cost)} in all`}. {data.longest && sentence(data.longest)}
      </p>
    </>
  );
}
