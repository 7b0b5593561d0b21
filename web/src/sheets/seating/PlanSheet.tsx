import { useMemo } from "react";
import type { JobHandle } from "../../api/useJob";
import type { JobView, Layer, LayerPaths, SeatState, Vec3 } from "../../api/types";
import { useFills, paler } from "../../bench/colours";
import { mm } from "../../blocks/numbers";
import { Balloon } from "./Balloon";
import { BAND, framed, Patterns, plateShape, SheetFrame, type Frame } from "./PlanFrame";
import css from "./Seating.module.css";
import { PathLines } from "./cost/PathLines";
import { TurningArm } from "./TurningArm";
import { turnedAbout } from "./turned";
import { useHand } from "./useHand";
import { useFirstLayer, type Seating } from "./useSeating";

const INK = "var(--ink)";

interface Props {
  handle: JobHandle;
  seating: Seating;
  cut: Layer | undefined;
  /** The paths of the layer, drawn in place of its hatch. */
  paths: LayerPaths | undefined;
  /** How far along them it is drawn, as a share of their time. */
  along: number;
  size: { width: number; height: number };
}

type Rings = readonly (readonly (readonly number[])[])[];

/** What is drawn on the plate, and how its places come to the page. */
interface PlanDrawing {
  frame: Frame;
  /** Width and depth of the plate, in mm. */
  wide: number;
  deep: number;
  seat: SeatState | null;
  cut: Layer | undefined;
  paths: LayerPaths | undefined;
  hand: ReturnType<typeof useHand>;
  /** The outlines of each seat: of the layer that is looked at, and of the whole. */
  rings: Map<string, Rings>;
  outlines: Map<string, [number, number][][]>;
  fills: Map<string, string>;
  /** The seats in the order that they are drawn in: the chosen one last, over the others. */
  shown: SeatState[];
}

function usePlanDrawing({ handle, seating, cut, paths, size }: Props): PlanDrawing {
  const { plate, seats, plan, seat } = seating;
  const volume = plate.machine.volume!;
  const [wide, deep] = (volume.shape === "round" ? [volume.diameter, volume.diameter] : volume.size!) as [
    number,
    number,
  ];
  const frame = useMemo(() => framed(wide, deep, size), [wide, deep, size]);
  const fills = useFills(handle.view.job.bodies);
  const hand = useHand(handle, seating, frame);
  const rings = useMemo(() => new Map((cut ?? plan)?.seats.map((one) => [one.id, one.rings]) ?? []), [plan, cut]);
  const outlines = useMemo(() => new Map(plan?.seats.map((one) => [one.id, one.rings]) ?? []), [plan]);
  const shown = [...seats].sort(
    (a, b) => Number(a.id === seat?.id) - Number(b.id === seat?.id) || a.lift_mm - b.lift_mm,
  );
  return { frame, wide, deep, seat, cut, paths, hand, rings, outlines, fills, shown };
}

/** Outlines in mm on the plate as a path on the page. */
const pathOf = (frame: Frame, rings: Rings | undefined): string =>
  (rings ?? [])
    .map((ring) => {
      const places = ring.map(([x, y]) => frame.at(x!, y!).map((pixel) => pixel.toFixed(1)));
      return `M${places.map((place) => place.join(" ")).join("L")}Z`;
    })
    .join("");

/** The plate from above, as a drawing sheet: zones in its border, ticks along it, seats with balloons. */
export function PlanSheet(props: Props) {
  const { view } = props.handle;
  const { seating } = props;
  const { plate } = seating;
  const drawing = usePlanDrawing(props);
  const { frame, wide, deep, hand, shown, cut, paths } = drawing;
  const below = view.survey.seats.filter((seat) => plate.follows && seat.plate === plate.follows && seat.room);
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
        <SheetFrame
          plate={plate}
          frame={frame}
          number={seating.number}
          of={view.survey.plates.length}
          x={wide}
          y={deep}
        />
        <clipPath id="on-plate">{plateShape(plate, frame, wide, deep)}</clipPath>
        {below.map((seat) => (
          <rect key={seat.id} {...boxOf(seat, frame)} fill="none" stroke="var(--rule-strong)" strokeDasharray="3 4" />
        ))}
        <AroundSeats seating={seating} drawing={drawing} />
        {shown.map((seat) => (
          <SeatOnPlan key={seat.id} one={seat} drawing={drawing} />
        ))}
        {paths && <PathLines paths={paths} along={props.along} frame={frame} />}
        {!cut && <InsideAgain drawing={drawing} />}
        {!cut && <OverSeats view={view} drawing={drawing} />}
        {hand.held && hand.tried && hand.tried.says.length > 0 && (
          <text className={css.amount} x={frame.left + frame.wide / 2} y={frame.top + frame.high + BAND + 22}>
            {hand.tried.says.slice(0, 2).join("; ")}
          </text>
        )}
      </svg>
    </div>
  );
}

