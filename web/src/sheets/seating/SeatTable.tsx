import { Columns } from "../../blocks/Columns";
import type { SeatState } from "../../api/types";
import { count, rounded } from "../../blocks/numbers";
import { RowRadio } from "../../blocks/RowRadio";
import { sheetCss } from "../../blocks/Sheet";
import css from "./Seating.module.css";
import type { Seating } from "./useSeating";

const COPY = /, copy \d+$/;

/** What stands on a plate: balloon, zone, turn, what it rests on, tilt. */
export function SeatTable({ seating }: { seating: Seating }) {
  const { seats, seat, choose } = seating;
  return (
    <table className={`${sheetCss.table} ${css.seats}`} aria-label="Seats">
      <Columns of={["Seat", { numbers: "zone" }, { numbers: "turn" }, { numbers: "rests on" }, { numbers: "tilt" }]} />
      <tbody>
        {seats.map((one) => (
          <tr
            key={one.id}
            className={one.id === seat?.id ? sheetCss.chosen : undefined}
            data-body={one.id}
            data-testid={`seat-${one.number}`}
            onClick={() => choose(one.id)}
          >
            <td className={css.name}>
              <RowRadio group="seats" checked={one.id === seat?.id} choose={() => choose(one.id)}>
                <span className={css.named} title={one.name}>
                  <b className="number">{one.number}</b>
                  <span>{one.name.replace(COPY, "")}</span>
                  {COPY.test(one.name) && <small>copy {one.copy_number}</small>}
                </span>
              </RowRadio>
            </td>
            <td className={`${sheetCss.r} number`}>{one.zone}</td>
            <td className={`${sheetCss.r} number`}>{one.turn || "0°"}</td>
            <td className={`${sheetCss.r} number`}>{restOf(one)}</td>
            <td className={`${sheetCss.r} number`}>
              <Tilt seat={one} />
            </td>
          </tr>
        ))}
        {seats.length === 0 && (
          <tr>
            <td colSpan={5} className="soft">
              Nothing stands on this plate.
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

function restOf(seat: SeatState): string {
  if (seat.lift_mm) return `lift ${seat.lift_mm.toFixed(2)}`.replace("-", "−");
  if (seat.contact_mm2 > 0)
    return `${seat.contact_mm2 < 10 ? rounded(seat.contact_mm2, 1) : count(Math.round(seat.contact_mm2))} mm²`;
  return seat.tilt_deg === null ? "nothing flat" : "an edge";
}

function Tilt({ seat }: { seat: SeatState }) {
  if (seat.tilt_deg === null) return <span className="soft">–</span>;
  if (seat.tilt_deg === 0) return <span className="settled">0.00</span>;
  return <b className="look">{seat.tilt_deg.toFixed(2)}°</b>;
}
