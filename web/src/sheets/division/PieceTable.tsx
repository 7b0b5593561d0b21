import { Columns } from "../../blocks/Columns";
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
      <Columns of={["Piece", { numbers: "size, mm" }, { numbers: "cm³" }, { numbers: "fits" }]} />
      <tbody>
        {rows.map((row) => (
          <tr key={row.key} className={row.stale ? css.stale : undefined} data-body={row.key}>
            <td>
              <b className="number">{row.number}</b> {row.name}
              {row.sliver && <small className="look"> sliver</small>}
            </td>
            <td className={`${sheetCss.r} number`}>{row.size}</td>
            <td className={`${sheetCss.r} number`}>{row.volume === null ? "–" : rounded(row.volume / 1000, 2)}</td>
            <td className={sheetCss.r}>
              {row.over ? (
                <span className="stop">{row.over}</span>
              ) : (
                <span className="settled">{row.turned ? "turned" : "yes"}</span>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function thought({ prospect }: Dividing): Row[] {
  return (prospect?.pieces ?? []).map((piece) => ({
    key: String(piece.number),
    number: piece.number,
    name: piece.place || "piece",
    size: piece.high.map((high, i) => rounded(high - piece.low[i]!, 1)).join(" × "),
    volume: piece.volume_mm3,
    over: Math.max(...piece.over_mm) > 0 ? `+${rounded(Math.max(...piece.over_mm), 1)}` : "",
    turned: piece.turned,
    sliver: piece.sliver,
    stale: false,
  }));
}

function made(view: JobView, { pieces, body: { name: whole } }: Dividing): Row[] {
  return pieces.map(({ body, facts }, i) => {
    const copies = view.job.seats?.filter((seat) => seat.subject === body.id).length ?? 0;
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
