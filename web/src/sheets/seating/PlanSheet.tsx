import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { PlateNow, SeatNow, Tried, Vec3 } from "../../api/types";
import { fillsOf, paler } from "../../bench/colours";
import { mm } from "../../blocks/numbers";
import css from "./Seating.module.css";
import { seatOf, type Seating } from "./useSeating";

const BAND = 26;
const AROUND = { top: 78, right: 76, bottom: 236, left: 76 };
const LETTERS = "ABCDEFGHI";
const INK = "#22262b";
const SIGNS = { overlap: "#b83a24", outside: "#b83a24", margin: "#865b07", tilt: "#865b07", sunk: "#b83a24", lifted: INK } as const;

interface Frame {
  scale: number;
  /** Millimetres on the plate to pixels. */
  at: (x: number, y: number) => [number, number];
  left: number;
  top: number;
  wide: number;
  high: number;
}

/** The plate from above, as a drawing sheet: zones in its border, ticks along it, seats with balloons. */
export function PlanSheet({ handle, seating, size }: { handle: JobHandle; seating: Seating; size: { width: number; height: number } }) {
  const { view } = handle;
  const { plate, seats, plan, seat, choose, cut } = seating;
  const volume = plate.machine.volume!;
  const [x, y] = (volume.shape === "round" ? [volume.diameter, volume.diameter] : volume.size!) as [number, number];
  const frame = useMemo(() => framed(x, y, size), [x, y, size]);
  const fills = useMemo(() => fillsOf(view.job.bodies), [view]);
  const hand = useHand(handle, seat, frame, choose, seating.step);
  const rings = useMemo(() => new Map((cut ?? plan)?.seats.map((one) => [one.id, one.rings]) ?? []), [plan, cut]);
  const outlines = useMemo(() => new Map(plan?.seats.map((one) => [one.id, one.rings]) ?? []), [plan]);
  const path = (some: readonly (readonly (readonly number[])[])[] | undefined) =>
    (some ?? []).map((ring) => `M${ring.map(([px, py]) => frame.at(px!, py!).map((v) => v.toFixed(1)).join(" ")).join("L")}Z`).join("");
  const shown = [...seats].sort((a, b) => Number(a.id === seat?.id) - Number(b.id === seat?.id) || a.lift_mm - b.lift_mm);
  const below = view.survey.seats.filter((one) => plate.follows && one.plate === plate.follows && one.room);
  return (
    <div className={css.plan} data-testid="plan" data-ready={seating.fresh ? "yes" : undefined}>
      <svg
        tabIndex={0}
        role="application"
        aria-label={`plate ${seating.number} from above; arrow keys move the chosen seat, Shift ten times as far`}
        onKeyDown={hand.pressed}
        onPointerDown={() => undefined}
      >
        <Patterns />
        <SheetFrame plate={plate} frame={frame} number={seating.number} of={view.survey.plates.length} x={x} y={y} />
        <clipPath id="on-plate">{plateShape(plate, frame, x, y)}</clipPath>
        {below.map((one) => (
          <rect key={one.id} {...boxOf(one, frame)} fill="none" stroke="#8d8677" strokeDasharray="3 4" />
        ))}
        {shown.map((one) => {
          const moved = one.id === seat?.id && hand.offset ? hand.offset : [0, 0];
          const [dx, dy] = [moved[0]! * frame.scale, -moved[1]! * frame.scale];
          const marks = one.id === seat?.id && hand.tried ? hand.tried.marks : one.marks;
          const colour = fills.get(one.bodies[0]!.body)!;
          const away = seat && one.id !== seat.id;
          const d = path(rings.get(one.id));
          const grave = marks.includes("overlap") || hand.tried?.beside.includes(one.id);
          return (
            <g key={one.id} className={css.seat} transform={`translate(${dx} ${dy})`} data-testid={`plan-seat-${one.number}`} data-marks={marks.join(" ")} onPointerDown={(event) => hand.down(event, one)}>
              {cut ? (
                <>
                  <path d={path(outlines.get(one.id))} fill={paler(colour)} stroke="#a39c8d" strokeWidth="0.8" fillRule="evenodd" opacity="0.6" />
                  <path d={d} fill="url(#cut)" stroke={INK} strokeWidth="1.5" fillRule="evenodd" />
                </>
              ) : (
                <>
                  <path d={d} fill={away ? paler(colour) : colour} stroke={INK} strokeWidth={one.id === seat?.id ? 2 : 1.1} fillRule="evenodd" />
                  {marks.includes("outside") && <path d={d} fill="url(#out)" fillRule="evenodd" stroke="#b83a24" strokeWidth="1.6" />}
                  {grave && <path d={d} fill="url(#clash)" fillRule="evenodd" />}
                  {marks.includes("tilt") && <path d={d} fill="url(#tilted)" fillRule="evenodd" />}
                </>
              )}
            </g>
          );
        })}
        {/* What is inside is drawn over the hatch again, so that only what is outside stays hatched. */}
        {!cut &&
          shown
            .filter((one) => one.marks.includes("outside") && !(one.id === seat?.id && hand.offset))
            .map((one) => <path key={one.id} d={path(rings.get(one.id))} clipPath="url(#on-plate)" fill={fills.get(one.bodies[0]!.body)} stroke={INK} strokeWidth={one.id === seat?.id ? 2 : 1.1} fillRule="evenodd" pointerEvents="none" />)}
        {!cut && shown.map((one) => one.room && <Balloon key={one.id} seat={one} frame={frame} offset={one.id === seat?.id ? hand.offset : null} chosen={one.id === seat?.id} rings={outlines.get(one.id)} />)}
        {!hand.offset && !cut && seat?.room && seat.marks.includes("outside") && <Beyond seat={seat} frame={frame} x={x} y={y} />}
        {hand.offset && hand.tried && hand.tried.says.length > 0 && (
          <text className={css.amount} x={frame.left + frame.wide / 2} y={frame.top + frame.high + BAND + 22}>
            {hand.tried.says.slice(0, 2).join("; ")}
          </text>
        )}
      </svg>
    </div>
  );
}

