import { Checkbox, FileButton } from "@mantine/core";
import { type RefObject, useEffect, useRef, useState } from "react";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Gauge, Axis, Reading, ReadingState } from "../../api/types";
import { Press } from "../../blocks/Press";
import { mm, signed } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import { Choice } from "../../blocks/Choice";
import { TypedField } from "../../blocks/TypedField";
import { sentence } from "../../blocks/words";
import type { Subject } from "../../job/subject";
import { CaliperStandIn } from "../../job/CaliperStandIn";
import { FeatureList } from "./FeatureList";
import { type Way, SIGNS, WAYS } from "./gauges";
import { ReadingDetails } from "./ReadingDetails";
import { lostOf, readingsOf } from "./readingsOf";
import css from "./TruingSheet.module.css";
import { useDistance, type Picking } from "./usePicking";

interface Props {
  handle: JobHandle;
  subject: Subject;
  picking: Picking;
  /** Says which rows of a CSV were not taken. */
  tellRows: (lines: string[]) => void;
}

/** Gauges with their real lengths: picked or chosen, typed, taken from a caliper or a file. */
export function Readings({ handle, subject, picking, tellRows }: Props) {
  const readings = readingsOf(handle.view, subject);
  const newest = readings[readings.length - 1];
  const fields = useRef(new Map<string, HTMLInputElement>());
  const [open, setOpen] = useState<string | null>(null);
  const [listed, setListed] = useState(false);
  const [target, setTarget] = useState<string | null>(null);
  const { wanted, served } = picking;
  useEffect(() => {
    // After the last pick the hand goes to the keyboard: the real length is next.
    if (wanted && newest) {
      fields.current.get(newest.id)?.focus();
      served();
    }
  }, [wanted, newest, served]);
  const next = (id: string) => {
    const after = readings[readings.findIndex((reading) => reading.id === id) + 1];
    if (after) fields.current.get(after.id)?.focus();
  };
  return (
    <section aria-label="Readings">
      <Head title="Readings">
        <span className={css.asides}>
          {readings.length > 0 && (
            <a className="link" href={`/api/jobs/${handle.view.id}/readings/${subject.key}`} download>
              CSV
            </a>
          )}
          {readings.length > 0 && <ImportRows handle={handle} subject={subject} tellRows={tellRows} />}
        </span>
      </Head>
      {readings.length > 0 && (
        <ReadingTable
          readings={readings}
          handle={handle}
          subject={subject}
          open={open}
          setOpen={setOpen}
          picking={picking}
          fields={fields}
          next={next}
          setTarget={setTarget}
        />
      )}
      <Lost handle={handle} subject={subject} picking={picking} />
      <AddGauge subject={subject} picking={picking} listed={listed} list={setListed} />
      {listed && <FeatureList handle={handle} subject={subject} picking={picking} close={() => setListed(false)} />}
      {!readings.length && !picking.on && !listed && (
        <p className={sheetCss.text}>
          Say where a real length is, type what a caliper says (<code>140.3</code>, <code>140.3 ±0.2</code>,{" "}
          <code>at least 188</code>), and the body follows. Every further reading is met together with the ones before.
        </p>
      )}
      {readings.length > 0 && (
        <ReadingCaliper handle={handle} subject={subject} readings={readings} target={target} aim={setTarget} />
      )}
    </section>
  );
}

interface ReadingCaliperProps {
  handle: JobHandle;
  subject: Subject;
  readings: Reading[];
  /** The reading that it types into; the newest while none was entered. */
  target: string | null;
  aim: (reading: string) => void;
}

/** The simulated caliper, which types into one reading after the other. */
function ReadingCaliper({ handle, subject, readings, target, aim }: ReadingCaliperProps) {
  const at = Math.max(
    readings.findIndex((one) => one.id === target),
    target ? 0 : readings.length - 1,
  );
  const reading = readings[at]!;
  return (
    <CaliperStandIn
      target={reading.name}
      take={(typed) => handle.act({ do: "set-reading", reading: reading.id, typed, sure: false })}
      model={subject.facts.readings.find((one) => one.id === reading.id)?.model_mm ?? 0}
      done={() => aim(readings[Math.min(at + 1, readings.length - 1)]!.id)}
    />
  );
}

/** How far the place under the pointer is from the first. */
function DistanceSoFar({ picking }: { picking: Picking }) {
  const distance = useDistance(picking);
  return distance === null ? null : <span className="number"> {mm(distance)} mm</span>;
}

