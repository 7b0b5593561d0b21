import { Columns } from "../../blocks/Columns";
import type { Requirement } from "../../api/types";
import { sheetCss } from "../../blocks/Sheet";
import css from "./Fit.module.css";
import { MARKS } from "./words";

/** What must hold beside pairs: kept bores, bodies as drawn, least walls and the machine, before and after. */
export function MustHold({ rows }: { rows: Requirement[] }) {
  if (!rows.length) return null;
  return (
    <table className={`${sheetCss.table} ${css.must}`} aria-label="What else must hold">
      <Columns of={["What", { numbers: "drawn" }, { numbers: "now" }, { unseen: "whether it holds" }]} />
      <tbody>
        {rows.map((row, i) => (
          <tr key={i}>
            <td>
              {row.kind}
              <small>
                {row.what}
                {row.remedy && `; ${row.remedy}`}
              </small>
            </td>
            <td className={`${sheetCss.r} number`}>{row.before}</td>
            <td className={`${sheetCss.r} number`}>{row.after}</td>
            <td className={MARKS[row.verdict]}>{row.verdict}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
