import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Axis, SeatState, Turn } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./Seating.module.css";
import { FaceList } from "./FaceList";
import { seatOf, type Seating } from "./useSeating";

const AXES: Axis[] = ["x", "y", "z"];
const MEANT = [
  ["by", "by degrees"],
  ["to", "to degrees"],
] as const;

/** The angle that was typed about an axis, while there is one. */
const angleOf = (turns: Turn[], axis: Axis) => {
  const mine = turns.filter((one) => !one.about && one.axis === axis);
  return mine.length ? String(Number(mine.reduce((sum, one) => sum + one.degrees, 0).toPrecision(10))) : "";
};

/** Turning: typed angles, quarter turns, a face that goes down, an edge that is lined up, the mirror. */
export function Turning({ handle, seat, seating }: { handle: JobHandle; seat: SeatState; seating: Seating }) {
  const [absolute, count] = useState(false);
  const turn = (axis: Axis, typed: string, to = false) =>
    handle.act({ do: "turn-seat", ...seatOf(seat), axis, typed, absolute: to, here: false });
  const kept = handle.view.job.seats?.find(
    (one) => one.subject === seat.subject && one.copy_number === seat.copy_number,
  );
  const turns = kept?.turns ?? [];
  const pick = (what: "face" | "edge") => {
    seating.take(seating.taking === what ? "seat" : what);
    seating.lookFromAbove(false);
  };
  return (
    <Fold title="Turn" name="seating-turn" open says={seat.turn || "as it came"}>
      <TurnByPicking seating={seating} pick={pick} seat={seat} handle={handle} turns={turns} />
      {seating.taking === "face" && (
        <>
          <p className={sheetCss.text}>Click the face that is to lie on the plate, or choose it here. Esc stops.</p>
          <FaceList
            handle={handle}
            seat={seat}
            label="Faces to put down"
            take={(on, face) =>
              handle.act({ do: "face-down", ...seatOf(seat), on, face }).then(() => seating.take("seat"))
            }
          />
        </>
      )}
      {seating.taking === "edge" && (
        <>
          <p className={sheetCss.text}>
            Click an edge; it is turned along the nearer of X and Y. Or choose a side that is turned square to them. Esc
            stops.
          </p>
          <FaceList
            handle={handle}
            seat={seat}
            label="Sides to line up"
            take={(on, face) =>
              handle.act({ do: "line-up", ...seatOf(seat), on, face, axis: "near" }).then(() => seating.take("seat"))
            }
          />
        </>
      )}
      {seat.mirrored && <MirroredWords handle={handle} seat={seat} />}
      <TurnTable absolute={absolute} count={count} turns={turns} turn={turn} />
      {turns.length > 0 && <TurnsInWords turns={turns} />}
    </Fold>
  );
}

/** The turns of a seat, in their order. */
function TurnsInWords({ turns }: { turns: Turn[] }) {
  const said = turns.map((turn) =>
    turn.about
      ? `${turn.says} (${turn.degrees.toFixed(2).replace(/\.?0+$/, "")}°)`
      : `${turn.degrees}° about ${turn.axis!.toUpperCase()}`,
  );
  return (
    <p className={sheetCss.text} style={{ paddingTop: 7 }}>
      Turned, in order: {said.join(", ")}.
    </p>
  );
}

interface TurnByPickingProps {
  seating: Seating;
  pick: (what: "face" | "edge") => void;
  seat: SeatState;
  handle: JobHandle;
  turns: Turn[];
}

/** Turning by a face that is put down, or an edge that is lined up. */
function TurnByPicking({ seating, pick, seat, handle, turns }: TurnByPickingProps) {
  return (
    <div className={css.line}>
      <Press look="box" aria-pressed={seating.taking === "face"} onClick={() => pick("face")}>
        Put a face down
      </Press>
      <Press look="box" aria-pressed={seating.taking === "edge"} onClick={() => pick("edge")}>
        Line an edge up
      </Press>
      <Press
        look="box"
        aria-pressed={seat.mirrored}
        onClick={() => void handle.act({ do: "mirror-seat", ...seatOf(seat) }).catch(tell)}
      >
        Mirror
      </Press>
      <Press
        className="link"
        why={!turns.length && !seat.mirrored && "it stands as it came: neither turned nor mirrored"}
        onClick={() => void handle.act({ do: "reset-seat", ...seatOf(seat) }).catch(tell)}
      >
        As it came
      </Press>
    </div>
  );
}

interface TurnTableProps {
  absolute: boolean;
  count: (value: boolean) => void;
  turns: Turn[];
  turn: (axis: Axis, typed: string, to?: boolean) => Promise<unknown>;
}

/** The turns about the three axes, typed. */
function TurnTable({ absolute, count, turns, turn }: TurnTableProps) {
  return (
    <table className={sheetCss.table}>
      <thead>
        <tr>
          <th>About</th>
          <th className={sheetCss.r}>
            <Choice
              label="How angles are meant"
              value={absolute ? "to" : "by"}
              options={MEANT}
              choose={(how) => count(how === "to")}
              width={104}
            />
          </th>
          <th className={sheetCss.r}>quarter turns</th>
        </tr>
      </thead>
      <tbody>
        {AXES.map((axis) => (
          <TurnRow key={axis} axis={axis} absolute={absolute} turns={turns} turn={turn} />
        ))}
      </tbody>
    </table>
  );
}

interface TurnRowProps {
  axis: Axis;
  absolute: boolean;
  turns: Turn[];
  turn: (axis: Axis, typed: string, to?: boolean) => Promise<unknown>;
}

/** Turning about one axis: typed degrees, and quarter turns. */
function TurnRow({ axis, absolute, turns, turn }: TurnRowProps) {
  return (
    <tr>
      <td className="number">{axis.toUpperCase()}</td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Turn ${absolute ? "to" : "about"} ${axis.toUpperCase()}, degrees`}
          value={absolute ? angleOf(turns, axis) : ""}
          placeholder="type"
          width={84}
          commit={(typed) => turn(axis, typed, absolute)}
        />
      </td>
      <td>
        <span className={css.quick}>
          {["-90", "90"].map((typed) => (
            <Press
              key={typed}
              aria-label={`Turn ${typed} degrees about ${axis.toUpperCase()}`}
              onClick={() => void turn(axis, typed).catch(tell)}
            >
              {typed.replace("-", "−")}°
            </Press>
          ))}
        </span>
      </td>
    </tr>
  );
}

/** What gives a mirrored part away: its threads, bores and marks. */
function MirroredWords({ handle, seat }: { handle: JobHandle; seat: SeatState }) {
  const { data } = useQuery({
    queryKey: ["mirrored", handle.view.id, handle.view.number, seat.subject],
    queryFn: () => api.mirrored(handle.view.id, seat.subject),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const name = (key: string) => handle.view.job.bodies.find((body) => body.id === key)?.name ?? "";
  return (
    <div data-testid="mirrored">
      <p className={`${sheetCss.text} look`}>A mirrored part is another part.</p>
      {data?.map((report) => (
        <p key={report.body} className={sheetCss.text}>
          {name(report.body)}: {report.says}.
        </p>
      ))}
    </div>
  );
}
