import { letterKey } from "../house/letterKey";
import {
  useEffect,
  useMemo,
  useRef,
  useState,
  type HTMLAttributes,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from "react";
import type { BodySurvey, Body, MachineInForce, Vec3 } from "../api/types";
import { Press } from "../blocks/Press";
import css from "./Bench.module.css";
import { apply, placed, placementOfEarlier, useBenchMeshes } from "./mesh";
import type { BenchMesh } from "./meshData";
import { bodyAt, makeSearchable, pickAt, type Pick } from "./picking";
import { idsOf, lightUp } from "./lit";
import { LitFrames } from "./LitFrames";
import { MachineInset } from "./MachineInset";
import { PlateLetters } from "./PlateLetters";
import { LOOKS, Scene, type Envelope, type Handle } from "./Scene";
import { Paper } from "./Paper";
import { steerOf } from "./steering";
import { StrokeNotes } from "./StrokeNotes";
import type { DrawnStrokes } from "./strokes";
import type { Box, Margins, Point2, View } from "./view";

export type Mode = "true" | "seated";

/** What a drawing over the bench is given. */
export interface Ground {
  view: View;
  box: Box;
  /** A point of a body's file, brought to where the bench shows it. */
  place: (body: string, point: readonly number[]) => Vec3;
}

/** A body with what the bench needs of it. */
export interface Shown {
  /** Which copy of the body this is, where there are several; else the id of the body. */
  id: string;
  body: Body;
  facts: BodySurvey;
  mesh: BenchMesh | undefined;
  colour: string;
  /** Another body that it stands with: it was made at that. */
  beside?: string;
}

interface Props {
  shown: Shown[];
  machine: MachineInForce;
  mode: Mode;
  margins: Margins;
  /** By how much the factor is dragged just now; null when it is not. */
  dragged: number | null;
  /** The size held against the machine in the inset; null leaves it out. */
  size: Vec3 | null;
  fits: boolean;
  /** Drawn over the bench: dimensions, marks. */
  children: (ground: Ground) => ReactNode;
  /** When given, places are picked: hovering tells, clicking takes. */
  onPick?: (pick: Pick) => void;
  onHover?: (pick: Pick | null) => void;
  /** A click on a body, or (null) beside all of them. */
  onSelect: (body: string | null, more: boolean) => void;
  /** Places of a finding, in numbers of the file of their body. */
  marks: Marks | null;
  /** Everything above this height, in mm, is left out, and what is cut is hatched; null for nothing. */
  cutAt?: number | null;
  /** From how many degrees off upright surface hangs over, and is stippled. */
  overhang?: number | null;
  /** Lines on the surface of a body. */
  strokes?: DrawnStrokes | null;
  /** What is selected, by id. */
  selected: readonly string[];
  /** Told when a key asks for a view of the bench. */
  onLook?: () => void;
  /** Something to say at the bench's top left. */
  says?: ReactNode;
}

/** Places to mark; `at` changes with each wish to fly there. */
export interface Marks {
  /** The first is flown to. */
  places: Mark[];
  at: number;
}

/** A place in numbers of the file: on a body, or on whatever body of a source is shown. */
export interface Mark {
  body: string | null;
  source: string | null;
  point: Vec3;
}

/** Bodies of so many triangles are not searched while the pointer merely passes. */
const HOVERED_UP_TO = 300_000;

/** What is drawn in place of a body: what it was, once that is fetched. */
function useEarlier(strokes: DrawnStrokes | null | undefined) {
  const wanted = strokes?.earlier?.shown ? strokes.earlier : null;
  const name = wanted ? `bench/${wanted.mesh}/full` : null;
  const { meshes } = useBenchMeshes(name ? [name] : []);
  const mesh = name ? meshes.get(name) : undefined;
  return useMemo(() => (wanted && mesh ? { ...wanted, mesh, of: strokes!.body } : null), [wanted, mesh, strokes]);
}

/** Where things are on the bench, and what is drawn there. */
function useDrawn(props: Props) {
  const { shown, mode, machine, marks, strokes } = props;
  const ground = useMemo(() => groundOf(shown, mode), [shown, mode]);
  const earlier = useEarlier(strokes);
  const drawn = useMemo(
    () =>
      shown.flatMap(({ id, body, facts, mesh, colour }) => {
        const was = earlier?.of === id ? earlier : null;
        const seen = was?.mesh ?? mesh;
        if (!seen) return [];
        const placement = was ? placementOfEarlier(facts.placement, was) : facts.placement;
        const matrix = placed(seen, placement, mode, ground.middleOf(id));
        return [{ id, mesh: seen, colour, lined: body.for_checking, matrix }];
      }),
    [shown, mode, ground, earlier],
  );
  const envelope = useMemo(
    (): Envelope | null => (mode === "seated" ? volumeAt(machine, [0, 0, 0]) : null),
    [machine, mode],
  );
  const around = useMemo(
    () => (mode === "true" && props.size ? aroundOf(machine, ground.box) : null),
    [mode, props.size, machine, ground],
  );
  const lines = useMemo(() => {
    const on = shown.find((one) => one.id === strokes?.body);
    if (!on || !strokes) return null;
    const origin = { origin: strokes.surface.origin as Vec3 };
    const matrix = placed(origin, on.facts.placement, mode, ground.middleOf(on.id));
    return { strokes, matrix, onDark: isDark(on.colour) };
  }, [strokes, shown, mode, ground]);
  const marked = useMemo(() => markedOf(marks, shown, ground), [marks, shown, ground]);
  const focus = useMemo(() => (marked.length ? { point: middleOf(marked), at: marks!.at } : null), [marked, marks]);
  return { ground, drawn, envelope, around, lines, marked, focus };
}

type DrawnBodies = ReturnType<typeof useDrawn>["drawn"];

/** What is under the pointer: the place of a gauge while places are picked, else a body. */
function usePointing({ onPick, onHover, onSelect }: Props, drawn: DrawnBodies, view: View | null) {
  const handle = useRef<Handle | null>(null);
  const pressed = useRef<Point2 | null>(null);
  const [hovered, setHovered] = useState<Pick | null>(null);
  const [under, setUnder] = useState<{ body: string; at: Point2 } | null>(null);
  const targets = () =>
    drawn.flatMap(({ id, mesh }) => {
      const object = handle.current?.bodies.get(id);
      return object ? [{ body: id, mesh: object, data: mesh }] : [];
    });
  const find = (event: PointerEvent): Pick | null =>
    view && handle.current ? pickAt(pixelOf(event), targets(), handle.current.camera, view) : null;
  const bodyUnder = (event: PointerEvent): string | null =>
    view && handle.current ? bodyAt(pixelOf(event), targets(), handle.current.camera, view) : null;
  const small = drawn.length > 1 && drawn.reduce((sum, one) => sum + one.mesh.triangles, 0) <= HOVERED_UP_TO;
  const pass = (event: PointerEvent) => {
    if (event.buttons !== 0) return setUnder(null);
    if (onPick) {
      const pick = find(event);
      setHovered(pick);
      return onHover?.(pick);
    }
    if (!small) return;
    for (const { mesh } of targets()) makeSearchable(mesh);
    const body = bodyUnder(event);
    setUnder(body ? { body, at: pixelOf(event) } : null);
    lightUp(body ? idsOf(body) : []);
  };
  const release = (event: PointerEvent) => {
    const from = pressed.current;
    pressed.current = null;
    if (!(event.target instanceof HTMLCanvasElement)) return; // a button in place of the drawing
    if (!from || Math.hypot(event.clientX - from[0], event.clientY - from[1]) > 4) return;
    if (!onPick) return onSelect(bodyUnder(event), event.shiftKey || event.ctrlKey || event.metaKey);
    const pick = find(event);
    if (pick) onPick(pick);
  };
  const on = {
    onPointerDown: (event: PointerEvent) => (pressed.current = [event.clientX, event.clientY]),
    onPointerMove: pass,
    onPointerLeave: () => {
      setUnder(null);
      lightUp([]);
    },
    onPointerUp: release,
  };
  return { handle, hovered: onPick ? hovered : null, under: onPick ? null : under, on };
}

function pixelOf(event: PointerEvent): Point2 {
  const frame = event.currentTarget.getBoundingClientRect();
  return [event.clientX - frame.left, event.clientY - frame.top];
}

/** The bench: bodies on drawing paper, turned by hand, with whatever is drawn over them. */
export function Bench(props: Props) {
  const { shown, machine, mode, margins } = props;
  const [view, setView] = useState<View | null>(null);
  const [look, setLook] = useState({ from: LOOKS.O!.from, at: 0 });
  const [facets, setFacets] = useState(false);
  const { ground, drawn, envelope, around, lines, marked, focus } = useDrawn(props);
  const { handle, hovered, under, on } = usePointing(props, drawn, view);
  const turn = (key: string) => setLook((now) => ({ from: key === "E" ? now.from : LOOKS[key]!.from, at: now.at + 1 }));
  useLookKeys((key) => {
    props.onLook?.();
    turn(key);
  });
  const complete = drawn.length === shown.length && shown.length > 0;
  const name = under && shown.find((one) => one.id === under.body)?.body.name;
  const seen = view && { view, box: ground.box, place: ground.place };
  return (
    <div
      className={css.bench}
      data-testid="bench"
      data-drawn={complete && view ? shown.map((one) => one.body.bench).join(" ") : undefined}
    >
      <Drawing {...props} handle={handle} on={on}>
        <Paper>
          <Scene
            bodies={drawn}
            box={ground.box}
            machine={envelope}
            cutAt={props.cutAt ?? null}
            overhang={props.overhang ?? null}
            strokes={lines}
            plate={mode === "seated"}
            dragged={props.dragged}
            onView={setView}
            {...{ facets, focus, around, margins, look, handle }}
          />
        </Paper>
      </Drawing>
      {seen && drawn.length > 0 && props.children(seen)}
      {seen && lines && <StrokeNotes strokes={lines.strokes} ground={seen} />}
      {view && (envelope ?? around) && <PlateLetters view={view} volume={(envelope ?? around)!} />}
      {view && <LitFrames drawn={drawn} view={view} />}
      {hovered && view && <SnapMark pick={hovered} view={view} />}
      {view && marked.length > 0 && <MarkRings points={marked.map(view.project)} />}
      {name && (
        <span className={css.snap} style={{ left: under.at[0], top: under.at[1] }} data-testid="under">
          {name}
        </span>
      )}
      {props.says && <div className={css.says}>{props.says}</div>}
      {props.size && mode === "true" && <MachineInset machine={machine} within={props.fits} size={props.size} />}
      <Views facets={facets} showFacets={setFacets} turn={turn} />
    </div>
  );
}

interface DrawingProps {
  shown: Shown[];
  selected: readonly string[];
  onSelect: Props["onSelect"];
  onPick?: Props["onPick"];
  handle: { current: Handle | null };
  on: HTMLAttributes<HTMLDivElement>;
  children: ReactNode;
}

/** What is turned by hand, or by keys: one stop of the keyboard, which then has the arrows. */
function Drawing({ shown, selected, onSelect, onPick, handle, on, children }: DrawingProps) {
  const steered = (event: KeyboardEvent) => {
    const step = steerOf(event.key, event.shiftKey);
    if (step) handle.current?.steer(step);
    else if (event.key.toUpperCase() === "N") onSelect(nextOf(shown, selected, event.shiftKey ? -1 : 1), false);
    else return;
    event.preventDefault();
  };
  return (
    <>
      {/* An application in the sense of ARIA: it has keys of its own. */}
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions */}
      <div
        className={[css.canvas, onPick && css.picking].filter(Boolean).join(" ")}
        role="application"
        aria-roledescription="drawing"
        aria-label={`drawn: ${shown.map((one) => one.body.name).join(", ")}`}
        aria-describedby="bench-keys"
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        tabIndex={0}
        onKeyDown={steered}
        {...on}
      >
        {children}
      </div>
      <p id="bench-keys" hidden>
        Arrows turn the view, with Shift they shift it, plus and minus zoom, N chooses the next body.
      </p>
    </>
  );
}

