import { useCallback, useEffect, useMemo, useRef, useState, type DragEvent } from "react";
import { Link } from "wouter";
import { tell, tellNotTaken, useJob, type JobHandle } from "../api/useJob";
import type {
  Body,
  BodySurvey,
  DecisionsInForce,
  JobView,
  MachineInForce,
  SeatState,
  SheetName,
  Vec3,
} from "../api/types";
import { Bench, type Ground, type Shown } from "../bench/Bench";
import benchCss from "../bench/Bench.module.css";
import { fillsOf, paler } from "../bench/colours";
import { GaugeDimensions, OverallDimensions, type GaugeLine } from "../bench/Dimensions";
import { meshesOf, useBenchMeshes } from "../bench/mesh";
import { Press } from "../blocks/Press";
import { fileNumber, mm } from "../blocks/numbers";
import { SheetStrip } from "../blocks/SheetStrip";
import { SizeChain } from "../blocks/SizeChain";
import { TitleBlock } from "../blocks/TitleBlock";
import { middleOf, movedApart, thoughtApart } from "../sheets/division/apart";
import { PieceBalloons } from "../sheets/division/PieceBalloons";
import { CutLines } from "../sheets/division/CutLines";
import { DivisionSheet } from "../sheets/division/DivisionSheet";
import { SumFoot } from "../sheets/division/SumFoot";
import { useDivision, type Dividing } from "../sheets/division/useDivision";
import { IntakeSheet } from "../sheets/intake/IntakeSheet";
import { LaterSheet } from "../sheets/later/LaterSheet";
import { ReleaseSheet } from "../sheets/release/ReleaseSheet";
import { LayerFoot } from "../sheets/seating/LayerFoot";
import { PlanSheet } from "../sheets/seating/PlanSheet";
import { SeatBlock } from "../sheets/seating/SeatBlock";
import { SeatingSheet } from "../sheets/seating/SeatingSheet";
import { useLayering, useSeating, type Seating } from "../sheets/seating/useSeating";
import { ShowingMarks } from "../sheets/seating/ShowingMarks";
import { useSeatPicks } from "../sheets/seating/useSeatPicks";
import { SIGNS } from "../sheets/truing/gauges";
import { readingsOf } from "../sheets/truing/readingsOf";
import { TruingSheet } from "../sheets/truing/TruingSheet";
import { usePicking, type Picking } from "../sheets/truing/usePicking";
import { droppedFiles } from "../jobs/dropped";
import { useSendFile } from "../jobs/useSendFile";
import { ChooseOne } from "./ChooseOne";
import css from "./JobPage.module.css";
import { ReadingFile } from "./ReadingFile";
import { subjectOf, type Subject } from "./subject";
import { useSelection, type Selection } from "./useSelection";

const MARGINS = { top: 70, right: 132, bottom: 212, left: 116 };

/** One job: the strip, the sheet at the left, the bench with chain and title block. */
export function JobPage({ id, sheet }: { id: string; sheet: SheetName }) {
  const { handle, problem } = useJob(id);
  const selection = useSelection(handle?.view);
  const picking = usePicking(handle);
  const drop = useDropHere(id);
  if (!handle) {
    return (
      <div className={css.page}>
        <div className={css.reading}>
          {problem ? (
            <div className={css.card} role="alert">
              <h2>This job cannot be shown</h2>
              <p>{problem.line}</p>
              <div className={css.actions}>
                <Link href="/" className="link">
                  All jobs
                </Link>
              </div>
            </div>
          ) : (
            <span className="soft">opening the job …</span>
          )}
        </div>
      </div>
    );
  }
  return (
    <div className={css.page} {...drop}>
      <SheetStrip handle={handle} sheet={sheet} />
      {handle.view.job.sources.length > 0 ? (
        <Desk handle={handle} sheet={sheet} selection={selection} picking={picking} />
      ) : (
        <ReadingFile view={handle.view} />
      )}
    </div>
  );
}

/** Files dropped on a job join it; left to itself the browser would leave the page for them. */
function useDropHere(id: string) {
  const { problems, send } = useSendFile(id);
  useEffect(() => {
    for (const { name, problem } of problems) tellNotTaken(name, problem);
  }, [problems]);
  return {
    onDragOver: (event: DragEvent) => event.preventDefault(),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      void droppedFiles(event.dataTransfer).then((files) => send(files));
    },
  };
}

export interface DeskProps {
  handle: JobHandle;
  sheet: SheetName;
  selection: Selection;
  picking: Picking;
}

