import { useMemo } from "react";
import type { JobHandle } from "../../api/useJob";
import type { Layer, SeatState, Vec3 } from "../../api/types";
import { fillsOf, paler } from "../../bench/colours";
import { mm } from "../../blocks/numbers";
import { Balloon } from "./Balloon";
import { BAND, framed, Patterns, plateShape, SheetFrame, type Frame } from "./PlanFrame";
import css from "./Seating.module.css";
import { TurningArm } from "./TurningArm";
import { turnedAbout } from "./turned";
import { useHand } from "./useHand";
import { useFirstLayer, type Seating } from "./useSeating";

const INK = "var(--ink)";

/** The plate from above, as a drawing sheet: zones in its border, ticks along it, seats with balloons. */
export function PlanSheet({
  handle,
  seating,
  cut,
  size,
}: {
  handle: JobHandle;
  seating: Seating;
  cut: Layer | undefined;
  size: { width: number; height: number };
}) {
  const { view } = handle;
  const { plate, seats, plan, seat } = seating;
  const volume = plate.machine.volume!;
  const [x, y] = (volume.shape === "round" ? [volume.diameter, volume.diameter] : volume.size!) as [number, number];
  const frame = useMemo(() => framed(x, y, size), [x, y, size]);
  const fills = useMemo(() => fillsOf(view.job.bodies), [view]);
  const hand = useHand(handle, seating, frame);
  const { held } = hand;
  const first = useFirstLayer(view, seat);
  const rings = useMemo(() => new Map((cut ?? plan)?.seats.map((one) => [one.id, one.rings]) ?? []), [plan, cut]);
  const outlines = useMemo(() => new Map(plan?.seats.map((one) => [one.id, one.rings]) ?? []), [plan]);
  const path = (some: readonly (readonly (readonly number[])[])[] | undefined) =>
    (some ?? [])
      .map(
        (ring) =>
          `M${ring
            .map(([px, py]) =>
              frame
                .at(px!, py!)
                .map((v) => v.toFixed(1))
                .join(" "),
            )
            .join("L")}Z`,
      )
      .join("");
  const shown = [...seats].sort(
    (a, b) => Number(a.id === seat?.id) - Number(b.id === seat?.id) || a.lift_mm - b.lift_mm,
  );
  const below = view.survey.seats.filter((one) => plate.follows && one.plate === plate.follows && one.room);
  return (
    <div className={css.plan} data-testid="plan" data-ready={seating.fresh ? "yes" : undefined}>
      <svg
        tabIndex={0}
        role="application"
        aria-label={`plate ${seating.number} from above; arrow keys move the chosen seat, Shift ten times as far; plus and minus turn it, Page Up and Page Down bring it to another plate`}
        onKeyDown={hand.pressed}
        onPointerDown={() => undefined}
      >
        <Patterns />
        <SheetFrame plate={plate} frame={frame} number={seating.number} of={view.survey.plates.length} x={x} y={y} />
        <clipPath id="on-plate">{plateShape(plate, frame, x, y)}</clipPath>
        {below.map((one) => (
          <rect key={one.id} {...boxOf(one, frame)} fill="none" stroke="var(--rule-strong)" strokeDasharray="3 4" />
        ))}
        {plan?.around.map((one) =>
          one.id !== seat?.id || !held ? (
            <path
              key={`around ${one.id}`}
              d={path(one.rings)}
              fill="none"
              stroke="var(--rule-strong)"
              strokeWidth="1"
              strokeDasharray="1.5 3.5"
              pointerEvents="none"
            />
          ) : null,
        )}
        {shown.map((one) => {
          const mine = one.id === seat?.id && held;
          const [dx, dy] = mine ? [held.dx * frame.scale, -held.dy * frame.scale] : [0, 0];
          const marks = one.id === seat?.id && hand.tried ? hand.tried.marks : one.marks;
          const colour = fills.get(one.bodies[0]!.body)!;
          const away = seat && one.id !== seat.id;
          const d = path(mine && held.turn ? turnedAbout(rings.get(one.id) ?? [], held.turn) : rings.get(one.id));
          const grave = marks.includes("overlap") || hand.tried?.beside.includes(one.id);
          return (
            <SeatOnPlan
              key={one.id}
              one={one}
              dx={dx}
              dy={dy}
              marks={marks}
              hand={hand}
              cut={cut}
              path={path}
              outlines={outlines}
              colour={colour}
              d={d}
              away={away}
              seat={seat}
              grave={grave}
            />
          );
        })}
        {/* What is inside is drawn over the hatch again, so that only what is outside stays hatched. */}
        {!cut &&
          shown
            .filter((one) => one.marks.includes("outside") && !(one.id === seat?.id && held))
            .map((one) => (
              <path
                key={one.id}
                d={path(rings.get(one.id))}
                clipPath="url(#on-plate)"
                fill={fills.get(one.bodies[0]!.body)}
                stroke={INK}
                strokeWidth={one.id === seat?.id ? 2 : 1.1}
                fillRule="evenodd"
                pointerEvents="none"
              />
            ))}
        {!cut && !held && first && first.supports.length > 0 && (
          <path
            d={path(first.supports)}
            fill="url(#props)"
            stroke="var(--rule-strong)"
            strokeWidth="0.9"
            strokeDasharray="2 2.5"
            fillRule="evenodd"
            pointerEvents="none"
            data-testid="supports"
          />
        )}
        {!cut &&
          shown.map(
            (one) =>
              one.room && (
                <Balloon
                  key={one.id}
                  seat={one}
                  frame={frame}
                  offset={one.id === seat?.id && held ? [held.dx, held.dy] : null}
                  chosen={one.id === seat?.id}
                  rings={outlines.get(one.id)}
                />
              ),
          )}
        {!held && !cut && seat?.room && seat.marks.includes("outside") && (
          <Beyond seat={seat} frame={frame} x={x} y={y} />
        )}
        {!cut && seat?.room && (
          <TurningArm
            seat={seat}
            frame={frame}
            turn={held?.turn ?? 0}
            carried={!!held && !held.turn}
            down={(event) => hand.down(event, seat, true)}
          />
        )}
        {held && hand.tried && hand.tried.says.length > 0 && (
          <text className={css.amount} x={frame.left + frame.wide / 2} y={frame.top + frame.high + BAND + 22}>
            {hand.tried.says.slice(0, 2).join("; ")}
          </text>
        )}
      </svg>
    </div>
  );
}

