import { useMemo } from "react";
import type { LayerPaths, PathKind } from "../../../api/types";
import type { Ground } from "../../../bench/Bench";
import benchCss from "../../../bench/Bench.module.css";
import type { Frame } from "../PlanFrame";
import css from "../Seating.module.css";
import { upTo } from "./along";
import { KINDS } from "./costOf";

interface LineStyle {
  stroke: string;
  width: number;
  dashes?: string;
}

/** Kinds of paths are told apart by how they are drawn, as on any drawing: weight and dashes, no colours. */
const STYLES: Readonly<Record<PathKind, LineStyle>> = {
  outline: { stroke: "var(--ink)", width: 2.2 },
  shell: { stroke: "var(--ink)", width: 1.1 },
  solid: { stroke: "var(--ink-soft)", width: 0.7 },
  infill: { stroke: "var(--rule-strong)", width: 1.1 },
  support: { stroke: "var(--ink-soft)", width: 1, dashes: "9 3 2 3" },
  around: { stroke: "var(--ink)", width: 1, dashes: "5 3" },
  travel: { stroke: "var(--rule-worn)", width: 0.8, dashes: "1 4" },
};
const ORDER = Object.keys(KINDS) as PathKind[];

type Place = (x: number, y: number) => readonly number[];

/** What each kind of path is on the page. */
function drawnBy(paths: LayerPaths, at: Place): Map<PathKind, string> {
  const lines = new Map<PathKind, string[]>();
  for (const run of paths.runs) {
    const places = run.points.map(([x, y]) => {
      const [left, top] = at(x!, y!);
      return `${left!.toFixed(1)} ${top!.toFixed(1)}`;
    });
    const line = `M${places.join("L")}`;
    const mine = lines.get(run.kind);
    if (mine) mine.push(line);
    else lines.set(run.kind, [line]);
  }
  return new Map([...lines].map(([kind, some]) => [kind, some.join("")]));
}

/** The way through one layer, on the plate from above. */
export function PathLines({ paths, along, frame }: { paths: LayerPaths; along: number; frame: Frame }) {
  const begun = useMemo(() => upTo(paths, along), [paths, along]);
  const lines = useMemo(() => drawnBy(begun.paths, frame.at), [begun, frame]);
  return (
    <g data-testid="paths" pointerEvents="none" fill="none" strokeLinejoin="round">
      <PathsByKind lines={lines} />
      {begun.end && <Head at={frame.at(begun.end[0]!, begun.end[1]!)} />}
      <PathLegend kinds={ORDER.filter((kind) => paths.runs.some((run) => run.kind === kind))} frame={frame} />
    </g>
  );
}

/** The way through one layer, over the bench, at its height. */
export function PathsOverBench({ paths, along, ground }: { paths: LayerPaths; along: number; ground: Ground }) {
  const begun = useMemo(() => upTo(paths, along), [paths, along]);
  const at: Place = (x, y) => ground.view.project([x, y, paths.top_mm]);
  const lines = drawnBy(begun.paths, at);
  return (
    <svg className={benchCss.over} aria-hidden data-testid="paths-bench" fill="none" strokeLinejoin="round">
      <PathsByKind lines={lines} />
      {begun.end && <Head at={at(begun.end[0]!, begun.end[1]!)} />}
    </svg>
  );
}

/** Where the machine is. */
function Head({ at: [x, y] }: { at: readonly number[] }) {
  return (
    <circle data-testid="path-head" cx={x} cy={y} r="5" fill="var(--stop)" stroke="var(--page)" strokeWidth="1.5" />
  );
}

/** Lines of all kinds, what matters most drawn last. */
function PathsByKind({ lines }: { lines: Map<PathKind, string> }) {
  return [...ORDER]
    .reverse()
    .filter((kind) => lines.has(kind))
    .map((kind) => (
      <path
        key={kind}
        data-kind={kind}
        d={lines.get(kind)}
        stroke={STYLES[kind].stroke}
        strokeWidth={STYLES[kind].width}
        strokeDasharray={STYLES[kind].dashes}
      />
    ));
}

const STEP = 92;

/** How the kinds that are there are drawn. */
function PathLegend({ kinds, frame }: { kinds: PathKind[]; frame: Frame }) {
  const y = frame.top + frame.high + 66;
  const left = frame.left + frame.wide / 2 - (kinds.length * STEP) / 2;
  return (
    <g>
      {kinds.map((kind, i) => {
        const style = STYLES[kind];
        return (
          <g key={kind} transform={`translate(${left + i * STEP} ${y})`}>
            <path d="M0 0H24" stroke={style.stroke} strokeWidth={style.width} strokeDasharray={style.dashes} />
            <text className={css.caption} x={29} y={4} fill="var(--ink)" stroke="none">
              {SHORT[kind] ?? KINDS[kind]}
            </text>
          </g>
        );
      })}
    </g>
  );
}

const SHORT: Partial<Record<PathKind, string>> = { solid: "solid" };
