import { Columns } from "../../../blocks/Columns";
import { useRef, useState } from "react";
import type { JobHandle } from "../../../api/useJob";
import type { InspectionRow, InspectionView } from "../../../api/types";
import { Choice } from "../../../blocks/Choice";
import { rounded } from "../../../blocks/numbers";
import { sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import { CaliperStandIn } from "../../../job/CaliperStandIn";
import css from "../Fit.module.css";

const FEW = 18;
const ALL = "";

/** A row for each size of a printed part; Enter goes to the next, as a caliper that types wants it. */
export function MeasuredRows({ handle, data, part }: { handle: JobHandle; data: InspectionView; part: string }) {
  const bodies = [...new Map(data.rows.map((row) => [row.body_id, row.body] as const))];
  const [chosen, choose] = useState(data.rows.length > FEW ? (bodies[0]?.[0] ?? ALL) : ALL);
  const rows = data.rows.filter((row) => chosen === ALL || row.body_id === chosen);
  const fields = useRef(new Map<string, HTMLInputElement>());
  const [at, go] = useState(0);
  const next = (i: number) => fields.current.get(rows[Math.min(i + 1, rows.length - 1)]!.key)?.focus();
  const measure = (row: InspectionRow, typed: string) =>
    handle.act({ do: "measure-part", part, target: row.target, typed });
  const target = rows[Math.min(at, rows.length - 1)];
  return (
    <>
      {bodies.length > 1 && (
        <div className={css.band}>
          <span>sizes of</span>
          <Choice
            label="Sizes of which body"
            value={chosen}
            options={[[ALL, "all bodies"], ...bodies]}
            width={180}
            choose={choose}
          />
        </div>
      )}
      <table className={`${sheetCss.table} ${css.must}`} aria-label="Sizes of the printed part">
        <Columns of={["Size", { numbers: "is to be" }, { numbers: "measured" }, { numbers: "off" }]} />
        <tbody>
          {rows.map((row, i) => (
            <SizeRow
              key={row.key}
              row={row}
              part={part}
              measure={(typed) => measure(row, typed)}
              field={(input) => (input ? fields.current.set(row.key, input) : fields.current.delete(row.key))}
              focused={() => go(i)}
              entered={() => next(i)}
            />
          ))}
        </tbody>
      </table>
      {target && (
        <CaliperStandIn
          target={target.what}
          model={target.expected_mm ?? target.aim_mm}
          take={(typed) => measure(target, typed)}
          done={() => go(Math.min(at + 1, rows.length - 1))}
        />
      )}
    </>
  );
}

interface RowProps {
  row: InspectionRow;
  part: string;
  measure: (typed: string) => Promise<unknown>;
  field: (input: HTMLInputElement | null) => void;
  focused: () => void;
  entered: () => void;
}

function SizeRow({ row, part, measure, field, focused, entered }: RowProps) {
  const input = useRef<HTMLInputElement>(null);
  const value = row.values.find((one) => one.part === part);
  return (
    <tr
      ref={() => {
        field(input.current);
        return () => field(null);
      }}
    >
      <td>
        {row.what}
        <small>
          {row.body}
          {row.expected_mm !== null &&
            `; expected ${rounded(row.expected_mm!, 2)} ± ${rounded(row.expected_off_mm ?? 0, 2)}`}
        </small>
      </td>
      <td className={`${sheetCss.r} number`}>
        {rounded(row.aim_mm, 2)}
        <small>{bandOf(row)}</small>
      </td>
      <td className={sheetCss.r}>
        <TypedField
          label={`${row.what} of ${row.body}, measured`}
          value={value?.typed ?? ""}
          width={76}
          inputRef={input}
          commit={measure}
          focused={focused}
          entered={entered}
        />
      </td>
      <td className={`${sheetCss.r} number ${value ? (value.within ? "settled" : "look") : ""}`}>
        {value ? rounded(value.mm - row.aim_mm, 2).replace("-", "−") : ""}
        {value && !value.within && <small>out</small>}
      </td>
    </tr>
  );
}

/** What is good, as a draughtsman writes it. */
export function bandOf({ aim_mm, low_mm, high_mm }: InspectionRow): string {
  if (low_mm === null) return `at most ${rounded(high_mm!, 2)}`;
  if (high_mm === null) return `at least ${rounded(low_mm!, 2)}`;
  const [above, below] = [high_mm! - aim_mm, aim_mm - low_mm!];
  return Math.abs(above - below) < 1e-6
    ? `± ${rounded(above, 2)}`
    : `${rounded(low_mm!, 2)} to ${rounded(high_mm!, 2)}`;
}
