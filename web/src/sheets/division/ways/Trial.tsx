import { Term } from "../../../house/Term";
import { Columns } from "../../../blocks/Columns";
import { useQuery } from "@tanstack/react-query";
import { api } from "../../../api/client";
import type { PrintedReading, DivisionPreview, Reading, Division, JobView } from "../../../api/types";
import { tell, type JobHandle } from "../../../api/useJob";
import { Fold } from "../../../blocks/Fold";
import { Press } from "../../../blocks/Press";
import { mm, rounded, signed } from "../../../blocks/numbers";
import { sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Division.module.css";
import { AxisRow, Do, LengthRow, Row, Rows, useShaping, type Way, busyOr } from "./parts";

/** A slice to print first and try on: between two planes, or around a reading; what is measured on it is taken further. */
export function Trial(props: Way) {
  const shape = useShaping(props);
  const { view } = props.handle;
  const { body, meant, mean, prospect } = props.dividing;
  const { axis, low, high, wall } = meant.trial;
  const put = (change: Partial<typeof meant.trial>) => mean((now) => ({ trial: { ...now.trial, ...change } }));
  const readings = (view.job.readings ?? []).filter((reading) => reading.body === body.id && !reading.lost);
  const around = async (key: string) => {
    const around = await api.around(view.id, key).catch(tell);
    if (around) put({ axis: around.axis, low: around.low, high: around.high });
  };
  const begin = () => {
    const i = ["x", "y", "z"].indexOf(axis);
    const [from, to] = [prospect!.low[i]!, prospect!.high[i]!];
    put({ low: rounded(from + 0.42 * (to - from), 1), high: rounded(from + 0.58 * (to - from), 1) });
  };
  const trials = (view.job.divisions ?? []).filter((division) => !division.replaces && division.wholes[0] === body.id);
  return (
    <Fold
      title="Trial"
      name="division-trial"
      says={trials.length ? `${trials.length} trials` : "a slice to print first and try on"}
    >
      {trials.map((division) => (
        <Made key={division.id} division={division} handle={props.handle} view={view} />
      ))}
      <p className={css.told}>
        A <Term of="trial" /> costs minutes where the whole costs hours.
      </p>
      <Rows>
        <AxisRow says="across" label="Axis of the trial" value={axis} choose={(one) => put({ axis: one })} />
        <Row says="from, to">
          <TypedField label="Trial from" value={low} width={70} commit={async (text) => put({ low: text.trim() })} />
          <TypedField label="Trial to" value={high} width={70} commit={async (text) => put({ high: text.trim() })} /> mm
        </Row>
        <LengthRow
          says="wall thinned to"
          label="Trial wall"
          value={wall}
          placeholder="solid"
          put={async (text) => put({ wall: text.trim() })}
        />
      </Rows>
      <TrialBeginnings prospect={prospect} low={low} high={high} begin={begin} readings={readings} around={around} />
      <Do
        says="Make the trial"
        why={busyOr(props.busy, (!low || !high) && "type where the slice begins and ends")}
        act={() => shape({ by: "slice", axis, low, high, wall }).then(() => put({ low: "", high: "" }))}
      />
    </Fold>
  );
}

interface TrialBeginningsProps {
  prospect: DivisionPreview | undefined;
  low: string;
  high: string;
  begin: () => void;
  readings: Reading[];
  around: (key: string) => Promise<unknown>;
}

/** Where a trial can begin: two planes in the bench, or around a reading. */
function TrialBeginnings({ prospect, low, high, begin, readings, around }: TrialBeginningsProps) {
  return (
    <div className={css.line}>
      {prospect && !low && !high && (
        <Press className="link" onClick={begin}>
          Put two planes in the bench
        </Press>
      )}
      {readings.length > 0 && <span className="soft">around</span>}
      {readings.map((reading) => (
        <Press key={reading.id} className="link" onClick={() => void around(reading.id)}>
          {reading.name || reading.typed}
        </Press>
      ))}
    </div>
  );
}

/** A trial that was made: the readings in it, what they measure on the print, and what is made of that. */
function Made({ division, handle, view }: { division: Division; handle: JobHandle; view: JobView }) {
  const { data } = useQuery({
    queryKey: ["printed", view.id, division.id, view.number],
    queryFn: () => api.printed(view.id, division.id),
    placeholderData: (before) => before,
  });
  const trial = view.job.bodies.find((body) => body.division === division.id);
  const measured = (data ?? []).some((reading) => reading.measured_mm !== null && reading.axes.length > 0);
  const calibrate = async () => {
    const { found } = await api.calibrateBy(view.id, division.id);
    await handle.act({ do: "take-calibration", body: trial!.id, found, says: trial!.name });
  };
  return (
    <>
      <div className={css.line}>
        <b>{trial?.name ?? "trial"}</b>
        {division.shaping.by === "slice" && (
          <span className="number">
            {division.shaping.axis.toUpperCase()} {rounded(division.shaping.low, 2)} to{" "}
            {rounded(division.shaping.high, 2)}
          </span>
        )}
        <Press className="link" onClick={() => void handle.act({ do: "undivide", division: division.id }).catch(tell)}>
          Take it away
        </Press>
      </div>
      {!!data?.length && (
        <table className={`${sheetCss.table} ${css.planes}`} aria-label={`Readings on ${trial?.name ?? "the trial"}`}>
          <Columns
            of={[
              "Reading",
              { numbers: "released" },
              { numbers: "on the print" },
              { numbers: "off" },
              { unseen: "whether it is met" },
            ]}
          />
          <tbody>
            {data.map((reading) => (
              <PrintedReadingRow key={reading.reading} one={reading} handle={handle} />
            ))}
          </tbody>
        </table>
      )}
      {measured && (
        <div className={css.line}>
          <Press className="link" onClick={() => calibrate().catch(tell)}>
            It should measure as released: calibrate by it
          </Press>
        </div>
      )}
    </>
  );
}

/** A reading on the trial: released, and as measured on the print. */
function PrintedReadingRow({ one, handle }: { one: PrintedReading; handle: JobHandle }) {
  return (
    <tr>
      <td>{one.name}</td>
      <td className={`${sheetCss.r} number`}>{mm(one.released_mm)}</td>
      <td className={sheetCss.r}>
        <TypedField
          label={`${one.name} on the print`}
          value={one.typed}
          placeholder="measure"
          width={76}
          commit={(typed) => handle.act({ do: "set-printed", reading: one.reading, typed })}
        />
      </td>
      <td className={`${sheetCss.r} number`}>{one.off_mm === null ? "–" : signed(one.off_mm)}</td>
      <td className={sheetCss.r}>
        {one.measured_mm !== null && (
          <Press
            className="link"
            onClick={() => void handle.act({ do: "take-printed", reading: one.reading }).catch(tell)}
          >
            It fits: want this
          </Press>
        )}
      </td>
    </tr>
  );
}
