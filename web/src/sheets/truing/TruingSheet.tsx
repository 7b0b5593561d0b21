import { useEffect, useRef } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Axis, JobView, Reading } from "../../api/types";
import { factor, inches, mm, signed } from "../../blocks/numbers";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import type { Subject } from "../../job/subject";
import type { Picking } from "./usePicking";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  subject: Subject;
  picking: Picking;
}

/** The readings on the bodies of a subject, whose places are still there. */
export function readingsOf(view: JobView, subject: Subject): Reading[] {
  const here = new Set(subject.bodies.map((body) => body.id));
  return (view.job.readings ?? []).filter((reading) => here.has(reading.body) && !reading.lost);
}

/** Sheet 2: overall sizes, factor, readings; everything typed here commits with Enter. */
export function TruingSheet({ handle, subject, picking }: Props) {
  const { view } = handle;
  const { body, facts, key } = subject;
  const chain = facts.chain;
  if (!chain) {
    return (
      <Sheet label="Truing">
        <UnitFirst job={view.id} doing="any size" />
      </Sheet>
    );
  }
  const linked = chain.filter((_, i) => !body.correction!.free![i]);
  const common = linked[0] && linked.every((row) => Math.abs(row.factor / linked[0]!.factor - 1) < 1e-12) ? linked[0] : null;
  return (
    <Sheet label="Truing">
      <Head title="Overall size">
        <button
          type="button"
          className="link"
          disabled={chain.every((row) => row.factor === 1)}
          onClick={() => void handle.act({ do: "reset-correction", body: key }).catch(tell)}
        >
          Back to the file's size
        </button>
      </Head>
      <table className={sheetCss.table}>
        <thead>
          <tr>
            <th>Axis</th>
            <th className={sheetCss.r}>size, mm</th>
            <th className={sheetCss.r}>inch</th>
            <th className={sheetCss.r}>factor</th>
            <th className={sheetCss.r}>follows</th>
          </tr>
        </thead>
        <tbody>
          {chain.map((row, i) => (
            <tr key={row.axis}>
              <td className={css.axis}>{row.axis.toUpperCase()}</td>
              <td className={sheetCss.r}>
                <TypedField
                  label={`Size along ${row.axis.toUpperCase()}`}
                  value={mm(row.size_mm)}
                  full={digits(row.size_mm)}
                  width={96}
                  commit={(typed) => handle.act({ do: "size-axis", body: key, axis: row.axis, typed })}
                />
              </td>
              <td className={`${sheetCss.r} number soft`}>{inches(row.size_in)}</td>
              <td className={sheetCss.r}>
                <TypedField
                  label={`Factor along ${row.axis.toUpperCase()}`}
                  value={factor(row.factor)}
                  full={digits(row.factor)}
                  width={84}
                  commit={(typed) => handle.act({ do: "set-factor", body: key, axis: row.axis, typed })}
                />
              </td>
              <td className={sheetCss.r}>
                <FollowsLock handle={handle} subject={key} axis={row.axis} free={body.correction!.free![i]!} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={css.hint}>
        Type <code>171.5</code>, <code>17.15cm</code>, <code>6 3/4 in</code>, <code>2 ft 5</code> or <code>98 %</code>, then Enter. Esc puts
        the old one back.
      </p>
      <div className={css.row}>
        <span>Common factor or percentage</span>
        <TypedField
          label="Common factor"
          value={common ? factor(common.factor) : ""}
          full={common ? digits(common.factor) : ""}
          placeholder="per axis"
          width={110}
          disabled={!linked.length}
          commit={(typed) => handle.act({ do: "set-factor", body: key, axis: null, typed })}
        />
      </div>
      {facts.oval && (
        <p className={css.hint}>
          <span className="look">The factors differ: round bores and bosses become oval.</span>
        </p>
      )}
      {subject.body.kit && <p className={css.hint}>The whole kit follows: its bodies keep fitting together.</p>}
      <Readings handle={handle} subject={subject} picking={picking} />
      <Findings job={view.id} here="truing" findings={view.survey.findings} />
    </Sheet>
  );
}

/** Full precision without the noise of binary fractions. */
function digits(value: number): string {
  return String(Number(value.toPrecision(12)));
}

function FollowsLock({ handle, subject, axis, free }: { handle: JobHandle; subject: string; axis: Axis; free: boolean }) {
  const name = axis.toUpperCase();
  return (
    <button
      type="button"
      className={`${css.lock} ${free ? css.free : ""}`}
      aria-pressed={!free}
      aria-label={free ? `${name} is free; link it to the others` : `${name} follows the others; free it`}
      onClick={() => void handle.act({ do: "free-axis", body: subject, axis, free: !free }).catch(tell)}
    >
      <svg width="13" height="14" viewBox="0 0 13 14" aria-hidden fill="none" stroke="currentColor" strokeWidth="1.5">
        <path d="M1.5 6.5h10v6.5h-10z" fill={free ? "none" : "currentColor"} />
        <path d={free ? "M3.8 6V4a2.7 2.7 0 0 1 5.2-1" : "M3.8 6V4a2.7 2.7 0 0 1 5.4 0v2"} />
      </svg>
      {free ? "free" : "linked"}
    </button>
  );
}

function Readings({ handle, subject, picking }: Props) {
  const readings = readingsOf(handle.view, subject);
  const { facts } = subject;
  const newest = readings[readings.length - 1];
  const field = useRef<HTMLInputElement>(null);
  const { wanted, served } = picking;
  useEffect(() => {
    // After the second pick the hand goes to the keyboard: the real length is next.
    if (wanted && newest) {
      field.current?.focus();
      served();
    }
  }, [wanted, newest, served]);
  return (
    <section aria-label="Readings">
      <Head title="Readings">
        <button type="button" className={css.add} aria-pressed={picking.on} onClick={picking.on ? picking.stop : picking.start}>
          {picking.on ? "Stop picking" : "Pick two points"}
        </button>
      </Head>
      {picking.on && (
        <p className={css.picker} role="status">
          {picking.first ? (
            <>
              First place on a <b>{picking.first.anchor.on}</b>. Now click the second; Esc stops.
              {picking.distance != null && <span className="number"> {mm(picking.distance)} mm</span>}
            </>
          ) : (
            <>Click the first place on the body. It snaps to a corner or an edge when near.</>
          )}
        </p>
      )}
      {readings.length > 0 && (
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
                facts={facts}
                field={reading === newest ? field : undefined}
              />
            ))}
          </tbody>
        </table>
      )}
      {!readings.length && !picking.on && (
        <p className={sheetCss.text}>Pick two points on the body, type what a caliper says is between them, and the body follows.</p>
      )}
    </section>
  );
}