/** The body after the one that is selected, or before it; the first where none is. */
function nextOf(shown: Shown[], selected: readonly string[], step: number): string | null {
  const at = shown.findIndex(({ id }) => selected.includes(id));
  const to = at < 0 ? (step > 0 ? 0 : shown.length - 1) : (at + step + shown.length) % shown.length;
  return shown[to]?.id ?? null;
}

interface ViewsProps {
  facets: boolean;
  showFacets: (on: boolean) => void;
  turn: (key: string) => void;
}

/** The directions that the bench is seen from, and whether facets are drawn. */
function Views({ facets, showFacets, turn }: ViewsProps) {
  return (
    <div className={css.views} role="toolbar" aria-label="Views">
      <Press aria-pressed={facets} className={facets ? css.pressed : undefined} onClick={() => showFacets(!facets)}>
        facets
      </Press>
      {[...Object.keys(LOOKS), "E"].map((key) => (
        <Press key={key} onClick={() => turn(key)}>
          <kbd>{key}</kbd> {key === "E" ? "everything" : LOOKS[key]!.says}
        </Press>
      ))}
    </div>
  );
}

/** Whether ink would not be seen on a colour (its luma, ITU-R BT.601). */
function isDark(colour: string): boolean {
  const [r, g, b] = [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16));
  return 0.299 * r! + 0.587 * g! + 0.114 * b! < 96;
}