function framed(x: number, y: number, size: { width: number; height: number }): Frame {
  const wide = size.width - AROUND.left - AROUND.right - 2 * BAND;
  const high = size.height - AROUND.top - AROUND.bottom - 2 * BAND;
  const scale = Math.max(0.05, Math.min(wide / x, high / y));
  const left = AROUND.left + BAND + (wide - x * scale) / 2;
  const top = AROUND.top + BAND + (high - y * scale) / 2;
  return { scale, left, top, wide: x * scale, high: y * scale, at: (px, py) => [left + px * scale, top + (y - py) * scale] };
}

function boxOf(seat: SeatNow, frame: Frame) {
  const [low, high] = [seat.room!.low, seat.room!.high];
  const [left, top] = frame.at(low[0]!, high[1]!);
  return { x: left, y: top, width: (high[0]! - low[0]!) * frame.scale, height: (high[1]! - low[1]!) * frame.scale };
}

function plateShape(plate: PlateNow, frame: Frame, x: number, y: number) {
  if (plate.machine.volume!.shape === "round") return <circle cx={frame.left + frame.wide / 2} cy={frame.top + frame.high / 2} r={(x * frame.scale) / 2} />;
  return <rect x={frame.left} y={frame.top} width={x * frame.scale} height={y * frame.scale} />;
}