interface RowProps {
  number: number;
  handle: JobHandle;
  reading: Reading;
  facts: Subject["facts"];
  field?: React.RefObject<HTMLInputElement | null>;
}

function ReadingRow({ number, handle, reading, facts, field }: RowProps) {
  const now = facts.readings.find((one) => one.id === reading.id);
  if (!now) return null;
  const off = now.off_mm;
  return (
    <tr className={now.drives ? sheetCss.chosen : undefined} data-testid={`reading-${number}`}>
      <td className={css.number}>{number}</td>
      <td>
        <TypedField
          words
          label={`Name of reading ${number}`}
          value={reading.name}
          width={104}
          commit={(name) => handle.act({ do: "name-reading", reading: reading.id, name })}
        />
      </td>
      <td className={`${sheetCss.r} number`}>{mm(now.model_mm)}</td>
      <td className={sheetCss.r}>
        <TypedField
          inputRef={field}
          label={`Real length of reading ${number}`}
          value={reading.real_mm == null ? "" : reading.typed}
          placeholder="real"
          width={74}
          commit={(typed) => handle.act({ do: "set-reading", reading: reading.id, typed })}
        />
      </td>
      <td className={`${sheetCss.r} number ${off == null ? "soft" : now.met ? "settled" : "look"}`}>
        {off == null ? "–" : signed(off)}
      </td>
      <td>
        <button
          type="button"
          className={css.remove}
          aria-label={`Remove reading ${number}`}
          onClick={() => void handle.act({ do: "remove-reading", reading: reading.id }).catch(tell)}
        >
          ×
        </button>
      </td>
    </tr>
  );
}