function Desk({ handle, sheet, selection, picking }: DeskProps) {
  const { view } = handle;
  const { selected, hidden } = selection;
  const dividing = useDivision(view, sheet === "division", selected);
  const divided = dividing?.body.id;
  const subject = useMemo(() => subjectOf(view, divided ? [divided] : selected), [view, selected, divided]);
  const bodies = useMemo(
    () => view.job.bodies.filter((body) => !hidden.includes(body.id) && isDrawn(view, body, sheet, dividing)),
    [view, hidden, sheet, dividing],
  );
  const seating = useSeating(view, sheet === "seating");
  const onPlate = sheet === "seating" ? seating : null;
  const layering = useLayering(view, onPlate);
  const throughFace = !!dividing?.taking.want;
  const picked = (sheet === "truing" && picking.on) || (!!onPlate && onPlate.taking !== "seat") || throughFace;
  // Large bodies are drawn reduced; places are picked on all of their triangles.
  // Pieces that are only thought of, drawn apart.
  const ahead = useMemo(
    () =>
      dividing?.thought.length ? thoughtApart(dividing.body, dividing.facts, dividing.thought, dividing.apart) : [],
    [dividing],
  );
  const first = useBenchMeshes(
    ahead.length
      ? ahead.map(({ body }) => `bench/${body.bench}`)
      : bodies.flatMap((body) =>
          meshesOf(
            view.id,
            body,
            view.survey.bodies.find((one) => one.id === body.id),
          ),
        ),
  );
  const exact = (body: Body) =>
    picked && (first.meshes.get(`bench/${body.bench}`)?.triangles ?? body.triangles) < body.triangles;
  const full = useBenchMeshes(bodies.filter(exact).map(fullOf));
  const [ratio, drag] = useState<number | null>(null);
  const { failed, waiting } = first;
  const settled = view.survey.bodies.some((one) => one.chain);
  const seated = settled && (sheet === "seating" || sheet === "release");
  const above = !!onPlate?.fromAbove && settled;
  const seatPick = useSeatPicks(handle, onPlate);
  const [frame, size] = useSize();
  const moving = useMemo(() => (subject ? movedWith(view, subject) : []), [view, subject]);
  const shown = useMemo((): Shown[] => {
    const fills = fillsOf(view.job.bodies);
    const meshOf = (body: Body, facts: BodySurvey) =>
      (picked && full.meshes.get(fullOf(body))) ||
      meshesOf(view.id, body, facts)
        .map((name) => first.meshes.get(name))
        .find(Boolean);
    if (onPlate && settled) {
      const known = new Map(view.job.bodies.map((one) => [one.id, one]));
      const surveyed = new Map(view.survey.bodies.map((one) => [one.id, one]));
      return onPlate.seats.flatMap((seat) =>
        seat.bodies.flatMap((one) => {
          const body = known.get(one.body);
          const facts = surveyed.get(one.body);
          if (!body || !facts || hidden.includes(body.id)) return [];
          const fill = fills.get(body.id)!;
          const mesh = meshOf(body, facts);
          const placement = { ...facts.placement, seated: one.matrix, seated_shift: one.shift };
          const aside = seat.id !== onPlate.seat?.id;
          return [
            {
              id: `${seat.id}|${body.id}`,
              body,
              facts: { ...facts, placement, room: seat.room ?? null },
              mesh,
              colour: aside ? paler(fill) : fill,
            },
          ];
        }),
      );
    }
    if (ahead.length) {
      const fill = fills.get(dividing!.body.id)!;
      return ahead.map(({ body, facts }) => ({
        id: body.id,
        body,
        facts,
        mesh: first.meshes.get(`bench/${body.bench}`),
        colour: fill,
      }));
    }
    const apart = dividing && !dividing.drafting ? spread(dividing) : null;
    return bodies.flatMap((body) => {
      const told = view.survey.bodies.find((one) => one.id === body.id);
      if (!told || (seated && !told.room)) return [];
      const facts = apart?.get(body.id) ?? told;
      const fill = fills.get(body.id)!;
      const aside = facts.stale || (selected.length > 0 && !selected.includes(body.id) && !dividing);
      const mesh = meshOf(body, facts);
      return [
        {
          id: body.id,
          body,
          facts: ratio && moving.includes(body.id) ? scaled(subject!.decided, facts, ratio) : facts,
          mesh,
          colour: aside ? paler(fill) : fill,
        },
      ];
    });
  }, [
    view,
    bodies,
    first,
    full,
    selected,
    hidden,
    onPlate,
    settled,
    seated,
    picked,
    ratio,
    moving,
    subject,
    dividing,
    ahead,
  ]);
  const exacting = picked && full.waiting;
  const chain = subject?.facts.chain;
  // On the plate pieces stand each by itself: the size of their whole is nowhere to be drawn.
  const inPieces = subject?.bodies.some((body) => body.division) ?? false;
  return (
    <>
      {/* Kept while only the layer that is looked at changes, so that scrubbing draws the bench and nothing else. */}
      {useMemo(
        () => (
          <SheetOf
            handle={handle}
            subject={subject}
            sheet={sheet}
            selection={selection}
            picking={picking}
            drag={drag}
            seating={seating}
            dividing={dividing}
          />
        ),
        [handle, subject, sheet, selection, picking, seating, dividing],
      )}
      <div className={css.right} ref={frame}>
        {/* Under the plan the bench stays as it was left, out of sight and out of reach. */}
        <div className={above ? css.under : undefined} inert={above}>
          <Bench
            shown={shown}
            machine={onPlate ? machineOf(onPlate) : view.survey.machine}
            cutAt={layering.layer && layering.layers ? layering.layers.heights[layering.layer - 1] : null}
            overhang={onPlate?.plate.machine.process!.overhang ?? null}
            onLook={() => onPlate?.lookFromAbove(false)}
            mode={seated ? "seated" : "true"}
            margins={MARGINS}
            size={chain?.size_mm ?? null}
            dragged={ratio}
            fits={subject?.facts.fits_as_it_lies ?? true}
            onPick={
              throughFace && !exacting
                ? (pick) => void dividing.take(pick).catch(tell)
                : seatPick && !exacting
                  ? seatPick
                  : picked && !exacting
                    ? picking.pick
                    : undefined
            }
            onHover={seatPick || throughFace ? undefined : picking.hover}
            onSelect={onPlate ? (id) => id && onPlate.choose(id.split("|")[0]!) : selection.select}
            marks={selection.marks}
            says={
              failed ? (
                <strong className="stop">The drawing cannot be loaded; reload the page</strong>
              ) : (
                (exacting || (waiting && bodies.length > 0)) && (
                  <strong>{exacting ? "fetching every triangle, so that picks are exact …" : "drawing …"}</strong>
                )
              )
            }
          >
            {(ground) => (
              <>
                {onPlate && <ShowingMarks ground={ground} view={view} seating={onPlate} />}
                {onPlate?.seat?.room && <SeatSize ground={ground} seat={onPlate.seat} />}
                {dividing && <CutLines ground={ground} dividing={dividing} />}
                {dividing && (ahead.length > 0 || (!dividing.drafting && shown.length > 1)) && (
                  <PieceBalloons ground={ground} shown={shown} />
                )}
                {subject && !onPlate && !ahead.length && !dividing?.division && !(seated && inPieces) && (
                  <Overall
                    handle={handle}
                    subject={subject}
                    ground={ground}
                    whole={subject.bodies.length === shown.length}
                    typed={sheet === "truing"}
                    seated={seated}
                    ratio={ratio ?? 1}
                  />
                )}
                {subject && !seated && !dividing && (
                  <Gauges
                    handle={handle}
                    subject={subject}
                    ground={ground}
                    typed={sheet === "truing"}
                    picking={picked ? picking : null}
                    ratio={ratio ?? 1}
                  />
                )}
              </>
            )}
          </Bench>
        </div>
        {above && onPlate && size && <PlanSheet handle={handle} seating={onPlate} cut={layering.cut} size={size} />}
        {onPlate && settled ? (
          <>
            {above && <PlanViews seating={onPlate} />}
            <LayerFoot layering={layering} />
            <SeatBlock view={view} seating={onPlate} layers={layering.layers} />
          </>
        ) : (
          <>
            {dividing && settled ? (
              <SumFoot view={view} dividing={dividing} />
            ) : (
              subject && <SizeChain view={view} subject={subject} />
            )}
            <TitleBlock view={view} subject={subject} selected={selected} />
          </>
        )}
      </div>
    </>
  );
}

