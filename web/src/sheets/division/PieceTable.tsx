import type { JobView } from "../../api/types";
import { rounded } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import css from "./Division.module.css";
import type { Dividing } from "./useDivision";

interface Row {
  key: string;
  number: number;
  name: string;
  size: string;
  volume: number | null;
  over: string;
  turned?: boolean;
  sliver: boolean;
  stale: boolean;
}

/** The pieces: as they would come of the planes, or as they were made. */
export function PieceTable({ view, dividing }: { view: JobView; dividing: Dividing }) {
  const rows = dividing.drafting ? thought(dividing) : made(view, dividing);
  return (
    <table className={`${sheetCss.table} ${css.planes}`} aria-label="Pieces">
      <thead>
        <tr>
          <th>Piece</th>
          <th className={sheetCss.r}>size, mm</th>
          <th className={sheetCss.r}>cm³</th>
          <th className={sheetCss.r}>fits</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((one) => (
          <tr key={one.key} className={one.stale ? css.stale : undefined}>
            <td>
              <b className="number">{one.number}</b> {one.name}
              {one.sliver && <small className="look"> sliver</small>}
            </td>
            <td className={`${sheetCss.r} number`}>{one.size}</td>
            <td className={`${sheetCss.r} number`}>{one.volume === null ? "–" : rounded(one.volume / 1000, 2)}</td>
            <td className={sheetCss.r}>
              {one.over ? (
                <span className="stop">{one.over}</span>
              ) : (
                <span className="settled">{one.turned ? "turned" : "yes"}</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function thought({ prospect }: Dividing): Row[] {
  return (prospect?.pieces ?? []).map((one) => ({
    key: String(one.number),
    number: one.number,
    name: one.place || "piece",
    size: one.high.map((high, i) => rounded(high - one.low[i]!, 1)).join(" × "),
    volume: one.volume_mm3,
    over: Math.max(...one.over_mm) > 0 ? `+${rounded(Math.max(...one.over_mm), 1)}` : "",
    turned: one.turned,
    sliver: one.sliver,
    stale: false,
  }));
}

function made(view: JobView, { pieces, body: { name: whole } }: Dividing): Row[] {
  return pieces.map(({ body, facts }, i) => {
    const copies = view.job.seats?.filter((one) => one.subject === body.id).length ?? 0;
    return {
      key: body.id,
      number: i + 1,
      name: copies > 1 ? `dowel, ${copies} of it` : shortly(body.name, whole),
      size: facts.chain?.released_mm.map((one) => rounded(one, 1)).join(" × ") ?? "–",
      volume: facts.volume_mm3,
      over: facts.fits_as_it_lies === false ? "no" : "",
      sliver: false,
      stale: facts.stale ?? false,
    };
  });
}

/** The name of a piece beside its number: without that of its whole, while it has it. */
function shortly(name: string, whole: string): string {
  return name.startsWith(whole.slice(0, 40))
    ? name
        .slice(whole.slice(0, 40).length)
        .replace(/^ \d+,?/, "")
        .trim() || "piece"
    : name;
}
