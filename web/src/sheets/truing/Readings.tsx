import { Columns } from "../../blocks/Columns";
import { FileButton } from "@mantine/core";
import { type RefObject, useEffect, useRef, useState } from "react";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Reading } from "../../api/types";
import { Press } from "../../blocks/Press";
import { Term } from "../../house/Term";
import { Head, sheetCss } from "../../blocks/Sheet";
import { sentence } from "../../blocks/words";
import type { Subject } from "../../job/subject";
import { CaliperStandIn } from "../../job/CaliperStandIn";
import { FeatureList } from "./FeatureList";
import { AddGauge } from "./AddGauge";
import { ReadingRow } from "./ReadingRow";
import { lostOf, readingsOf } from "./readingsOf";
import css from "./TruingSheet.module.css";
import { type Picking } from "./usePicking";

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
          <Term of="truing">Truing</Term> makes the model the size that was measured. Say where a real length is, type
          what a caliper says (<code>140.3</code>, <code>140.3 ±0.2</code>, <code>at least 188</code>), and the body
          follows. Every further reading is met together with the ones before.
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
      <Columns
        of={[
          { unseen: "number" },
          "Gauge",
          { numbers: "on model" },
          { numbers: "real" },
          { numbers: "off" },
          { unseen: "more" },
        ]}
      />
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