/** The border in zones, mm ticks, the room within margins as a chain line, the front left corner. */
function SheetFrame({ plate, frame, number, of, x, y }: { plate: PlateNow; frame: Frame; number: number; of: number; x: number; y: number }) {
  const { left, top, wide, high } = frame;
  const columns = Array.from({ length: plate.columns }, (_, i) => left + (wide * (i + 0.5)) / plate.columns);
  const rows = Array.from({ length: plate.rows }, (_, i) => top + high - (high * (i + 0.5)) / plate.rows);
  const round = plate.machine.volume!.shape === "round";
  const dividers = [
    ...Array.from({ length: plate.columns - 1 }, (_, i) => left + (wide * (i + 1)) / plate.columns).map((v) => `M${v} ${top - BAND}V${top}M${v} ${top + high}V${top + high + BAND}`),
    ...Array.from({ length: plate.rows - 1 }, (_, i) => top + (high * (i + 1)) / plate.rows).map((v) => `M${left - BAND} ${v}H${left}M${left + wide} ${v}H${left + wide + BAND}`),
  ];
  const step = x > 600 ? 50 : 10;
  const ticks = [
    ...Array.from({ length: Math.floor(x / step) + 1 }, (_, i) => i * step).map((v) => `M${frame.at(v, 0)[0]} ${top + high}v${v % (5 * step) ? -5 : -9}`),
    ...Array.from({ length: Math.floor(y / step) + 1 }, (_, i) => i * step).map((v) => `M${left} ${frame.at(0, v)[1]}h${v % (5 * step) ? 5 : 9}`),
  ];
  const room = plate.corners.map(([px, py]) => frame.at(px!, py!).map((v) => v.toFixed(1)).join(" "));
  return (
    <g aria-hidden>
      <text className={css.title} x={left - BAND} y={top - BAND - 14}>
        plate {number} of {of}
        {plate.follows ? ", a second pass" : ""}
      </text>
      <text className={css.caption} x={left + wide + BAND} y={top - BAND - 14} textAnchor="end">
        from above; P plan, O oblique
      </text>
      <rect x={left - BAND} y={top - BAND} width={wide + 2 * BAND} height={high + 2 * BAND} fill="#fffdf8" stroke={INK} strokeWidth="1.6" />
      <rect x={left} y={top} width={wide} height={high} fill={round ? "url(#beside)" : "#fbf9f4"} stroke={INK} strokeWidth={round ? 0.8 : 1.2} />
      {round && <circle cx={left + wide / 2} cy={top + high / 2} r={(x * frame.scale) / 2} fill="#fbf9f4" stroke={INK} strokeWidth="1.4" />}
      <path d={dividers.join("")} stroke={INK} strokeWidth="0.8" />
      <path d={ticks.join("")} stroke="#8d8677" strokeWidth="0.9" />
      {plate.keeps_free && <path d={`M${room.join("L")}Z`} fill="none" stroke="#a39c8d" strokeDasharray="12 3 2 3" />}
      {columns.map((v, i) => (
        <g key={i} className={css.zone}>
          <text x={v} y={top - BAND / 2}>{i + 1}</text>
          <text x={v} y={top + high + BAND / 2}>{i + 1}</text>
        </g>
      ))}
      {rows.map((v, i) => (
        <g key={i} className={css.zone}>
          <text x={left - BAND / 2} y={v}>{LETTERS[i]}</text>
          <text x={left + wide + BAND / 2} y={v}>{LETTERS[i]}</text>
        </g>
      ))}
      <path d={`M${left} ${top + high - 26}V${top + high}H${left + 26}`} fill="none" stroke={INK} strokeWidth="2.4" />
      <text className={css.caption} x={left - BAND} y={top + high + BAND + 20}>
        0, front left{plate.machine.start !== "front left" ? `; it starts ${plate.machine.start}` : ""}
      </text>
      <text className={css.caption} x={left + wide + BAND} y={top + high + BAND + 20} textAnchor="end">
        {mm(x)} × {mm(y)} mm
      </text>
    </g>
  );
}

