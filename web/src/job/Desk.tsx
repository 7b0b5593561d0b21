import { useMediaQuery } from "@mantine/hooks";
import { useMemo, useState } from "react";
import { tell, type JobHandle } from "../api/useJob";
import type { Body, JobView, SheetName } from "../api/types";
import { Bench, type Ground } from "../bench/Bench";
import { hoverAt } from "../bench/hovered";
import type { Pick } from "../bench/picking";
import { PartGuard } from "../blocks/Guard";
import { SizeChain } from "../blocks/SizeChain";
import { TitleBlock } from "../blocks/TitleBlock";
import { thoughtApart } from "../sheets/division/apart";
import { CutLines } from "../sheets/division/CutLines";
import { PieceBalloons } from "../sheets/division/PieceBalloons";
import { SumFoot } from "../sheets/division/SumFoot";
import { useDivision, type Dividing } from "../sheets/division/useDivision";
import { AlongLayer } from "../sheets/seating/cost/AlongLayer";
import { PathsOverBench } from "../sheets/seating/cost/PathLines";
import { LayerFoot } from "../sheets/seating/LayerFoot";
import { machineOf } from "../sheets/seating/plateMachine";
import { PlanSheet } from "../sheets/seating/PlanSheet";
import { PlanViews } from "../sheets/seating/PlanViews";
import { SeatBlock } from "../sheets/seating/SeatBlock";
import { SeatSize } from "../sheets/seating/SeatSize";
import { ShowingMarks } from "../sheets/seating/ShowingMarks";
import { useLayering, useSeating } from "../sheets/seating/useSeating";
import { useSeatPicks } from "../sheets/seating/useSeatPicks";
import { useSettings } from "../house/settings";
import { useBlueprint } from "../house/theme";
import { SHEETS } from "../sheets/sheets";
import type { Picking } from "../sheets/truing/usePicking";
import { GaugeLines } from "./GaugeLines";
import css from "./JobPage.module.css";
import { OverallSizes } from "./OverallSizes";
import { subjectOf } from "./subject";
import type { Selection } from "./useSelection";
import { useFreshStrokes } from "./useFreshStrokes";
import { useShown } from "./useShown";
import { useSize } from "./useSize";

const MARGINS = { top: 70, right: 132, bottom: 212, left: 116 };
/** Where title block and chain stand below the bench. */
const STACKED = { top: 100, right: 100, bottom: 48, left: 118 };

interface Props {
  handle: JobHandle;
  sheet: SheetName;
  selection: Selection;
  picking: Picking;
}

/** All that the desk shows, worked out of the job and of what is selected. */
function useDesk({ handle, sheet, selection, picking }: Props) {
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
  const throughFace = !!dividing?.taking.want;
  const picked = (sheet === "truing" && picking.on) || (!!onPlate && onPlate.taking !== "seat") || throughFace;
  // Pieces that are only thought of, drawn apart.
  const ahead = useMemo(
    () =>
      dividing?.thought.length ? thoughtApart(dividing.body, dividing.facts, dividing.thought, dividing.apart) : [],
    [dividing],
  );
  const [ratio, drag] = useState<number | null>(null);
  const settled = view.survey.bodies.some((facts) => facts.chain);
  const seated = settled && !!SHEETS[sheet].seated;
  const drawn = useShown({
    ...{ view, bodies, subject, selected, hidden, picked, onPlate, dividing, ahead, seated, settled, ratio },
  });
  return { ...drawn, dividing, subject, bodies, seating, onPlate, picked, ahead, ratio, drag, settled, seated };
}

type DeskState = ReturnType<typeof useDesk>;

/** The sheet at the left, and the bench with what the sheet draws in it. */
export function Desk(props: Props) {
  const { handle, sheet, selection, picking } = props;
  const desk = useDesk(props);
  const { subject, seating, dividing, onPlate, drag } = desk;
  const layering = useLayering(handle.view, onPlate);
  const above = !!onPlate?.fromAbove && desk.settled;
  const [frame, size] = useSize();
  const { Sheet, Over } = SHEETS[sheet];
  const [covered, cover] = useState(false);
  const settings = useSettings();
  return (
    <>
      {/* Kept while only the layer that is looked at changes, so that scrubbing draws the bench and nothing else. */}
      {useMemo(
        () => (
          <Sheet {...{ handle, subject, selection, picking, drag, seating, dividing }} />
        ),
        // With the settings, so that numbers are written as they are settled.
        // eslint-disable-next-line react-hooks/exhaustive-deps
        [Sheet, handle, subject, selection, picking, drag, seating, dividing, settings],
      )}
      <section className={css.right} ref={frame} aria-label="Bench">
        {/* Under the plan the bench stays as it was left, out of sight and out of reach. */}
        <div className={above || covered ? `${css.bench} ${css.under}` : css.bench} inert={above || covered}>
          <PartGuard says="The drawing has stopped. The sheets go on: all that is on them can be done without it.">
            <DeskBench {...props} desk={desk} layering={layering} />
          </PartGuard>
        </div>
        {above && onPlate && size && (
          <PlanSheet
            handle={handle}
            seating={onPlate}
            cut={layering.cut}
            paths={layering.paths}
            along={layering.along}
            size={size}
          />
        )}
        <DeskFoot view={handle.view} selected={selection.selected} desk={desk} layering={layering} above={above} />
        {Over && <Over handle={handle} cover={cover} />}
      </section>
    </>
  );
}