/** What the bench draws: pieces stand for their whole where there are such, but while that is divided anew. */
function isDrawn(view: JobView, body: Body, sheet: SheetName, dividing: Dividing | null): boolean {
  const facts = view.survey.bodies.find((one) => one.id === body.id);
  if (!dividing)
    return !facts?.divided && (sheet === "seating" || sheet === "release" || !body.division || !isTrial(view, body));
  if (dividing.drafting) return body.id === dividing.body.id;
  return body.division === dividing.division?.id;
}

/** A trial lies within its whole: where that is drawn, the trial is not. */
function isTrial(view: JobView, body: Body): boolean {
  return view.job.divisions?.some((one) => one.id === body.division && !one.replaces) ?? false;
}

/** The pieces of a division drawn apart, by body. */
function spread({ pieces, apart }: Dividing): Map<string, BodySurvey> {
  const middles = pieces.map(({ body, facts }) => middleOf(facts, body.low, body.high));
  const middle = [0, 1, 2].map(
    (i) => middles.reduce((sum, one) => sum + one[i]!, 0) / Math.max(1, middles.length),
  ) as Vec3;
  return new Map(pieces.map(({ body, facts }, i) => [body.id, movedApart(facts, middle, middles[i]!, apart)]));
}

/** The size of the part of the page that the bench has. */
function useSize() {
  const [size, setSize] = useState<{ width: number; height: number } | null>(null);
  const watch = useRef<ResizeObserver | null>(null);
  const frame = useCallback((at: HTMLDivElement | null) => {
    watch.current?.disconnect();
    if (!at) return;
    watch.current = new ResizeObserver(
      ([entry]) => entry && setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    );
    watch.current.observe(at);
  }, []);
  return [frame, size] as const;
}