function Patterns() {
  return (
    <defs>
      <pattern id="cut" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="6" height="6" fill="#fffdf8" />
        <path d="M0 0V6" stroke={INK} strokeWidth="1.6" />
      </pattern>
      <pattern id="out" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0 0V8" stroke="#b83a24" strokeWidth="3" />
      </pattern>
      <pattern id="clash" width="9" height="9" patternUnits="userSpaceOnUse">
        <path d="M0 0L9 9M9 0L0 9" stroke="#b83a24" strokeWidth="1.5" />
      </pattern>
      <pattern id="tilted" width="6" height="6" patternUnits="userSpaceOnUse">
        <circle cx="1.5" cy="1.5" r="1" fill={INK} />
        <circle cx="4.5" cy="4.5" r="1" fill={INK} />
      </pattern>
      <pattern id="beside" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="7" height="7" fill="#f3efe5" />
        <path d="M0 0V7" stroke="#ddd6c8" strokeWidth="1" />
      </pattern>
    </defs>
  );
}

interface BalloonProps {
  seat: SeatNow;
  frame: Frame;
  offset: [number, number] | null;
  chosen: boolean;
  rings: readonly (readonly (readonly number[])[])[] | undefined;
}

/** The number of a seat, on the seat: where it has an opening in its middle, on its material. */
function Balloon({ seat, frame, offset, chosen, rings }: BalloonProps) {
  const [px, py] = useMemo(() => onMaterial(seat, rings, 24 / frame.scale), [seat, rings, frame.scale]);
  const [cx, cy] = frame.at(px + (offset?.[0] ?? 0), py + (offset?.[1] ?? 0));
  const mark = seat.marks.find((one) => one !== "lifted");
  return (
    <g pointerEvents="none">
      <circle cx={cx} cy={cy} r={11} fill="#fff" stroke={mark ? SIGNS[mark] : INK} strokeWidth={chosen ? 2.4 : 1.4} />
      <text className={css.balloon} x={cx} y={cy} style={mark ? { fill: SIGNS[mark] } : undefined}>
        {seat.number}
      </text>
    </g>
  );
}

/** A place on the material that a balloon of some width covers no outline at; in the middle where there is none. */
function onMaterial(seat: SeatNow, rings: BalloonProps["rings"], wide: number): [number, number] {
  const { low, high } = seat.room!;
  const middle: [number, number] = [(low[0]! + high[0]!) / 2, (low[1]! + high[1]!) / 2];
  if (!rings?.length || within(rings, middle)) return middle;
  // Along the middle line, the middle of the widest stretch of material.
  const crossings = rings.flatMap((ring) =>
    ring.slice(1).flatMap((b, i) => {
      const a = ring[i]!;
      return (a[1]! > middle[1]) !== (b[1]! > middle[1]) ? [a[0]! + ((middle[1] - a[1]!) / (b[1]! - a[1]!)) * (b[0]! - a[0]!)] : [];
    }),
  );
  crossings.sort((a, b) => a - b);
  let best: [number, number] = middle, widest = 0;
  for (let i = 0; i + 1 < crossings.length; i += 2) {
    const width = crossings[i + 1]! - crossings[i]!;
    if (width > widest * 1.001) [widest, best] = [width, [(crossings[i]! + crossings[i + 1]!) / 2, middle[1]]];
  }
  return widest >= wide ? best : middle;
}

function within(rings: readonly (readonly (readonly number[])[])[], [x, y]: [number, number]): boolean {
  let inside = false;
  for (const ring of rings)
    for (let i = 1; i < ring.length; i++) {
      const [a, b] = [ring[i - 1]!, ring[i]!];
      if (a[1]! > y !== b[1]! > y && x < a[0]! + ((y - a[1]!) / (b[1]! - a[1]!)) * (b[0]! - a[0]!)) inside = !inside;
    }
  return inside;
}