interface SeatOnPlanProps {
  one: SeatState;
  dx: number;
  dy: number;
  marks: ("overlap" | "outside" | "margin" | "tilt" | "sunk" | "lifted")[];
  hand: ReturnType<typeof useHand>;
  cut: Layer | undefined;
  path: (some: number[][][] | undefined) => string;
  outlines: Map<string, [number, number][][]>;
  colour: string;
  d: string;
  away: boolean | null;
  seat: SeatState | null;
  grave: boolean | undefined;
}

/** One seat on the plate from above, with its balloon. */
function SeatOnPlan({ one, dx, dy, marks, hand, cut, path, outlines, colour, d, away, seat, grave }: SeatOnPlanProps) {
  return (
    <g
      className={css.seat}
      transform={`translate(${dx} ${dy})`}
      data-testid={`plan-seat-${one.number}`}
      data-marks={marks.join(" ")}
      onPointerDown={(event) => hand.down(event, one)}
    >
      {cut ? (
        <>
          <path
            d={path(outlines.get(one.id))}
            fill={paler(colour)}
            stroke="var(--rule-worn)"
            strokeWidth="0.8"
            fillRule="evenodd"
            opacity="0.6"
          />
          <path d={d} fill="url(#cut)" stroke={INK} strokeWidth="1.5" fillRule="evenodd" />
        </>
      ) : (
        <>
          <path
            d={d}
            fill={away ? paler(colour) : colour}
            stroke={INK}
            strokeWidth={one.id === seat?.id ? 2 : 1.1}
            fillRule="evenodd"
          />
          {marks.includes("outside") && (
            <path d={d} fill="url(#out)" fillRule="evenodd" stroke="var(--stop)" strokeWidth="1.6" />
          )}
          {grave && <path d={d} fill="url(#clash)" fillRule="evenodd" />}
          {marks.includes("tilt") && <path d={d} fill="url(#tilted)" fillRule="evenodd" />}
        </>
      )}
    </g>
  );
}

function boxOf(seat: SeatState, frame: Frame) {
  const [low, high] = [seat.room!.low, seat.room!.high];
  const [left, top] = frame.at(low[0]!, high[1]!);
  return { x: left, y: top, width: (high[0]! - low[0]!) * frame.scale, height: (high[1]! - low[1]!) * frame.scale };
}

/** How far a seat reaches out of the volume, as the core says, at that side of it. */
function Beyond({ seat, frame, x, y }: { seat: SeatState; frame: Frame; x: number; y: number }) {
  const room = seat.room!;
  const worst = room.excess.filter((one) => one.axis !== "z").sort((a, b) => b.beyond_mm - a.beyond_mm)[0];
  if (!worst) return null;
  const low = room.low as Vec3,
    high = room.high as Vec3;
  const along = worst.axis === "x" ? 0 : 1;
  const far = (low[along] + high[along]) / 2 > [x, y][along]! / 2;
  const [cx, cy] = frame.at((low[0] + high[0]) / 2, (low[1] + high[1]) / 2);
  const [tx, ty, anchor] =
    along === 0
      ? [far ? frame.left + frame.wide + 6 : frame.left - 6, cy - 8, far ? "start" : "end"]
      : [cx, far ? frame.top - 8 : frame.top + frame.high + 18, "middle"];
  return (
    <text
      className={css.amount}
      x={tx as number}
      y={ty as number}
      style={{ textAnchor: anchor as "start" | "end" | "middle" }}
      stroke="var(--page)"
      strokeWidth="4"
      paintOrder="stroke"
    >
      {mm(worst.beyond_mm)} out
    </text>
  );
}
