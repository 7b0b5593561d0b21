import { tell, type JobHandle } from "../../api/useJob";
import type { Axis, SeatNow } from "../../api/types";
import { Fold } from "../../blocks/Fold";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./Seating.module.css";
import { seatOf, type Seating } from "./useSeating";

const AXES: Axis[] = ["x", "y", "z"];

/** Turning: typed angles, quarter turns, a face that goes down, an edge that is lined up, the mirror. */
export function Turning({ handle, seat, seating }: { handle: JobHandle; seat: SeatNow; seating: Seating }) {
  const turn = (axis: Axis, typed: string) => handle.act({ do: "turn-seat", ...seatOf(seat), axis, typed, absolute: false });
  const kept = handle.view.job.seats?.find((one) => one.subject === seat.subject && one.copy_number === seat.copy_number);
  const turns = kept?.turns ?? [];
  const pick = (what: "face" | "edge") => {
    seating.take(seating.taking === what ? "seat" : what);
    seating.lookFromAbove(false);
  };
  return (
    <Fold title="Turn" name="seating-turn" open says={seat.turn || "as it came"}>
      <div className={css.line}>
        <button type="button" className={css.button} aria-pressed={seating.taking === "face"} onClick={() => pick("face")}>
          Put a face down
        </button>
        <button type="button" className={css.button} aria-pressed={seating.taking === "edge"} onClick={() => pick("edge")}>
          Line an edge up
        </button>
        <button type="button" className={css.button} aria-pressed={seat.mirrored} onClick={() => void handle.act({ do: "mirror-seat", ...seatOf(seat) }).catch(tell)}>
          Mirror
        </button>
        <button type="button" className="link" disabled={!turns.length && !seat.mirrored} onClick={() => void handle.act({ do: "reset-seat", ...seatOf(seat) }).catch(tell)}>
          As it came
        </button>
      </div>
      {seating.taking !== "seat" && <p className={sheetCss.text}>{seating.taking === "face" ? "Click the face that is to lie on the plate. Esc stops." : "Click an edge; it is turned along the nearer of X and Y. Esc stops."}</p>}
      {seat.mirrored && <p className={`${sheetCss.text} look`}>A mirrored part is another part: threads turn the other way, text reads backwards, and bores change sides.</p>}
      <table className={sheetCss.table}>
        <thead>
          <tr>
            <th>About</th>
            <th className={sheetCss.r}>degrees further</th>
            <th className={sheetCss.r}>quarter turns</th>
          </tr>
        </thead>
        <tbody>
          {AXES.map((axis) => (
            <tr key={axis}>
              <td className="number">{axis.toUpperCase()}</td>
              <td className={sheetCss.r}>
                <TypedField label={`Turn about ${axis.toUpperCase()}, degrees`} value="" placeholder="type" width={84} commit={(typed) => turn(axis, typed)} />
              </td>
              <td>
                <span className={css.quick}>
                  {["-90", "90"].map((typed) => (
                    <button key={typed} type="button" aria-label={`Turn ${typed} degrees about ${axis.toUpperCase()}`} onClick={() => void turn(axis, typed).catch(tell)}>
                      {typed.replace("-", "−")}°
                    </button>
                  ))}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {turns.length > 0 && (
        <p className={sheetCss.text} style={{ paddingTop: 7 }}>
          Turned, in order: {turns.map((one) => (one.about ? `${one.says} (${one.degrees.toFixed(2).replace(/\.?0+$/, "")}°)` : `${one.degrees}° about ${one.axis!.toUpperCase()}`)).join(", ")}.
        </p>
      )}
    </Fold>
  );
}