/** How far a seat reaches out of the volume, as the core says, at that side of it. */
function Beyond({ seat, frame, x, y }: { seat: SeatNow; frame: Frame; x: number; y: number }) {
  const room = seat.room!;
  const worst = room.excess.filter((one) => one.axis !== "z").sort((a, b) => b.beyond_mm - a.beyond_mm)[0];
  if (!worst) return null;
  const low = room.low as Vec3, high = room.high as Vec3;
  const along = worst.axis === "x" ? 0 : 1;
  const far = (low[along] + high[along]) / 2 > [x, y][along]! / 2;
  const [cx, cy] = frame.at((low[0] + high[0]) / 2, (low[1] + high[1]) / 2);
  const [tx, ty, anchor] = along === 0 ? [far ? frame.left + frame.wide + 6 : frame.left - 6, cy - 8, far ? "start" : "end"] : [cx, far ? frame.top - 8 : frame.top + frame.high + 18, "middle"];
  return (
    <text className={css.amount} x={tx as number} y={ty as number} style={{ textAnchor: anchor as "start" | "end" | "middle" }} stroke="#fffdf8" strokeWidth="4" paintOrder="stroke">
      {mm(worst.beyond_mm)} out
    </text>
  );
}

/** Moving a seat by hand: by drag or by arrow keys; what it would come to is asked while it moves. */
function useHand(handle: JobHandle, seat: SeatNow | null, frame: Frame, choose: (id: string) => void, step: number) {
  const [offset, setOffset] = useState<[number, number] | null>(null);
  const [tried, setTried] = useState<Tried | null>(null);
  const moving = useRef<{ seat: SeatNow; from: [number, number]; offset: [number, number] } | null>(null);
  const asking = useRef(false);
  const keys = useRef<number | null>(null);
  const { view, act } = handle;

  const ask = useCallback(
    (one: SeatNow, [dx, dy]: [number, number]) => {
      if (asking.current) return;
      asking.current = true;
      void api
        .tryMove(view.id, one.subject, one.copy_number, dx, dy)
        .then((found) => {
          if (!moving.current) return;
          setTried(found);
          const now = moving.current.offset;
          asking.current = false;
          if (now[0] !== dx || now[1] !== dy) ask(one, now);
        })
        .catch(() => undefined)
        .finally(() => (asking.current = false));
    },
    [view.id],
  );
  const let_go = useCallback(() => {
    const now = moving.current;
    moving.current = null;
    if (!now || (now.offset[0] === 0 && now.offset[1] === 0)) {
      setOffset(null);
      setTried(null);
      return;
    }
    const [dx, dy] = now.offset;
    void act({ do: "shift-seat", ...seatOf(now.seat), dx, dy })
      .catch(tell)
      .finally(() => {
        setOffset(null);
        setTried(null);
      });
  }, [act]);
  const to = (next: [number, number]) => {
    if (!moving.current) return;
    moving.current.offset = next;
    setOffset(next);
    ask(moving.current.seat, next);
  };
  const latest = useRef({ to, let_go });
  latest.current = { to, let_go };

  useEffect(() => {
    const move = (event: globalThis.PointerEvent) => {
      const now = moving.current;
      if (!now || keys.current !== null) return;
      latest.current.to([round((event.clientX - now.from[0]) / frame.scale), round(-(event.clientY - now.from[1]) / frame.scale)]);
    };
    const up = () => moving.current && keys.current === null && latest.current.let_go();
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    return () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
    };
  }, [frame]);

  const down = (event: PointerEvent, one: SeatNow) => {
    if (event.button !== 0) return;
    choose(one.id);
    moving.current = { seat: one, from: [event.clientX, event.clientY], offset: [0, 0] };
  };
  const pressed = (event: KeyboardEvent) => {
    const way = ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] } as Record<string, [number, number]>)[event.key];
    if (!way || !seat?.room) return;
    event.preventDefault();
    moving.current ??= { seat, from: [0, 0], offset: [0, 0] };
    const now = moving.current.offset;
    if (keys.current !== null) window.clearTimeout(keys.current);
    // Several presses are one move, which is taken when the keys rest.
    keys.current = window.setTimeout(() => {
      keys.current = null;
      latest.current.let_go();
    }, 400);
    const far = event.shiftKey ? 10 * step : step;
    to([round(now[0] + way[0] * far), round(now[1] + way[1] * far)]);
  };
  return { offset, tried, down, pressed };
}

const round = (value: number) => Math.round(value * 1000) / 1000;
