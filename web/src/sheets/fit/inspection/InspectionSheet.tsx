import type { InspectionRow, InspectionView, JobView } from "../../../api/types";
import { rounded } from "../../../blocks/numbers";
import { Press } from "../../../blocks/Press";
import { sheetCss } from "../../../blocks/Sheet";
import blockCss from "../../../blocks/TitleBlock.module.css";
import fitCss from "../Fit.module.css";
import { lookAt } from "../lookedAt";
import css from "./InspectionSheet.module.css";
import { bandOf } from "./MeasuredRows";
import { useInspection } from "./useInspection";

/** The inspection sheet, drawn in place of the bench: a row a size, a column a part. */
export function InspectionSheet({ view }: { view: JobView }) {
  const data = useInspection(view);
  const at = `/api/jobs/${view.id}/inspection`;
  return (
    <section className={fitCss.detail} aria-label="Inspection sheet">
      <div className={fitCss.title}>
        <h2>Inspection sheet</h2>
        <a className="link" href={`${at}/sheet.pdf?kind=a4`} download>
          PDF, A4
        </a>
        <a className="link" href={`${at}/sheet.pdf?kind=letter`} download>
          PDF, Letter
        </a>
        <a className="link" href={`${at}/table.csv`} download>
          CSV
        </a>
      </div>
      <Press className={`link ${fitCss.back}`} onClick={() => lookAt(null)}>
        Back to the bench
      </Press>
      {data && <Sizes data={data} />}
      {data && <InspectionBlock view={view} data={data} />}
    </section>
  );
}

/** What was measured, and by how much it is spread. */
function Sizes({ data }: { data: InspectionView }) {
  const rows = data.rows.filter((row) => row.values.length);
  const names = new Map(data.parts.map((part) => [part.id, part.name]));
  return (
    // Scrolled by keyboard, too, where there are more parts than it is wide.
    // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
    <div className={css.sheet} tabIndex={0} role="region" aria-label="Sizes of all parts">
      <table className={sheetCss.table} aria-label="Sizes measured">
        <thead>
          <tr>
            <th>Size</th>
            <th className={sheetCss.r}>is to be</th>
            {data.parts.map((part) => (
              <th key={part.id} className={sheetCss.r}>
                {part.name}
              </th>
            ))}
            <th className={sheetCss.r}>mean</th>
            <th className={sheetCss.r}>spread</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <SizeLine key={row.key} row={row} parts={data.parts} />
          ))}
          {data.pairs
            .filter((pair) => pair.values.length)
            .map((pair) => (
              <tr key={pair.pair}>
                <td>
                  clearance
                  <small>{pair.what}</small>
                </td>
                <td className={sheetCss.r}>{pair.band_says.replace(" mm", "")}</td>
                {[...names.keys()].map((part) => {
                  const value = pair.values.find((one) => one.part === part);
                  return (
                    <td key={part} className={`${sheetCss.r} number ${value && !value.within ? "look" : ""}`}>
                      {value && rounded(value.clearance_mm, 3).replace("-", "−")}
                      {value && !value.within && <small>out</small>}
                    </td>
                  );
                })}
                <td />
                <td />
              </tr>
            ))}
        </tbody>
      </table>
    </div>
  );
}

function SizeLine({ row, parts }: { row: InspectionRow; parts: InspectionView["parts"] }) {
  return (
    <tr>
      <td>
        {row.what}
        <small>{row.body}</small>
      </td>
      <td className={`${sheetCss.r} number`}>
        {rounded(row.aim_mm, 2)}
        <small>{bandOf(row)}</small>
      </td>
      {parts.map((part) => {
        const value = row.values.find((one) => one.part === part.id);
        return (
          <td key={part.id} className={`${sheetCss.r} number ${value && !value.within ? "look" : ""}`}>
            {value && rounded(value.mm, 2)}
            {value && !value.within && <small>out</small>}
          </td>
        );
      })}
      <td className={`${sheetCss.r} number`}>{row.mean_mm === null ? "" : rounded(row.mean_mm!, 3)}</td>
      <td className={`${sheetCss.r} number`}>{row.spread_mm === null ? "" : rounded(row.spread_mm!, 3)}</td>
    </tr>
  );
}

/** The corner block of the sheet: of which job and machine, how many parts, and whether all are in tolerance. */
function InspectionBlock({ view, data }: { view: JobView; data: InspectionView }) {
  const out = data.parts.reduce((sum, part) => sum + part.out, 0);
  return (
    <section className={blockCss.block} aria-label="Inspection block">
      <div className={blockCss.cell} style={{ gridColumn: "span 4" }}>
        <small>job</small>
        <b title={view.job.name}>{view.job.name}</b>
      </div>
      <div className={`${blockCss.cell} ${blockCss.last}`} style={{ gridColumn: "span 2", display: "grid" }}>
        <span className={`${blockCss.stamp} ${out ? "look" : "settled"}`} style={{ fontSize: 14 }}>
          {out ? "OUT" : "IN BAND"}
        </span>
      </div>
      <div className={blockCss.cell} style={{ gridColumn: "span 4" }}>
        <small>parts measured, sizes out</small>
        <p className={blockCss.mm}>
          {data.parts.length}, {out}
        </p>
      </div>
      <div className={`${blockCss.cell} ${blockCss.last}`} style={{ gridColumn: "span 2" }}>
        <small>tolerance, mm</small>
        <p className="number">± {rounded(data.tolerance_mm, 2)}</p>
      </div>
      <div className={`${blockCss.cell} ${blockCss.foot}`} style={{ gridColumn: "span 4" }}>
        <small>machine</small>
        <p>{view.survey.machine.name}</p>
      </div>
      <div className={`${blockCss.cell} ${blockCss.foot} ${blockCss.last}`} style={{ gridColumn: "span 2" }}>
        <small>material</small>
        <p>{view.job.material!.name}</p>
      </div>
    </section>
  );
}