/** The machine's volume with the middle of its plate under the middle of a box. */
function aroundOf(machine: MachineInForce, { low, high }: Box): Envelope {
  const [x, y] = machine.room as Vec3;
  return volumeAt(machine, [(low[0] + high[0] - x) / 2, (low[1] + high[1] - y) / 2, low[2]]);
}

/** The machine's volume with its front left corner at a place. */
function volumeAt(machine: MachineInForce, corner: Vec3): Envelope {
  const high = corner.map((v, i) => v + machine.room[i]!) as Vec3;
  return {
    low: corner,
    high,
    round: machine.shape === "round",
    free: machine.free.map(([x, y]) => [corner[0] + x!, corner[1] + y!]),
  };
}

/** Where bodies are on the bench: their box, what is put at its origin, and how a file point of one of them gets there. */
function groundOf(shown: Shown[], mode: Mode) {
  const own = shown.map(({ body, facts }): Box => {
    if (mode === "seated" && facts.room) return { low: facts.room.low as Vec3, high: facts.room.high as Vec3 };
    const rows = facts.placement[mode] as Vec3[];
    const shift = facts.placement.true_shift;
    const [a, b] = [apply(rows, body.low), apply(rows, body.high)];
    return {
      low: a.map((v, i) => Math.min(v, b[i]!) + shift[i]!) as Vec3,
      high: a.map((v, i) => Math.max(v, b[i]!) + shift[i]!) as Vec3,
    };
  });
  const moves = mode === "true" ? inARow(shown, own) : own.map((): Vec3 => [0, 0, 0]);
  const boxes = own.map((box, k): Box => ({
    low: box.low.map((v, i) => v + moves[k]![i]!) as Vec3,
    high: box.high.map((v, i) => v + moves[k]![i]!) as Vec3,
  }));
  const whole = boxes.reduce(unionOf, boxes[0] ?? { low: [0, 0, 0], high: [1, 1, 1] });
  const middle = mode === "seated" ? ([0, 0, 0] as Vec3) : (whole.low.map((v, i) => (v + whole.high[i]!) / 2) as Vec3);
  const middleOf = (id: string): Vec3 => {
    const move = moves[shown.findIndex((one) => one.id === id)] ?? [0, 0, 0];
    return middle.map((v, i) => v - move[i]!) as Vec3;
  };
  const place = (id: string, point: readonly number[]): Vec3 => {
    const facts = (shown.find((one) => one.id === id) ?? shown.find((one) => one.body.id === id))?.facts;
    if (!facts) return [0, 0, 0];
    const shift = mode === "seated" ? facts.placement.seated_shift : facts.placement.true_shift;
    const origin = middleOf(id);
    return apply(facts.placement[mode] as Vec3[], point).map((v, i) => v + shift[i]! - origin[i]!) as Vec3;
  };
  const low = whole.low.map((v, i) => v - middle[i]!) as Vec3;
  const high = whole.high.map((v, i) => v - middle[i]!) as Vec3;
  return { middleOf, box: { low, high }, place };
}