/** The machine of a plate as the bench draws it. */
function machineOf({ plate }: Seating): MachineInForce {
  const volume = plate.machine.volume!;
  const room = volume.shape === "round" ? [volume.diameter, volume.diameter, volume.height] : volume.size!;
  return {
    name: plate.machine.name!,
    shape: volume.shape!,
    room: room as Vec3,
    free: plate.keeps_free ? (plate.corners as [number, number][]) : [],
    bead_mm: plate.machine.process!.bead!,
  };
}

/** The size of the chosen seat as it stands, drawn in the bench. */
function SeatSize({ ground, seat }: { ground: Ground; seat: SeatState }) {
  const { low, high } = seat.room!;
  const numerals = Object.fromEntries(
    (["x", "y", "z"] as const).map((axis, i) => [
      axis,
      { text: mm(high[i]! - low[i]!), label: axis, prefix: axis.toUpperCase() },
    ]),
  );
  return (
    <OverallDimensions ground={{ ...ground, box: { low: low as Vec3, high: high as Vec3 } }} numerals={numerals} />
  );
}

/** From the plan back into the bench; P leads to the plan from anywhere. */
function PlanViews({ seating }: { seating: Seating }) {
  return (
    <div className={benchCss.views} role="toolbar" aria-label="Plan">
      <Press onClick={() => seating.lookFromAbove(false)}>
        <kbd>O</kbd> bench
      </Press>
    </div>
  );
}

/** Every triangle of a body, however large. */
const fullOf = (body: Body) => `bench/${body.geometry}/full`;

/** The bodies that a change of a subject's factor moves. */
function movedWith(view: JobView, { decided }: Subject): string[] {
  return view.survey.bodies.filter((one) => one.owner === decided.id).map((one) => one.id);
}

/** By how much each axis goes with a dragged factor: a held one stays. */
function dragged({ correction }: DecisionsInForce, ratio: number): number[] {
  return (correction.held ?? [false, false, false]).map((held) => (held ? 1 : ratio));
}

/** A body drawn as it would be with its factor dragged; nothing is asked of the server meanwhile. */
function scaled(decided: DecisionsInForce, facts: BodySurvey, ratio: number): BodySurvey {
  const along = dragged(decided, ratio);
  const rows = facts.placement.true.map((row, i) =>
    row.map((value) => value * along[i]!),
  ) as typeof facts.placement.true;
  const shift = facts.placement.true_shift.map((value, i) => value * along[i]!) as Vec3;
  return { ...facts, placement: { ...facts.placement, true: rows, true_shift: shift } };
}

interface SheetProps extends DeskProps {
  subject: Subject | null;
  drag: (ratio: number | null) => void;
  seating: Seating | null;
  dividing: Dividing | null;
}

function SheetOf({ subject, seating, dividing, ...props }: SheetProps) {
  if (props.sheet === "intake") return <IntakeSheet {...props} />;
  if (props.sheet === "release") return <ReleaseSheet handle={props.handle} selected={props.selection.selected} />;
  if (props.sheet === "fit") return <LaterSheet sheet={props.sheet} job={props.handle.view.id} />;
  if (props.sheet === "division")
    return <DivisionSheet handle={props.handle} dividing={dividing} selection={props.selection} />;
  if (props.sheet === "seating") return <SeatingSheet handle={props.handle} seating={seating} />;
  if (!subject) return <ChooseOne sheet={props.sheet} view={props.handle.view} selection={props.selection} />;
  return <TruingSheet {...props} subject={subject} />;
}

