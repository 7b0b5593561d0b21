import { useState } from "react";
import type { Axis, Vec3 } from "../api/types";
import { Press } from "../blocks/Press";
import { TypedField } from "../blocks/TypedField";
import css from "./Bench.module.css";
import type { Ground } from "./Bench";
import { gaugeDimensions, overallDimension, straight, tick, type Laid } from "./dimension";
import { cornersOf, type Point2 } from "./view";

/** The numeral of a dimension line. */
export interface Numeral {
  text: string;
  /** What typing starts from. */
  full?: string;
  label: string;
  prefix?: string;
  suffix?: string;
  /** When given, clicking the numeral edits it. */
  commit?: (typed: string, again: boolean) => Promise<unknown>;
  colour?: string;
}

interface Overall {
  ground: Ground;
  numerals: Partial<Record<Axis, Numeral>>;
}

/** The three overall sizes as dimension lines around the body. */
export function OverallDimensions({ ground, numerals }: Overall) {
  const laid = (["x", "y", "z"] as Axis[]).flatMap((axis) => {
    const numeral = numerals[axis];
    const drawn = numeral && overallDimension(axis, ground.box, ground.view, 34);
    return numeral && drawn ? [{ key: axis, numeral, drawn }] : [];
  });
  return <Drawn items={laid} />;
}

export interface GaugeLine {
  key: string;
  a: Vec3;
  b: Vec3;
  numeral: Numeral;
  /** Drawn straight between its places, as a diameter is. */
  within?: boolean;
  /** Drawn around the body through these places instead, as a tape goes. */
  around?: Vec3[];
}

/** Gauges between two places as dimension lines clear of the body, or straight between them. */
export function GaugeDimensions({ ground, gauges, onBody }: { ground: Ground; gauges: GaugeLine[]; onBody?: boolean }) {
  const { view, box } = ground;
  const outline = cornersOf(box).map(view.project);
  const items = gauges.flatMap((gauge, index) => {
    const [from, to] = [view.project(gauge.a), view.project(gauge.b)];
    const sides = onBody || gauge.within ? [] : gaugeDimensions(from, to, outline, index);
    const fits = ({ line, middle }: Laid) => [middle, ...line].every((at) => inside(at, view.width, view.height));
    const drawn = sides.find(fits) ?? straight(from, to);
    const around = gauge.around?.map((place) => view.project(place));
    if (around) drawn.middle = around.reduce((high, one) => (one[1] < high[1] ? one : high));
    return [{ key: gauge.key, numeral: gauge.numeral, drawn, around, ends: around ? [] : ([from, to] as Point2[]) }];
  });
  return <Drawn items={items} />;
}

function inside([x, y]: Point2, width: number, height: number): boolean {
  return x > 24 && x < width - 24 && y > 44 && y < height - 190;
}

interface Item {
  key: string;
  numeral: Numeral;
  drawn: Laid;
  ends?: Point2[];
  around?: Point2[];
}

function Drawn({ items }: { items: Item[] }) {
  return (
    <>
      <svg className={css.over} aria-hidden>
        {items.map(({ key, drawn, numeral, ends, around }) => (
          <g key={key} stroke={numeral.colour ?? "var(--ink)"} fill="none" data-dimension={key}>
            {drawn.extensions.map(([from, to], i) => (
              <path key={i} d={path(from, to)} strokeWidth={0.8} className="extension" />
            ))}
            {around ? (
              <path
                d={`M${around.map((at) => at.map((v) => v.toFixed(1)).join(" ")).join("L")}Z`}
                strokeWidth={1.6}
                strokeDasharray="6 3"
              />
            ) : (
              <path d={path(...drawn.line)} strokeWidth={1} />
            )}
            {(around ? [] : drawn.line).map((end, i) => (
              <path key={i} d={path(...tick(end, drawn.line))} strokeWidth={1.9} />
            ))}
            {ends?.map(([x, y], i) => (
              <circle key={i} cx={x} cy={y} r={2.6} fill={numeral.colour ?? "var(--ink)"} stroke="none" />
            ))}
          </g>
        ))}
      </svg>
      {items.map(({ key, drawn, numeral }) => (
        <NumeralAt key={key} at={drawn.middle} numeral={numeral} />
      ))}
    </>
  );
}

function path(from: Point2, to: Point2): string {
  return `M${from[0].toFixed(1)} ${from[1].toFixed(1)}L${to[0].toFixed(1)} ${to[1].toFixed(1)}`;
}

function NumeralAt({ at, numeral }: { at: Point2; numeral: Numeral }) {
  const [typing, setTyping] = useState(false);
  const style = { left: at[0], top: at[1], color: numeral.colour };
  if (typing && numeral.commit) {
    return (
      <div className={`${css.numeral} ${css.typing}`} style={style}>
        <TypedField
          value={numeral.text}
          full={numeral.full}
          label={numeral.label}
          commit={numeral.commit}
          done={() => setTyping(false)}
          startTyping
          width={108}
        />
      </div>
    );
  }
  const inner = (
    <>
      {numeral.prefix && <small>{numeral.prefix}</small>} {numeral.text} {numeral.suffix && <em>{numeral.suffix}</em>}
    </>
  );
  return (
    <div className={css.numeral} style={style}>
      {numeral.commit ? (
        <Press
          onClick={() => setTyping(true)}
          aria-label={`${[numeral.prefix, numeral.text, numeral.suffix].filter(Boolean).join(" ")}, ${numeral.label}, click to type`}
        >
          {inner}
        </Press>
      ) : (
        <span className={css.plain}>{inner}</span>
      )}
    </div>
  );
}