/**
 * How bodies are moved to be seen side by side. Those of one kit share an origin and move as one; different kits
 * and files have none in common, and their own may be metres apart.
 */
function inARow(shown: Shown[], boxes: Box[]): Vec3[] {
  const own = new Map(shown.map(({ body }) => [body.id, body.kit ?? body.id]));
  const keys = shown.map(({ body, beside }) => (beside && own.get(beside)) || (body.kit ?? body.id));
  const groups = [...new Set(keys)];
  if (groups.length < 2) return boxes.map(() => [0, 0, 0]);
  const wholes = groups.map((group) => boxes.filter((_, k) => keys[k] === group).reduce(unionOf));
  const gap = Math.max(...wholes.map((box) => box.high[0] - box.low[0])) / 8;
  let at = 0;
  const moves = new Map(
    groups.map((group, k) => {
      const { low, high } = wholes[k]!;
      const move: Vec3 = [at - low[0], -(low[1] + high[1]) / 2, -low[2]];
      at += high[0] - low[0] + gap;
      return [group, move];
    }),
  );
  return keys.map((key) => moves.get(key)!);
}

function unionOf(a: Box, b: Box): Box {
  return {
    low: a.low.map((v, i) => Math.min(v, b.low[i]!)) as Vec3,
    high: a.high.map((v, i) => Math.max(v, b.high[i]!)) as Vec3,
  };
}

