import { Unseen } from "../../blocks/Unseen";
import { type RefObject, useEffect, useRef } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Gauge, Reading, ReadingState } from "../../api/types";
import { Press } from "../../blocks/Press";
import { mm, signed } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import { SIGNS } from "./gauges";
import { ReadingDetails } from "./ReadingDetails";
import css from "./TruingSheet.module.css";
import { type Picking } from "./usePicking";

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

export function ReadingRow({ number, handle, reading, now, open, toggle, picking, field, entered, focused }: RowProps) {
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
        <Off off={off} tone={tone} />
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

/** How far a reading is off, and in words whether it is met. */
function Off({ off, tone }: { off: number | null | undefined; tone: "soft" | "settled" | "look" }) {
  return (
    <td className={`${sheetCss.r} number ${css.off} ${tone}`}>
      {off == null ? "–" : signed(off)}
      {tone === "settled" && <Unseen> met</Unseen>}
      {tone === "look" && <small>missed</small>}
    </td>
  );
}