const NONE_SELECTED: readonly string[] = [];

interface DeskBenchProps extends Props {
  desk: DeskState;
  layering: ReturnType<typeof useLayering>;
}

/** What a place that is picked in the bench is for, by the sheet. */
function usePicks({ handle, picking, desk }: DeskBenchProps) {
  const { dividing, onPlate, picked, exacting } = desk;
  const seatPick = useSeatPicks(handle, onPlate);
  const throughFace = !!dividing?.taking.want;
  const take = (pick: Pick) => void dividing!.take(pick).catch(tell);
  const onPick = exacting ? undefined : throughFace ? take : (seatPick ?? (picked ? picking.pick : undefined));
  return { onPick, onHover: seatPick || throughFace ? undefined : hoverAt };
}

/** The bench, with what the sheet draws in it. */
function DeskBench(props: DeskBenchProps) {
  const { handle, selection, desk, layering } = props;
  const { shown, bodies, subject, onPlate, ratio, failed, waiting, exacting } = desk;
  const { layer, layers } = layering;
  const picks = usePicks(props);
  const blueprint = useBlueprint();
  const stacked = useMediaQuery("(max-width: 1180px)");
  return (
    <Bench
      key={blueprint ? "blueprint" : "paper"}
      shown={shown}
      machine={onPlate ? machineOf(onPlate) : handle.view.survey.machine}
      cutAt={layer && layers ? layers.heights[layer - 1] : null}
      strokes={useFreshStrokes(handle.view)}
      overhang={onPlate?.plate.machine.process!.overhang ?? null}
      onLook={() => onPlate?.lookFromAbove(false)}
      mode={desk.seated ? "seated" : "true"}
      margins={stacked ? STACKED : MARGINS}
      size={subject?.facts.chain?.size_mm ?? null}
      dragged={ratio}
      fits={subject?.facts.fits_as_it_lies ?? true}
      {...picks}
      selected={onPlate ? NONE_SELECTED : selection.selected}
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
      {(ground) => <OverBench {...props} ground={ground} />}
    </Bench>
  );
}

/** What is drawn over the bench: dimensions, gauges, planes, balloons. */
function OverBench({ handle, sheet, picking, desk, layering, ground }: DeskBenchProps & { ground: Ground }) {
  const { dividing, subject, shown, onPlate, picked, ahead, ratio, seated } = desk;
  // On the plate pieces stand each by itself: the size of their whole is nowhere to be drawn.
  const inPieces = subject?.bodies.some((body) => body.division) ?? false;
  const typed = sheet === "truing";
  return (
    <>
      {onPlate && <ShowingMarks ground={ground} view={handle.view} seating={onPlate} />}
      {onPlate && layering.paths && <PathsOverBench ground={ground} paths={layering.paths} along={layering.along} />}
      {onPlate?.seat?.room && <SeatSize ground={ground} seat={onPlate.seat} />}
      {dividing && <CutLines ground={ground} dividing={dividing} />}
      {dividing && (ahead.length > 0 || (!dividing.drafting && shown.length > 1)) && (
        <PieceBalloons ground={ground} shown={shown} />
      )}
      {subject && !onPlate && !ahead.length && !dividing?.division && !(seated && inPieces) && (
        <OverallSizes
          {...{ handle, subject, ground, typed, seated }}
          whole={subject.bodies.length === shown.length}
          ratio={ratio ?? 1}
        />
      )}
      {subject && !seated && !dividing && (
        <GaugeLines {...{ handle, subject, ground, typed }} picking={picked ? picking : null} ratio={ratio ?? 1} />
      )}
    </>
  );
}

interface DeskFootProps {
  view: JobView;
  selected: string[];
  desk: DeskState;
  layering: ReturnType<typeof useLayering>;
  /** Whether the plate is seen from above. */
  above: boolean;
}

/** What stands at the foot of the bench: layers, how pieces add up, or the size chain; and the title block. */
function DeskFoot({ view, selected, desk, layering, above }: DeskFootProps) {
  const { onPlate, settled, dividing, subject } = desk;
  if (onPlate && settled)
    return (
      <>
        {above && <PlanViews seating={onPlate} />}
        <AlongLayer layering={layering} />
        <LayerFoot
          layering={layering}
          view={view}
          plate={onPlate.plate.id}
          resin={onPlate.plate.machine.process?.kind === "resin"}
        />
        <SeatBlock view={view} seating={onPlate} layers={layering.layers} />
      </>
    );
  return (
    <>
      {dividing && settled ? (
        <SumFoot view={view} dividing={dividing} />
      ) : (
        subject && <SizeChain view={view} subject={subject} />
      )}
      <TitleBlock view={view} subject={subject} selected={selected} />
    </>
  );
}

/** What the bench draws: pieces stand for their whole where there are such, but while that is divided anew. */
function isDrawn(view: JobView, body: Body, sheet: SheetName, dividing: Dividing | null): boolean {
  const facts = view.survey.bodies.find((one) => one.id === body.id);
  if (!dividing) return !facts?.divided && (SHEETS[sheet].seated || !body.division || !isTrial(view, body));
  if (dividing.drafting) return body.id === dividing.body.id;
  return body.division === dividing.division?.id;
}

/** A trial lies within its whole: where that is drawn, the trial is not. */
function isTrial(view: JobView, body: Body): boolean {
  return view.job.divisions?.some((division) => division.id === body.division && !division.replaces) ?? false;
}