interface ReadingTableProps {
  readings: Reading[];
  handle: JobHandle;
  subject: Subject;
  open: string | null;
  setOpen: (value: string | null) => void;
  picking: Picking;
  fields: RefObject<Map<string, HTMLInputElement>>;
  next: (id: string) => void;
  setTarget: (value: string | null) => void;
}

/** The readings, a row each. */
function ReadingTable({
  readings,
  handle,
  subject,
  open,
  setOpen,
  picking,
  fields,
  next,
  setTarget,
}: ReadingTableProps) {
  return (
    <table className={sheetCss.table}>
      <thead>
        <tr>
          <th />
          <th>Gauge</th>
          <th className={sheetCss.r}>on model</th>
          <th className={sheetCss.r}>real</th>
          <th className={sheetCss.r}>off</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {readings.map((reading, i) => (
          <ReadingRow
            key={reading.id}
            number={i + 1}
            handle={handle}
            reading={reading}
            now={subject.facts.readings.find((one) => one.id === reading.id)}
            open={open === reading.id}
            toggle={() => setOpen(open === reading.id ? null : reading.id)}
            picking={picking}
            field={(input) => void (input ? fields.current.set(reading.id, input) : fields.current.delete(reading.id))}
            entered={() => next(reading.id)}
            focused={() => setTarget(reading.id)}
          />
        ))}
      </tbody>
    </table>
  );
}

/** Readings whose place is no longer on the body: picked again, or removed. */
function Lost({ handle, subject, picking }: { handle: JobHandle; subject: Subject; picking: Picking }) {
  const lost = lostOf(handle.view, subject);
  return lost.map((reading) => (
    <div key={reading.id} className={css.lost} data-testid={`lost-${reading.name}`}>
      <span>
        <b className="look">{reading.name}</b> has lost its place
        {reading.typed ? `; it was read as ${reading.typed}` : ""}
      </span>
      <span className={css.asides}>
        <Press className="link" onClick={() => picking.again(reading)}>
          Pick it again
        </Press>
        <Press
          className="link"
          onClick={() => void handle.act({ do: "remove-reading", reading: reading.id }).catch(tell)}
        >
          Remove
        </Press>
      </span>
    </div>
  ));
}

const AXES: readonly Axis[] = ["x", "y", "z"];

