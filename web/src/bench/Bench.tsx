import { Canvas } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState, type PointerEvent, type ReactNode } from "react";
import { Matrix4 } from "three";
import type { BodySurvey, Body, Machine, Vec3 } from "../api/types";
import css from "./Bench.module.css";
import { apply, placed, type BenchMesh } from "./mesh";
import { pickAt, type Pick } from "./picking";
import { MachineInset } from "./MachineInset";
import { LOOKS, Scene, type Handle } from "./Scene";
import type { Box, Margins, Point2, View } from "./view";

export type Mode = "true" | "seated";

/** What a drawing over the bench is given. */
export interface Ground {
  view: View;
  box: Box;
  /** A point of the file, brought to where the bench shows it. */
  place: (point: readonly number[]) => Vec3;
}

interface Props {
  body: Body;
  facts: BodySurvey;
  mesh: BenchMesh | undefined;
  machine: Machine;
  mode: Mode;
  margins: Margins;
  /** Drawn over the bench: dimensions, marks. */
  children: (ground: Ground) => ReactNode;
  /** When given, places are picked: hovering tells, clicking takes. */
  onPick?: (pick: Pick) => void;
  onHover?: (pick: Pick | null) => void;
  /** Something to say at the bench's top left. */
  says?: ReactNode;
}

/** The bench: the body on drawing paper, turned by hand, with whatever is drawn over it. */
export function Bench(props: Props) {
  const { body, facts, mesh, machine, mode, margins, onPick, onHover } = props;
  const [view, setView] = useState<View | null>(null);
  const [look, setLook] = useState({ from: LOOKS.O!.from, at: 0 });
  const handle = useRef<Handle | null>(null);
  const pressed = useRef<Point2 | null>(null);
  const [hovered, setHovered] = useState<Pick | null>(null);

  const ground = useMemo(() => groundOf(body, facts, mode), [body, facts, mode]);
  const matrix = useMemo(
    () => (mesh ? placed(mesh, facts.placement, mode, ground.middle) : new Matrix4()),
    [mesh, facts, mode, ground],
  );
  const envelope = useMemo(
    (): Box | null => (mode === "seated" ? { low: [0, 0, 0], high: machine.volume as Vec3 } : null),
    [machine, mode],
  );

  useLookKeys((key) => setLook((now) => (key === "E" ? { from: now.from, at: now.at + 1 } : { from: LOOKS[key]!.from, at: now.at + 1 })));

  const find = (event: PointerEvent): Pick | null => {
    const now = handle.current;
    if (!mesh || !view || !now?.body) return null;
    const frame = event.currentTarget.getBoundingClientRect();
    return pickAt([event.clientX - frame.left, event.clientY - frame.top], now.body, mesh, now.camera, view);
  };
  const hover = (pick: Pick | null) => {
    setHovered(pick);
    onHover?.(pick);
  };

  return (
    <div className={css.bench} data-testid="bench" data-drawn={mesh && view ? body.bench : undefined}>
      <div
        className={[css.canvas, onPick && css.picking].filter(Boolean).join(" ")}
        role="img"
        aria-label={`${body.name}, drawn`}
        onPointerDown={(event) => (pressed.current = [event.clientX, event.clientY])}
        onPointerMove={(event) => onPick && event.buttons === 0 && hover(find(event))}
        onPointerUp={(event) => {
          const from = pressed.current;
          pressed.current = null;
          if (!onPick || !from || Math.hypot(event.clientX - from[0], event.clientY - from[1]) > 4) return;
          const pick = find(event);
          if (pick) onPick(pick);
        }}
      >
        <Canvas orthographic frameloop="demand" flat dpr={[1, 2]} gl={{ antialias: true, alpha: true }}>
          <Scene
            mesh={mesh}
            matrix={matrix}
            box={ground.box}
            machine={envelope}
            plate={mode === "seated"}
            margins={margins}
            look={look}
            handle={handle}
            onView={setView}
          />
        </Canvas>
      </div>
      {view && mesh && props.children({ view, box: ground.box, place: ground.place })}
      {onPick && hovered && view && <SnapMark pick={hovered} view={view} />}
      {props.says && <div className={css.says}>{props.says}</div>}
      {facts.chain && mode === "true" && <MachineInset machine={machine} within={facts.fits_as_it_lies ?? true} size={facts.chain.map((row) => row.size_mm) as Vec3} />}
      <div className={css.views} role="toolbar" aria-label="Views">
        {[...Object.keys(LOOKS), "E"].map((key) => (
          <button
            key={key}
            type="button"
            onClick={() => setLook((now) => ({ from: key === "E" ? now.from : LOOKS[key]!.from, at: now.at + 1 }))}
          >
            <kbd>{key}</kbd> {key === "E" ? "everything" : LOOKS[key]!.says}
          </button>
        ))}
      </div>
    </div>
  );
}

/** Where the body is on the bench: its box, its middle, and how a file point gets there. */
function groundOf(body: Body, facts: BodySurvey, mode: Mode) {
  const rows = facts.placement[mode] as Vec3[];
  const [a, b] = [apply(rows, body.low), apply(rows, body.high)];
  const middle = a.map((v, i) => (v + b[i]!) / 2) as Vec3;
  if (mode === "seated" && facts.room) {
    const shift = facts.placement.seated_shift;
    return {
      middle,
      box: { low: facts.room.low as Vec3, high: facts.room.high as Vec3 },
      place: (point: readonly number[]) => apply(rows, point).map((v, i) => v + shift[i]!) as Vec3,
    };
  }
  const half = a.map((v, i) => Math.abs(v - b[i]!) / 2) as Vec3;
  return {
    middle,
    box: { low: half.map((h) => -h) as Vec3, high: half },
    place: (point: readonly number[]) => apply(rows, point).map((v, i) => v - middle[i]!) as Vec3,
  };
}

function useLookKeys(look: (key: string) => void) {
  const latest = useRef(look);
  latest.current = look;
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const at = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || at.matches("input, textarea, select")) return;
      const key = event.key.toUpperCase();
      if (key in LOOKS || key === "E") latest.current(key);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
}

/** The mark under the pointer: a square on a vertex, a bar on an edge, a ring on the surface; and the word. */
function SnapMark({ pick, view }: { pick: Pick; view: View }) {
  const [x, y] = view.project(pick.point);
  const stroke = { fill: "none", stroke: "#b83a24", strokeWidth: 2 };
  return (
    <>
      <svg className={css.over} aria-hidden>
        {pick.anchor.on === "vertex" && <path d={`M${x - 8} ${y}H${x + 8}M${x} ${y - 8}V${y + 8}`} {...stroke} />}
        {pick.anchor.on === "edge" && <path d={`M${x - 6} ${y + 6}L${x + 6} ${y - 6}`} {...stroke} />}
        {pick.anchor.on === "surface" && <circle cx={x} cy={y} r={5} {...stroke} />}
      </svg>
      <span className={css.snap} style={{ left: x, top: y }} data-testid="snap">
        {pick.anchor.on}
      </span>
    </>
  );
}
