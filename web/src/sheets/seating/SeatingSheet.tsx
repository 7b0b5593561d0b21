import { tell, type JobHandle } from "../../api/useJob";
import type { Axis } from "../../api/types";
import type { Subject } from "../../job/subject";
import { mm } from "../../blocks/numbers";
import { NextStep } from "../../blocks/NextStep";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./SeatingSheet.module.css";

const AXES: Axis[] = ["x", "y", "z"];

/** Sheet 5: how the body stands on the plate, and whether it is inside the machine. */
export function SeatingSheet({ handle, subject }: { handle: JobHandle; subject: Subject }) {
  const { view } = handle;
  const { facts, key } = subject;
  const turns = subject.decided.seat.turns!;
  const room = facts.room;
  if (!room) {
    return (
      <Sheet label="Seating">
        <UnitFirst job={view.id} doing="any place on the plate" />
      </Sheet>
    );
  }
  const machine = view.survey.machine;
  const turn = (axis: Axis, typed: string) => handle.act({ do: "turn-seat", body: key, axis, typed });
  return (
    <Sheet label="Seating">
      <Head title="Machine" />
      <dl className={sheetCss.facts}>
        <dt>name</dt>
        <dd>{machine.name}</dd>
        <dt>build volume</dt>
        <dd className="number">{machine.room.join(" × ")} mm</dd>
      </dl>
      <div className={`${css.room} ${room.inside ? "" : css.outside}`} role="status" data-testid="room">
        <b className={room.inside ? "settled" : "stop"}>{room.inside ? "Inside the volume" : "Outside the volume"}</b>
        {room.inside ? (
          <span>
            {mm(room.left_mm)} mm left at the tightest side.
          </span>
        ) : (
          room.excess.map((one) => (
            <div key={one.axis}>
              {one.over_mm > 0 ? (
                <>
                  {one.axis.toUpperCase()} is <span className="number">{mm(one.over_mm)} mm</span> too long
                </>
              ) : (
                `it stands beside the plate along ${one.axis.toUpperCase()}; there is no room left in the row`
              )}
            </div>
          ))
        )}
      </div>
      <Head title="Turn">
        <button
          type="button"
          className="link"
          disabled={!turns.length}
          onClick={() => void handle.act({ do: "reset-seat", body: key }).catch(tell)}
        >
          As it came
        </button>
      </Head>
      <table className={sheetCss.table}>
        <thead>
          <tr>
            <th>About</th>
            <th className={sheetCss.r}>degrees</th>
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
                <span className={css.quick} style={{ justifyContent: "flex-end" }}>
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
          Turned, in order: {turns.map((one) => `${one.degrees}° about ${one.axis.toUpperCase()}`).join(", ")}.
        </p>
      )}
      <Head title="Place" />
      <dl className={sheetCss.facts}>
        <dt>stands</dt>
        <dd>{view.job.bodies.length > subject.bodies.length ? "put down on the plate, in a row" : "put down on the plate, centred"}</dd>
        {AXES.map((axis, i) => (
          <Span key={axis} axis={axis} low={room.low[i]!} high={room.high[i]!} />
        ))}
      </dl>
      <p className={sheetCss.text}>Measured from the front left corner of the plate, which is marked.</p>
      <Findings handle={handle} here="seating" findings={view.survey.findings} />
      <NextStep to={`/jobs/${view.id}/release`} says={room.inside ? "It stands inside the volume." : "It is outside the volume."}>
        Go on to Release
      </NextStep>
    </Sheet>
  );
}

function Span({ axis, low, high }: { axis: Axis; low: number; high: number }) {
  return (
    <>
      <dt>{axis.toUpperCase()} from, to</dt>
      <dd className="number">
        {mm(low)} … {mm(high)} mm
      </dd>
    </>
  );
}