interface DrawnProps {
  handle: JobHandle;
  subject: Subject;
  ground: Ground;
  typed: boolean;
  /** The factor is dragged: how many times its value. */
  ratio: number;
}

/** Overall dimensions: numbers of the file while the unit is open, else mm, typed on Truing. */
function Overall({
  handle,
  subject,
  ground,
  whole,
  typed,
  seated,
  ratio,
}: DrawnProps & { seated: boolean; whole: boolean }) {
  const { facts } = subject;
  const numerals = Object.fromEntries(
    (["x", "y", "z"] as const).map((axis, i) => {
      const along = facts.chain?.size_mm[i];
      if (along === undefined)
        return [
          axis,
          { text: fileNumber(facts.numbers?.[i] ?? 0), label: axis, prefix: axis.toUpperCase(), suffix: "?" },
        ];
      const size =
        seated && facts.room ? facts.room.high[i]! - facts.room.low[i]! : along * dragged(subject.decided, ratio)[i]!;
      return [
        axis,
        {
          text: mm(size),
          full: String(Number(size.toPrecision(12))),
          label: `Size along ${axis.toUpperCase()}, in the bench`,
          prefix: axis.toUpperCase(),
          commit: typed
            ? (text: string) => handle.act({ do: "size-axis", body: subject.key, axis, typed: text })
            : undefined,
        },
      ];
    }),
  );
  // Of one body among several the box is its own.
  return <OverallDimensions ground={whole ? ground : groundOfOne(ground, subject, seated)} numerals={numerals} />;
}

function groundOfOne(ground: Ground, subject: Subject, seated: boolean): Ground {
  const room = subject.facts.room;
  if (seated && room) return { ...ground, box: { low: room.low as Vec3, high: room.high as Vec3 } };
  const ends = subject.bodies.flatMap((body) => [ground.place(body.id, body.low), ground.place(body.id, body.high)]);
  const along = (pick: (...values: number[]) => number) =>
    [0, 1, 2].map((i) => pick(...ends.map((end) => end[i]!))) as Vec3;
  return { ...ground, box: { low: along(Math.min), high: along(Math.max) } };
}

const SETTLED = "#256c62";
const LOOK = "#865b07";
const INK = "#22262b";

/** Readings as dimension lines, and the pair being picked. */
function Gauges({ handle, subject, ground, typed, picking, ratio }: DrawnProps & { picking: Picking | null }) {
  // With an axis held, what a gauge comes to meanwhile only the core can tell.
  const times = subject.decided.correction.held?.some(Boolean) ? 1 : ratio;
  const gauges: GaugeLine[] = readingsOf(handle.view, subject).flatMap((reading, i) => {
    const measured = subject.facts.readings.find((one) => one.id === reading.id);
    if (!measured?.ends) return [];
    const [a, b] = measured.ends;
    const angle = reading.gauge.kind === "angle";
    return [
      {
        key: reading.id,
        a: ground.place(reading.body, a!),
        b: ground.place(reading.gauge.other ?? reading.body, b!),
        around:
          reading.gauge.kind === "perimeter"
            ? reading.gauge.points!.map((point) => ground.place(reading.body, point))
            : undefined,
        within: ["diameter", "radius", "depth", "wall", "faces", "angle", "perimeter"].includes(reading.gauge.kind),
        numeral: {
          text: `${SIGNS[reading.gauge.kind] ?? ""}${mm(angle ? measured.model_mm : measured.model_mm * times)}${angle ? "°" : ""}`,
          full: String(Number(measured.model_mm.toPrecision(12))),
          label: `Reading ${i + 1}, in the bench`,
          prefix: `(${i + 1})`,
          colour: reading.real_mm == null && !measured.band ? INK : measured.met ? SETTLED : LOOK,
          commit:
            typed && !angle
              ? (text: string, again: boolean) =>
                  handle.act({ do: "set-reading", reading: reading.id, typed: text, sure: again })
              : undefined,
        },
      },
    ];
  });
  const pair =
    picking?.first && picking.second && picking.distance && picking.way.key === "points"
      ? [
          {
            key: "picking",
            a: picking.first.point,
            b: picking.second.point,
            numeral: { text: mm(picking.distance), label: "distance", colour: "#b83a24" },
          },
        ]
      : [];
  return (
    <>
      <GaugeDimensions ground={ground} gauges={gauges} />
      <GaugeDimensions ground={ground} gauges={pair} onBody />
    </>
  );
}
