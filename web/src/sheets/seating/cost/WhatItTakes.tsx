import { Columns } from "../../../blocks/Columns";
import { api } from "../../../api/client";
import { tell, type JobHandle } from "../../../api/useJob";
import type { Estimate, PlateCost, TaskView } from "../../../api/types";
import { Press } from "../../../blocks/Press";
import { Head, sheetCss } from "../../../blocks/Sheet";
import { Working } from "../../../blocks/Working";
import type { Seating } from "../useSeating";
import { AfterPrinting } from "./AfterPrinting";
import { AllPlates } from "./AllPlates";
import { Budgets } from "./Budgets";
import css from "./cost.module.css";
import { useCost, grams, metres, money, usePlateCost } from "./costOf";
import { KindBar } from "./KindBar";
import { Prices } from "./Prices";
import { Settings } from "./Settings";
import { Speeds } from "./Speeds";
import { useBefore } from "./useBefore";

interface Props {
  handle: JobHandle;
  seating: Seating;
}

/** What a plate takes: time, grams, strand and money, in full along its paths or quickly; what changes them. */
export function WhatItTakes({ handle, seating }: Props) {
  const { view } = handle;
  const cost = usePlateCost(view, seating.plate.id);
  const told = useCost(view);
  const task = view.tasks.find(
    (one) => one.does === "estimate-plate" && (one.state === "waiting" || one.state === "doing"),
  );
  const before = useBefore(view, cost);
  const ask = () =>
    void handle.change((on) => api.task(view.id, on, { do: "estimate-plate", plate: seating.plate.id })).catch(tell);
  return (
    <section aria-label="What it takes">
      <Head title="What it takes">
        {cost && !cost.full && !task && cost.quick.layers > 0 && (
          <Press className="link" onClick={ask}>
            Work out along its paths
          </Press>
        )}
        {cost?.full && (
          <a
            className="link"
            href={`/api/jobs/${view.id}/plates/${seating.plate.id}/paths.gcode`}
            title="a stand-in: not for a real machine until its owner has looked it over"
            download
          >
            G-code, a stand-in
          </a>
        )}
      </Head>
      {told?.refused && <p className={css.problem}>{told.refused}</p>}
      {task && <WorkingOut view={view.id} task={task} />}
      {cost ? (
        <>
          <CostTable number={seating.number} cost={cost} before={before} />
          {cost.full && cost.full.by_kind!.length > 0 && <KindBar estimate={cost.full} />}
          {cost.quick.assumed && (
            <p className={sheetCss.text}>
              {seating.plate.machine.name} has no speeds of its own: these are taken to start with.
            </p>
          )}
        </>
      ) : (
        !told?.refused && <p className={sheetCss.text}>Nothing stands on this plate.</p>
      )}
      <Settings handle={handle} seating={seating} />
      <Speeds handle={handle} seating={seating} estimate={cost?.quick} />
      <Prices handle={handle} />
      <Budgets handle={handle} seating={seating} />
      <AllPlates handle={handle} />
      {cost && <AfterPrinting handle={handle} seating={seating} cost={cost} />}
    </section>
  );
}

/** How far the full estimate is, and the press that stops it. */
function WorkingOut({ view, task }: { view: string; task: TaskView }) {
  return (
    <>
      <Working task={task} />
      <p className={sheetCss.text}>
        <Press className="link" onClick={() => void api.stop(view, task.id)}>
          Stop
        </Press>
      </p>
    </>
  );
}

interface CostTableProps {
  number: number;
  cost: PlateCost;
  before: ReturnType<typeof useBefore>;
}

/** A row for each depth, and for what it was before the last change. */
function CostTable({ number, cost, before }: CostTableProps) {
  return (
    <table className={`${sheetCss.table} ${css.cost}`} aria-label="What the plate takes">
      <Columns
        of={[
          { unseen: "estimate" },
          { numbers: "time" },
          { numbers: "grams" },
          { numbers: "strand, m" },
          { numbers: "money" },
        ]}
      />
      <tbody>
        {cost.full && <CostRow says={`plate ${number}, along its paths`} time={cost.time} of={cost.full} strong />}
        <CostRow
          says={cost.full ? "quick, from sections" : `plate ${number}, quick`}
          time={`≈ ${cost.time_quick}`}
          of={cost.quick}
          strong={!cost.full}
        />
        {before && <CostRow says={`before “${before.change}”, quick`} time={`≈ ${before.time}`} of={before.estimate} />}
      </tbody>
    </table>
  );
}

interface CostRowProps {
  says: string;
  time: string;
  of: Estimate;
  strong?: boolean;
}

function CostRow({ says, time, of, strong = false }: CostRowProps) {
  return (
    <tr className={strong ? css.strong : "soft"}>
      <td>{says}</td>
      <td className={`${sheetCss.r} number`}>{time}</td>
      <td className={`${sheetCss.r} number`}>{grams(of.grams)}</td>
      <td className={`${sheetCss.r} number`}>{of.strand_m ? metres(of.strand_m) : "–"}</td>
      <td className={`${sheetCss.r} number`}>{money(of.cost)}</td>
    </tr>
  );
}
