import { Checkbox } from "@mantine/core";
import { tell } from "../../api/useJob";
import type { Axis } from "../../api/types";
import { Press } from "../../blocks/Press";
import { mm } from "../../blocks/numbers";
import { Choice } from "../../blocks/Choice";
import { TypedField } from "../../blocks/TypedField";
import type { Subject } from "../../job/subject";
import { type Way, WAYS } from "./gauges";
import css from "./TruingSheet.module.css";
import { useDistance, type Picking } from "./usePicking";

/** How far the place under the pointer is from the first. */
function DistanceSoFar({ picking }: { picking: Picking }) {
  const distance = useDistance(picking);
  return distance === null ? null : <span className="number"> {mm(distance)} mm</span>;
}

const AXES: readonly Axis[] = ["x", "y", "z"];

/** Choosing what to measure, and picking it on the bench or from the list. */
export function AddGauge({
  subject,
  picking,
  listed,
  list,
}: {
  subject: Subject;
  picking: Picking;
  listed: boolean;
  list: (on: boolean) => void;
}) {
  const { way } = picking;
  const overall = () => picking.make(subject.body.id, [], { kit: subject.bodies.length > 1 }).catch(tell);
  return (
    <>
      <div className={css.addRow}>
        <Choice
          label="What to measure"
          width={150}
          value={way.key}
          options={WAYS.map((one) => [one.key, one.says] as const)}
          choose={picking.choose}
        />
        {way.axis && (
          <Choice
            label="Axis"
            width={86}
            value={picking.axis}
            options={AXES.map(
              (axis) => [axis, `${way.kind === "perimeter" ? "around" : "along"} ${axis.toUpperCase()}`] as const,
            )}
            choose={picking.along}
          />
        )}
        {way.picks === 0 ? (
          <Press className={css.add} onClick={overall}>
            Add
          </Press>
        ) : (
          <GaugeButtons picking={picking} way={way} subject={subject} listed={listed} list={list} />
        )}
      </div>
      {picking.on && <GaugeBeingTaken picking={picking} way={way} />}
    </>
  );
}

interface GaugeButtonsProps {
  picking: Picking;
  way: Way;
  subject: Subject;
  listed: boolean;
  list: (on: boolean) => void;
}

/** How a gauge is taken: from a list, in the bench, or as it is. */
function GaugeButtons({ picking, way, subject, listed, list }: GaugeButtonsProps) {
  return (
    <>
      <Press
        className={css.add}
        aria-pressed={picking.on}
        onClick={() => (picking.on ? picking.stop() : picking.start())}
      >
        {picking.on ? "Stop picking" : "Pick"}
      </Press>
      {way.kind === "perimeter" ? (
        <TypedField
          label="Height of the section"
          value=""
          placeholder="at, mm"
          width={70}
          commit={(at) => picking.make(subject.body.id, [], { at })}
        />
      ) : (
        <Press look="box" aria-pressed={listed} onClick={() => list(!listed)}>
          From list
        </Press>
      )}
    </>
  );
}

/** What is being picked for a gauge, and what is still wanted. */
function GaugeBeingTaken({ picking, way }: { picking: Picking; way: Way }) {
  return (
    <p className={css.picker} role="status">
      {picking.first ? (
        <>
          First place {picking.first.centre ? "at a " : "on a "}
          <b>{picking.first.centre ? "centre" : picking.first.anchor.on}</b>. Now click the second: {way.hint}. Esc
          stops.
          {way.key === "points" && <DistanceSoFar picking={picking} />}
        </>
      ) : (
        <>
          Click {way.hint}. {way.picks > 1 ? "Then the second." : ""} Esc stops.
        </>
      )}
      {way.key === "points" && (
        <Checkbox
          className={css.centre}
          checked={picking.centre}
          onChange={(event) => picking.toCentre(event.target.checked)}
          label={
            <>
              take the centre of the bore or boss there <kbd>C</kbd>
            </>
          }
        />
      )}
    </p>
  );
}
