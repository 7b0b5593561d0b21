import { useMemo, useState } from "react";
import { tell, type JobHandle } from "../api/useJob";
import type { Body, JobView, SheetName } from "../api/types";
import { Bench } from "../bench/Bench";
import { useStrokes } from "../bench/strokes";
import { SizeChain } from "../blocks/SizeChain";
import { TitleBlock } from "../blocks/TitleBlock";
import { thoughtApart } from "../sheets/division/apart";
import { CutLines } from "../sheets/division/CutLines";
import { PieceBalloons } from "../sheets/division/PieceBalloons";
import { SumFoot } from "../sheets/division/SumFoot";
import { useDivision, type Dividing } from "../sheets/division/useDivision";
import { LayerFoot } from "../sheets/seating/LayerFoot";
import { machineOf } from "../sheets/seating/plateMachine";
import { PlanSheet } from "../sheets/seating/PlanSheet";
import { PlanViews } from "../sheets/seating/PlanViews";
import { SeatBlock } from "../sheets/seating/SeatBlock";
import { SeatSize } from "../sheets/seating/SeatSize";
import { ShowingMarks } from "../sheets/seating/ShowingMarks";
import { useLayering, useSeating } from "../sheets/seating/useSeating";
import { useSeatPicks } from "../sheets/seating/useSeatPicks";
import { SHEETS } from "../sheets/sheets";
import type { Picking } from "../sheets/truing/usePicking";
import { GaugeLines } from "./GaugeLines";
import css from "./JobPage.module.css";
import { OverallSizes } from "./OverallSizes";
import { subjectOf } from "./subject";
import type { Selection } from "./useSelection";
import { useShown } from "./useShown";
import { useSize } from "./useSize";

const MARGINS = { top: 70, right: 132, bottom: 212, left: 116 };

interface Props {
  handle: JobHandle;
  sheet: SheetName;
  selection: Selection;
  picking: Picking;
}

/** The sheet at the left, and the bench with what the sheet draws in it. */
export function Desk({ handle, sheet, selection, picking }: Props) {
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
  // Pieces that are only thought of, drawn apart.
  const ahead = useMemo(
    () =>
      dividing?.thought.length ? thoughtApart(dividing.body, dividing.facts, dividing.thought, dividing.apart) : [],
    [dividing],
  );
  const [ratio, drag] = useState<number | null>(null);
  const settled = view.survey.bodies.some((one) => one.chain);
  const seated = settled && !!SHEETS[sheet].seated;
  const above = !!onPlate?.fromAbove && settled;
  const seatPick = useSeatPicks(handle, onPlate);
  const [frame, size] = useSize();
  const { Sheet, Over } = SHEETS[sheet];
  const [covered, cover] = useState(false);
  const strokes = useStrokes();
  const { shown, failed, waiting, exacting } = useShown({
    view,
    bodies,
    subject,
    selected,
    hidden,
    picked,
    onPlate,
    dividing,
    ahead,
    seated,
    settled,
    ratio,
  });
  const chain = subject?.facts.chain;
  // On the plate pieces stand each by itself: the size of their whole is nowhere to be drawn.
  const inPieces = subject?.bodies.some((body) => body.division) ?? false;
  return (
    <>
      {/* Kept while only the layer that is looked at changes, so that scrubbing draws the bench and nothing else. */}
      {useMemo(
        () => (
          <Sheet
            handle={handle}
            subject={subject}
            selection={selection}
            picking={picking}
            drag={drag}
            seating={seating}
            dividing={dividing}
          />
        ),
        [Sheet, handle, subject, selection, picking, seating, dividing],
      )}
      <div className={css.right} ref={frame}>
        {/* Under the plan the bench stays as it was left, out of sight and out of reach. */}
        <div className={above || covered ? css.under : undefined} inert={above || covered}>
          <Bench
            shown={shown}
            machine={onPlate ? machineOf(onPlate) : view.survey.machine}
            cutAt={layering.layer && layering.layers ? layering.layers.heights[layering.layer - 1] : null}
            strokes={strokes}
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
                  <OverallSizes
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
                  <GaugeLines
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
        {Over && <Over handle={handle} cover={cover} />}
      </div>
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
  return view.job.divisions?.some((one) => one.id === body.division && !one.replaces) ?? false;
}
