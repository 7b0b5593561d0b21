import { Columns } from "../../blocks/Columns";
import { Press } from "../../blocks/Press";
import { type ChainRow, chainRows } from "../../blocks/chainRows";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { CalibrationView, Vec3 } from "../../api/types";
import { mm, signed } from "../../blocks/numbers";
import { Fold } from "../../blocks/Fold";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import type { Subject } from "../../job/subject";
import { MaterialRows, percentOf, type Three } from "./MaterialRows";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  subject: Subject;
}

const AXES = ["x", "y", "z"] as const;

/** What was typed for one axis; the others stay as they are. */
type OneOfThree = [string | null, string | null, string | null];
const only = (i: number, typed: string) => [0, 1, 2].map((k) => (k === i ? typed : null)) as OneOfThree;

/** What is added on purpose: shrinkage of the material, clearance of the body, and where they come from. */
export function Allowance({ handle, subject }: Props) {
  const { body, key, facts } = subject;
  const { shrinkage } = subject.decided;
  const percent = shrinkage.shares!.map(percentOf) as Three;
  const lengths = body.clearance!.mm!.map(String) as Three;
  const added = facts.chain!.allowed;
  const allowance = (change: {
    shrinkage?: OneOfThree;
    clearance?: OneOfThree;
    of_material?: boolean;
    says?: string;
    sure?: boolean;
  }) =>
    ({
      do: "set-allowance",
      body: key,
      shrinkage: null,
      clearance: null,
      of_material: null,
      says: "",
      sure: false,
      ...change,
    }) as const;
  const set = (change: Parameters<typeof allowance>[0]) => handle.act(allowance(change));
  return (
    <Fold
      title="Allowance"
      says={added ? shrinkage.says || "on top of the correction" : "none"}
      name="allowance"
      open={added}
    >
      <table className={sheetCss.table}>
        <Columns
          of={[
            "Axis",
            { numbers: "shrinkage, %" },
            { numbers: "clearance added, mm" },
            { numbers: "adds" },
            { numbers: "released" },
          ]}
        />
        <tbody>
          {chainRows(facts.chain!).map((row, i) => (
            <AllowanceRow key={row.axis} row={row} percent={percent} i={i} set={set} lengths={lengths} />
          ))}
        </tbody>
      </table>
      <p className={css.hint}>
        What is added is exact on the outside of prismatic and turned parts: the overall size changes by it, and what
        lies within in proportion. For a bore, give its reading a clearance instead.
      </p>
      <MaterialRows handle={handle} follows={shrinkage.of_material!} follow={(on) => set({ of_material: on })} />
      <Calibrations
        handle={handle}
        take={({ found }) => handle.act({ do: "take-calibration", body: subject.key, found, says: "" })}
      />
    </Fold>
  );
}

interface AllowanceRowProps {
  row: ChainRow;
  percent: Three;
  i: number;
  set: (change: {
    shrinkage?: OneOfThree;
    clearance?: OneOfThree;
    of_material?: boolean;
    says?: string;
    sure?: boolean;
  }) => Promise<unknown>;
  lengths: Three;
}

/** What is added along one axis. */
function AllowanceRow({ row, percent, i, set, lengths }: AllowanceRowProps) {
  return (
    <tr>
      <td className={css.axis}>{row.axis.toUpperCase()}</td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Shrinkage along ${row.axis.toUpperCase()}`}
          value={percent[i]!}
          width={70}
          commit={(typed, sure) => set({ shrinkage: only(i, typed), sure })}
        />
      </td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Clearance added along ${row.axis.toUpperCase()}`}
          value={lengths[i]!}
          width={70}
          commit={(typed, sure) => set({ clearance: only(i, typed), sure })}
        />
      </td>
      <td className={`${sheetCss.r} number`}>{signed(row.allowance_mm)}</td>
      <td className={`${sheetCss.r} number`}>{mm(row.released_mm)}</td>
    </tr>
  );
}

/** Calibrations that are kept, of machines and materials. */
function Calibrations({
  handle,
  take,
}: {
  handle: JobHandle;
  take: (calibration: CalibrationView) => Promise<unknown>;
}) {
  const cache = useQueryClient();
  const { data } = useQuery({ queryKey: ["calibrations"], queryFn: api.calibrations });
  const again = () => void cache.invalidateQueries({ queryKey: ["calibrations"] });
  return (
    <>
      {data?.map((one) => (
        <div key={one.id} className={css.row} data-testid="calibration">
          <span>
            {one.found.machine}, {one.found.material}
            <small className={css.under}>{shares(one)}</small>
          </span>
          <span className={css.asides}>
            <Press className="link" onClick={() => void take(one).catch(tell)}>
              Take
            </Press>
            <Press
              className={css.remove}
              aria-label="Remove calibration"
              onClick={() => void api.forget(one.id).then(again, tell)}
            >
              ×
            </Press>
          </span>
        </div>
      ))}
      <Calibrate machine={handle.view.survey.machine.name} material={handle.view.job.material!.name!} done={again} />
    </>
  );
}

function shares(one: CalibrationView): string {
  const { shrinkage, uncertainty } = one.found;
  return AXES.map(
    (axis, i) =>
      `${axis.toUpperCase()} ${(100 * (shrinkage as Vec3)[i]!).toFixed(2)} ±${(100 * (uncertainty as Vec3)[i]!).toFixed(2)} %`,
  ).join(", ");
}

/** Nominal and measured sizes of a printed test part, an axis a row. */
function Calibrate({ machine, material, done }: { machine: string; material: string; done: () => void }) {
  const [rows, setRows] = useState(AXES.map((axis) => ({ axis, nominal: "", measured: "" })));
  const full = rows.filter((row) => row.nominal && row.measured);
  const put = (i: number, field: "nominal" | "measured") => (text: string) => {
    setRows((now) => now.map((row, k) => (k === i ? { ...row, [field]: text.trim() } : row)));
    return Promise.resolve();
  };
  const keep = () =>
    api
      .calibrate({ machine, material, pairs: full, fineness: "0.05" })
      .then(() => {
        setRows(AXES.map((axis) => ({ axis, nominal: "", measured: "" })));
        done();
      })
      .catch(tell);
  return (
    <Fold title="Calibrate from a printed test part" name="calibrate">
      {rows.map((row, i) => (
        <div key={row.axis} className={css.row}>
          <span className={css.axis}>{row.axis.toUpperCase()}</span>
          <span className={css.pair}>
            nominal{" "}
            <TypedField
              label={`Nominal along ${row.axis.toUpperCase()}`}
              value={row.nominal}
              placeholder="100"
              width={76}
              commit={put(i, "nominal")}
            />
          </span>
          <span className={css.pair}>
            measured{" "}
            <TypedField
              label={`Measured along ${row.axis.toUpperCase()}`}
              value={row.measured}
              placeholder="99.6"
              width={76}
              commit={put(i, "measured")}
            />
          </span>
        </div>
      ))}
      <div className={css.row}>
        <span className="soft">
          for {machine}, {material}; kept for every job
        </span>
        <Press
          look="box"
          why={!full.length && "type what was released and what was measured along one axis at least"}
          onClick={keep}
        >
          Keep
        </Press>
      </div>
    </Fold>
  );
}
