import { tell, type JobHandle } from "../../api/useJob";
import type { Reading, ReadingState, UserAction } from "../../api/types";
import { Press } from "../../blocks/Press";
import { mm } from "../../blocks/numbers";
import { Choice } from "../../blocks/Choice";
import { TypedField } from "../../blocks/TypedField";
import css from "./TruingSheet.module.css";

type Adjust = Extract<UserAction, { do: "adjust-reading" }>;
/** Changes something of a reading; what is not named stays. */
type Adjusting = (change: Partial<Adjust>) => Promise<unknown>;
type Role = NonNullable<Adjust["role"]>;
type Means = NonNullable<Adjust["means"]>;

const ROLES: [Role, string][] = [
  ["drive", "drives the correction"],
  ["check", "is only checked"],
  ["ignore", "is left out"],
];
const MEANS: [Means, string][] = [
  ["micrometer", "micrometer"],
  ["caliper", "caliper"],
  ["rule", "rule"],
  ["tape", "tape"],
  ["drawing", "a drawing"],
];

interface Props {
  handle: JobHandle;
  reading: Reading;
  now: ReadingState;
  number: number;
  move: () => void;
}

/** How a reading is used and was taken. */
export function ReadingDetails({ handle, reading, now, number, move }: Props) {
  const adjust: Adjusting = (change) =>
    handle.act({
      do: "adjust-reading",
      reading: reading.id,
      role: null,
      means: null,
      fineness: null,
      clearance: null,
      note: null,
      sure: false,
      ...change,
    });
  const quietly = (change: Partial<Adjust>) => void adjust(change).catch(tell);
  return (
    <div className={css.details}>
      <label>
        This reading
        <Choice
          label={`How reading ${number} is used`}
          value={reading.role!}
          options={ROLES}
          choose={(role) => quietly({ role })}
        />
      </label>
      <label>
        taken with
        <Choice
          label={`How reading ${number} was taken`}
          value={reading.means!}
          options={MEANS}
          choose={(means) => quietly({ means })}
        />
      </label>
      <FinenessField number={number} reading={reading} adjust={adjust} />
      <ClearanceField number={number} reading={reading} adjust={adjust} />
      <span className={css.wide}>
        note
        <TypedField
          words
          label={`Note of reading ${number}`}
          value={reading.note ?? ""}
          placeholder="where, by whom"
          width={290}
          commit={(note) => adjust({ note })}
        />
      </span>
      <FittedGauge reading={reading} now={now} handle={handle} move={move} />
    </div>
  );
}

/** By how much the reading may be off. */
function FinenessField({ number, reading, adjust }: { number: number; reading: Reading; adjust: Adjusting }) {
  return (
    <span className={css.pair}>
      read to ±
      <TypedField
        label={`Uncertainty of reading ${number}`}
        value={String(reading.fineness_mm)}
        width={70}
        commit={(fineness) => adjust({ fineness })}
      />
    </span>
  );
}

/** What is added to the reading on purpose. */
function ClearanceField({ number, reading, adjust }: { number: number; reading: Reading; adjust: Adjusting }) {
  return (
    <span className={css.pair}>
      clearance added
      <TypedField
        label={`Clearance added to reading ${number}`}
        value={String(reading.clearance_mm ?? 0)}
        width={70}
        commit={(clearance, sure) => adjust({ clearance, sure })}
      />
    </span>
  );
}

interface FittedGaugeProps {
  reading: Reading;
  now: ReadingState;
  handle: JobHandle;
  move: () => void;
}

/** How well the gauge fits the file, and what can be done with it. */
function FittedGauge({ reading, now, handle, move }: FittedGaugeProps) {
  return (
    <span className={css.wide}>
      <span className="soft">
        {reading.gauge.says}
        {reading.gauge.off != null && reading.gauge.kind !== "faces"
          ? `; fitted within ${reading.gauge.off.toPrecision(2)} of the file`
          : ""}
        {now.spread_mm != null ? `; ${reading.repeats!.length} taken, spread ${mm(now.spread_mm)}` : ""}
      </span>
      <span className={css.asides}>
        {now.directed && (
          <Press
            className="link"
            title="only in the direction of this gauge; what is square to it stays"
            onClick={() => void handle.act({ do: "stretch-along", reading: reading.id }).catch(tell)}
          >
            Stretch along it
          </Press>
        )}
        <Press className="link" onClick={move}>
          Move gauge
        </Press>
      </span>
    </span>
  );
}