/** The places of a finding as bench points; those of a body that is not shown are left out. */
function markedOf(marks: Marks | null, shown: Shown[], ground: ReturnType<typeof groundOf>): Vec3[] {
  if (!marks) return [];
  return marks.places.flatMap((mark) => {
    const body = shown.find((one) => one.body.id === mark.body) ?? shown.find((one) => one.body.source === mark.source);
    return body ? [ground.place(body.id, mark.point)] : [];
  });
}

function middleOf(points: Vec3[]): Vec3 {
  // The first place, not the mean: the mean of holes around a body is inside it.
  return points[0]!;
}

function MarkRings({ points }: { points: Point2[] }) {
  return (
    <svg className={css.over} data-testid="marks" aria-hidden>
      {points.map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={i ? 6 : 11} fill="none" stroke="var(--stop)" strokeWidth="2" />
      ))}
    </svg>
  );
}

function useLookKeys(look: (key: string) => void) {
  const latest = useRef(look);
  latest.current = look;
  useEffect(() => {
    const pressed = (event: globalThis.KeyboardEvent) => {
      const key = letterKey(event);
      if (key && (key in LOOKS || key === "E")) latest.current(key);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
}

/** The mark under the pointer: a square on a vertex, a bar on an edge, a ring on the surface; and the word. */
function SnapMark({ pick, view }: { pick: Pick; view: View }) {
  const [x, y] = view.project(pick.point);
  const stroke = { fill: "none", stroke: "var(--stop)", strokeWidth: 2 };
  return (
    <>
      <svg className={css.over} aria-hidden>
        {pick.anchor.on === "vertex" && <path d={`M${x - 8} ${y}H${x + 8}M${x} ${y - 8}V${y + 8}`} {...stroke} />}
        {pick.anchor.on === "edge" && <path d={`M${x - 6} ${y + 6}L${x + 6} ${y - 6}`} {...stroke} />}
        {pick.anchor.on === "middle" && <path d={`M${x - 8} ${y + 5}L${x} ${y - 8}L${x + 8} ${y + 5}Z`} {...stroke} />}
        {pick.anchor.on === "surface" && <circle cx={x} cy={y} r={5} {...stroke} />}
      </svg>
      <span className={css.snap} style={{ left: x, top: y }} data-testid="snap">
        {pick.anchor.on === "middle" ? "middle of edge" : pick.anchor.on}
      </span>
    </>
  );
}