/** What is drawn around the first layer of each seat; not of the one that is carried just now. */
function AroundSeats({ seating, drawing }: { seating: Seating; drawing: PlanDrawing }) {
  const { frame, seat, hand } = drawing;
  const around = seating.plan?.around.filter((one) => one.id !== seat?.id || !hand.held) ?? [];
  return around.map((one) => (
    <path
      key={`around ${one.id}`}
      d={pathOf(frame, one.rings)}
      fill="none"
      stroke="var(--rule-strong)"
      strokeWidth="1"
      strokeDasharray="1.5 3.5"
      pointerEvents="none"
    />
  ));
}

/** One seat on the plate from above: carried along while it is held, hatched where it clashes or is outside. */
function SeatOnPlan({ one, drawing }: { one: SeatState; drawing: PlanDrawing }) {
  const { frame, seat, cut, paths, hand, rings, outlines, fills } = drawing;
  const chosen = one.id === seat?.id;
  const held = chosen ? hand.held : null;
  const marks = chosen && hand.tried ? hand.tried.marks : one.marks;
  const colour = fills.get(one.bodies[0]!.body)!;
  const mine = rings.get(one.id);
  const d = pathOf(frame, held?.turn ? turnedAbout((mine ?? []) as [number, number][][], held.turn) : mine);
  return (
    <g
      className={css.seat}
      transform={held ? `translate(${held.dx * frame.scale} ${-held.dy * frame.scale})` : "translate(0 0)"}
      data-body={one.id}
      data-testid={`plan-seat-${one.number}`}
      data-marks={marks.join(" ")}
      onPointerDown={(event) => hand.down(event, one)}
    >
      {cut ? (
        <>
          <path
            d={pathOf(frame, outlines.get(one.id))}
            fill={paler(colour)}
            stroke="var(--rule-worn)"
            strokeWidth="0.8"
            fillRule="evenodd"
            opacity="0.6"
          />
          {!paths && <path d={d} fill="url(#cut)" stroke={INK} strokeWidth="1.5" fillRule="evenodd" />}
        </>
      ) : (
        <>
          <path
            d={d}
            fill={seat && !chosen ? paler(colour) : colour}
            stroke={INK}
            strokeWidth={chosen ? 2 : 1.1}
            fillRule="evenodd"
          />
          {marks.includes("outside") && (
            <path d={d} fill="url(#out)" fillRule="evenodd" stroke="var(--stop)" strokeWidth="1.6" />
          )}
          {(marks.includes("overlap") || hand.tried?.beside.includes(one.id)) && (
            <path d={d} fill="url(#clash)" fillRule="evenodd" />
          )}
          {marks.includes("tilt") && <path d={d} fill="url(#tilted)" fillRule="evenodd" />}
        </>
      )}
    </g>
  );
}

/** What is inside is drawn over the hatch again, so that only what is outside stays hatched. */
function InsideAgain({ drawing: { frame, seat, hand, rings, fills, shown } }: { drawing: PlanDrawing }) {
  return shown
    .filter((one) => one.marks.includes("outside") && !(one.id === seat?.id && hand.held))
    .map((one) => (
      <path
        key={one.id}
        d={pathOf(frame, rings.get(one.id))}
        clipPath="url(#on-plate)"
        fill={fills.get(one.bodies[0]!.body)}
        stroke={INK}
        strokeWidth={one.id === seat?.id ? 2 : 1.1}
        fillRule="evenodd"
        pointerEvents="none"
      />
    ));
}

/** What is drawn over seats: supports of the chosen one, balloons, how far it is outside, and the arm that turns it. */
function OverSeats({ view, drawing }: { view: JobView; drawing: PlanDrawing }) {
  const { frame, wide, deep, seat, hand, outlines, shown } = drawing;
  const { held } = hand;
  const first = useFirstLayer(view, seat);
  return (
    <>
      {!held && first && first.supports.length > 0 && (
        <path
          d={pathOf(frame, first.supports)}
          fill="url(#props)"
          stroke="var(--rule-strong)"
          strokeWidth="0.9"
          strokeDasharray="2 2.5"
          fillRule="evenodd"
          pointerEvents="none"
          data-testid="supports"
        />
      )}
      {shown.map(
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
      {!held && seat?.room && seat.marks.includes("outside") && <Beyond seat={seat} frame={frame} x={wide} y={deep} />}
      {seat?.room && (
        <TurningArm
          seat={seat}
          frame={frame}
          turn={held?.turn ?? 0}
          carried={!!held && !held.turn}
          down={(event) => hand.down(event, seat, true)}
        />
      )}
    </>
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
