import { Term } from "../../house/Term";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Lane, ReadingsVerdict } from "../../api/types";
import { Press } from "../../blocks/Press";
import { factor as shown } from "../../blocks/numbers";
import { Head } from "../../blocks/Sheet";
import type { Subject } from "../../job/subject";
import { readingsOf, truthKey } from "./readingsOf";
import css from "./TruingSheet.module.css";
import { rangeOf, ticksOf } from "./lanes";

interface Props {
  handle: JobHandle;
  subject: Subject;
  truth: ReadingsVerdict;
  drag: (ratio: number | null) => void;
}

const WIDE = 368;
const LANE = 30;
const TOP = 8;

/** The factors that the lanes show, and where each is across them. */
interface Scale {
  low: number;
  high: number;
  at: (value: number) => number;
  /** The same, within the lanes. */
  inside: (value: number) => number;
}

function scaleOf(truth: ReadingsVerdict): Scale {
  const [low, high] = rangeOf(truth);
  const at = (value: number) => ((value - low) / (high - low)) * WIDE;
  return { low, high, at, inside: (value) => Math.min(WIDE, Math.max(0, at(value))) };
}

/** The factor in force, moved by hand or by keys; it is taken when it is let go. */
function useFactorMove({ handle, subject, truth, drag }: Props, { low, high }: Scale) {
  const [moved, setMoved] = useState<number | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const now = moved ?? truth.factor;
  const move = (value: number) => {
    setMoved(value);
    drag(value / truth.factor);
  };
  const settle = (value: number | null) => {
    const end = () => {
      setMoved(null);
      drag(null);
    };
    if (value == null || value === truth.factor) return end();
    handle
      .act({ do: "scale-together", body: truthKey(subject), typed: String(Number(value.toPrecision(9))) })
      .catch(tell)
      .finally(end);
  };
  const under = (event: PointerEvent) => {
    const frame = box.current!.getBoundingClientRect();
    const share = (event.clientX - frame.left) / frame.width;
    return low + Math.min(1, Math.max(0, share)) * (high - low);
  };
  const pressed = (event: KeyboardEvent) => {
    const step = (high - low) / (event.shiftKey ? 20 : 200);
    if (event.key === "ArrowRight" || event.key === "ArrowUp") move(now + step);
    else if (event.key === "ArrowLeft" || event.key === "ArrowDown") move(Math.max(1e-6, now - step));
    else if (event.key === "Enter") settle(moved);
    else if (event.key === "Escape") settle(null);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return { box, now, moved, move, settle, under, pressed };
}

/** One lane per reading: which factors satisfy it; the shared window hatched; the factor in force, to be dragged. */
export function Lanes(props: Props) {
  const { handle, subject, truth } = props;
  const readings = readingsOf(handle.view, subject);
  const scale = scaleOf(truth);
  const { box, moved, now, move, settle, under, pressed } = useFactorMove(props, scale);
  const { low, high, at, inside } = scale;
  const foot = TOP + truth.lanes.length * LANE + 4;
  const drives = subject.decided.correction.readings!.length > 0 || truth.lanes.every((lane) => !lane.drives);
  return (
    <section aria-label="Factor">
      <LanesHead drives={drives} moved={moved} now={now} handle={handle} subject={subject} />
      <svg
        ref={box}
        className={css.lanes}
        viewBox={`0 0 ${WIDE} ${foot + 24}`}
        onPointerMove={(event) => moved != null && event.buttons === 1 && move(under(event))}
        onPointerUp={() => settle(moved)}
        data-testid="lanes"
      >
        <SharedWindow truth={truth} scale={scale} foot={foot} />
        {truth.lanes.map((lane, i) => {
          const number = readings.findIndex((reading) => reading.id === lane.reading) + 1;
          const name = readings[number - 1]?.name ?? "";
          const bad = truth.conflict.includes(lane.reading);
          return (
            <LaneRow
              key={lane.reading}
              lane={lane}
              number={number}
              y={TOP + i * LANE}
              scale={scale}
              name={name}
              bad={bad}
            />
          );
        })}
        <path d={`M0 ${foot}H${WIDE}`} stroke="var(--ink)" />
        {ticksOf(low, high).map(({ value, text }) => (
          <FactorTick key={text} text={text} at={at} value={value} foot={foot} />
        ))}
        <FactorHandle
          now={now}
          low={low}
          high={high}
          move={move}
          under={under}
          pressed={pressed}
          moved={moved}
          settle={settle}
          inside={inside}
          foot={foot}
        />
      </svg>
    </section>
  );
}

/** The factors that satisfy all readings, hatched over all lanes. */
function SharedWindow({ truth, scale, foot }: { truth: ReadingsVerdict; scale: Scale; foot: number }) {
  const { inside, high } = scale;
  return (
    <>
      <defs>
        <pattern id="window" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V6" stroke="var(--settled-bright)" strokeWidth="1" opacity=".55" />
        </pattern>
      </defs>
      {truth.window && (
        <rect
          x={inside(truth.window[0]!)}
          width={Math.max(1.5, inside(truth.window[1] ?? high) - inside(truth.window[0]!))}
          y={2}
          height={foot - 2}
          fill="url(#window)"
          data-testid="window"
        />
      )}
    </>
  );
}

interface LanesHeadProps {
  drives: boolean;
  moved: number | null;
  now: number;
  handle: JobHandle;
  subject: Subject;
}

/** Which factor is in force, and how to let the readings decide again. */
function LanesHead({ drives, moved, now, handle, subject }: LanesHeadProps) {
  return (
    <Head title="Factor">
      <Term of="lanes" />{" "}
      {drives || moved != null ? (
        <span className="number">{shown(now)}</span>
      ) : (
        <Press
          className="link"
          onClick={() => void handle.act({ do: "solve-readings", body: truthKey(subject), free: null }).catch(tell)}
        >
          True to the readings
        </Press>
      )}
    </Head>
  );
}

interface FactorTickProps {
  text: string;
  at: (value: number) => number;
  value: number;
  foot: number;
}

/** A factor worth a mark on the axis, with its name. */
function FactorTick({ text, at, value, foot }: FactorTickProps) {
  return (
    <g>
      <path d={`M${at(value)} ${foot}v5`} stroke="var(--ink)" />
      <text x={Math.min(WIDE - 16, Math.max(16, at(value)))} y={foot + 17} textAnchor="middle" className={css.tickName}>
        {text}
      </text>
    </g>
  );
}

interface LaneRowProps {
  lane: Lane;
  number: number;
  y: number;
  scale: Scale;
  name: string;
  bad: boolean;
}

/** The lane of one reading: which factors satisfy it. */
function LaneRow({ lane, number, y, scale, name, bad }: LaneRowProps) {
  const { at, inside, high } = scale;
  const ink = bad ? "var(--stop)" : lane.drives ? "var(--ink)" : "var(--rule-strong)";
  const from = lane.low == null ? 0 : inside(lane.low);
  const to = lane.low == null ? 0 : Math.max(from + 3, inside(lane.high ?? high));
  const label = Math.min(from, WIDE - 150);
  return (
    <g data-lane={number}>
      <path d={`M0 ${y + 18}H${WIDE}`} stroke="var(--rule-fine)" strokeWidth="1" />
      {lane.low != null && (
        <rect
          x={from}
          width={to - from}
          y={y + 14}
          height={8}
          fill={lane.drives ? ink : "none"}
          stroke={ink}
          strokeDasharray={lane.drives ? undefined : "3 2"}
        />
      )}
      {lane.wanted != null && lane.low != null && (
        <path d={`M${at(lane.wanted)} ${y + 12}v12`} stroke={ink} strokeWidth="1" />
      )}
      <text x={label} y={y + 10.5} fill={ink} className={css.laneName}>
        {number} {name}
        {lane.low == null ? ", at no factor" : bad ? ", in conflict" : ""}
      </text>
    </g>
  );
}

interface FactorHandleProps {
  now: number;
  low: number;
  high: number;
  move: (value: number) => void;
  under: (event: PointerEvent<Element>) => number;
  pressed: (event: KeyboardEvent<Element>) => void;
  moved: number | null;
  settle: (value: number | null) => void;
  inside: (value: number) => number;
  foot: number;
}

/** The factor in force, to be dragged or moved by keys. */
function FactorHandle({ now, low, high, move, under, pressed, moved, settle, inside, foot }: FactorHandleProps) {
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label="Factor in force"
      aria-valuenow={now}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuetext={shown(now)}
      className={css.handle}
      onPointerDown={(event) => {
        (event.currentTarget.ownerSVGElement as SVGSVGElement).setPointerCapture(event.pointerId);
        move(under(event));
      }}
      onKeyDown={pressed}
      onBlur={() => moved != null && settle(null)}
    >
      <rect x={inside(now) - 8} y={0} width={16} height={foot + 8} fill="transparent" />
      <path d={`M${inside(now)} 0V${foot}`} stroke="var(--ink)" strokeWidth="1.8" />
      <path d={`M${inside(now)} ${foot - 1}l-6 9h12z`} fill="var(--ink)" />
    </g>
  );
}