/** Choosing what to measure, and picking it on the bench or from the list. */
function AddGauge({
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

/** Takes readings from a CSV file; rows that are not taken are told. */
function ImportRows({ handle, subject, tellRows }: Omit<Props, "picking">) {
  const reset = useRef<() => void>(null);
  const take = async (file: File | null) => {
    reset.current?.();
    if (!file) return;
    const text = await file.text();
    try {
      await handle.change(async (on) => {
        const done = await api.importReadings(handle.view.id, on, subject.key, text);
        tellRows(
          done.problems.map((problem) =>
            sentence([problem.where, problem.says, problem.remedy].filter(Boolean).join("; ")),
          ),
        );
        return api.job(handle.view.id);
      });
    } catch (error) {
      tellRows([error instanceof Problem ? sentence(error.line) : "The file could not be read."]);
    }
  };
  return (
    <>
      <FileButton
        accept=".csv,.txt,.tsv"
        resetRef={reset}
        inputProps={{ "aria-label": "Readings as CSV" }}
        onChange={(file) => void take(file)}
      >
        {({ onClick }) => (
          <Press className="link" onClick={onClick}>
            Import
          </Press>
        )}
      </FileButton>
    </>
  );
}

interface RowProps {
  number: number;
  handle: JobHandle;
  reading: Reading;
  now: ReadingState | undefined;
  open: boolean;
  toggle: () => void;
  picking: Picking;
  field: (input: HTMLInputElement | null) => void;
  entered: () => void;
  focused: () => void;
}

function ReadingRow({ number, handle, reading, now, open, toggle, picking, field, entered, focused }: RowProps) {
  const input = useRef<HTMLInputElement>(null);
  const attach = useRef(field);
  attach.current = field;
  useEffect(() => {
    attach.current(input.current);
    return () => attach.current(null);
  }, []);
  if (!now) return null;
  const { gauge, role } = reading;
  const angle = gauge.kind === "angle";
  const off = now.off_mm;
  const tone = role === "ignore" || off == null ? "soft" : now.met ? "settled" : "look";
  return (
    <>
      <tr className={open ? sheetCss.chosen : undefined} data-testid={`reading-${number}`}>
        <td>
          <Press
            className={css.number}
            aria-expanded={open}
            aria-label={`Details of reading ${number}`}
            onClick={toggle}
          >
            {number}
          </Press>
        </td>
        <ReadingName number={number} reading={reading} handle={handle} gauge={gauge} role={role} now={now} />
        <td className={`${sheetCss.r} number ${css.whole}`}>
          {SIGNS[gauge.kind]}
          {mm(now.model_mm)}
          {angle && "°"}
          {now.least_mm != null && <small className={css.under}>× {mm(now.least_mm)}</small>}
        </td>
        <ReadingLength
          angle={angle}
          input={input}
          number={number}
          reading={reading}
          entered={entered}
          focused={focused}
          handle={handle}
          now={now}
        />
        <td className={`${sheetCss.r} number ${tone}`}>{off == null ? "–" : signed(off)}</td>
        <td>
          <Press
            className={css.remove}
            aria-label={`Remove reading ${number}`}
            onClick={() => void handle.act({ do: "remove-reading", reading: reading.id }).catch(tell)}
          >
            ×
          </Press>
        </td>
      </tr>
      {open && <DetailsRow handle={handle} reading={reading} now={now} number={number} picking={picking} />}
    </>
  );
}

interface DetailsRowProps {
  handle: JobHandle;
  reading: Reading;
  now: ReadingState;
  number: number;
  picking: Picking;
}

/** The details of a reading, under it. */
function DetailsRow({ handle, reading, now, number, picking }: DetailsRowProps) {
  return (
    <tr className={sheetCss.chosen}>
      <td colSpan={6}>
        <ReadingDetails
          handle={handle}
          reading={reading}
          now={now}
          number={number}
          move={() => picking.start(reading.id)}
        />
      </td>
    </tr>
  );
}

interface ReadingNameProps {
  number: number;
  reading: Reading;
  handle: JobHandle;
  gauge: Gauge;
  role: "drive" | "check" | "ignore";
  now: ReadingState;
}

/** The name of a reading, and where it is. */
function ReadingName({ number, reading, handle, gauge, role, now }: ReadingNameProps) {
  return (
    <td>
      <TypedField
        words
        label={`Name of reading ${number}`}
        value={reading.name}
        width={100}
        commit={(name) => handle.act({ do: "name-reading", reading: reading.id, name })}
      />
      <small className={`${css.under} ${css.between}`} title={gauge.says}>
        {gauge.kind === "points" && gauge.says ? `${gauge.says}; ` : ""}
        {role === "drive" ? (now.drives ? "drives" : "told") : role}
        {gauge.off != null && gauge.off > 0 && (gauge.kind === "diameter" || gauge.kind === "radius")
          ? `, ${Math.round(gauge.turn ?? 0)}° fitted`
          : ""}
      </small>
    </td>
  );
}

interface ReadingLengthProps {
  angle: boolean;
  input: RefObject<HTMLInputElement | null>;
  number: number;
  reading: Reading;
  entered: () => void;
  focused: () => void;
  handle: JobHandle;
  now: ReadingState;
}

/** The real length of a reading, typed. */
function ReadingLength({ angle, input, number, reading, entered, focused, handle, now }: ReadingLengthProps) {
  return (
    <td className={sheetCss.r}>
      {angle ? (
        <span className="soft">told only</span>
      ) : (
        <>
          <TypedField
            inputRef={input}
            label={`Real length of reading ${number}`}
            value={reading.typed ? shortened(reading.typed) : ""}
            full={reading.typed || undefined}
            placeholder="real"
            width={78}
            entered={entered}
            focused={focused}
            commit={(typed, again) => handle.act({ do: "set-reading", reading: reading.id, typed, sure: again })}
          />
          {now.band && (
            <small className={css.under}>
              {now.band}
              {reading.clearance_mm
                ? ` ${reading.clearance_mm > 0 ? "+" : "−"}${Math.abs(reading.clearance_mm)} clear`
                : ""}
            </small>
          )}
        </>
      )}
    </td>
  );
}

/** The length of a typed reading; its band stands below the field. */
function shortened(typed: string): string {
  return typed.includes(";") ? `${typed.split(";").length} taken` : typed.split("[")[0]!.split("±")[0]!.trim() || typed;
}
