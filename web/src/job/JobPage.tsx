import { useEffect, type DragEvent } from "react";
import { Link } from "wouter";
import { Problem } from "../api/client";
import { tell, useJob, type JobHandle } from "../api/useJob";
import type { Body, BodySurvey, SheetName } from "../api/types";
import { Bench, type Ground } from "../bench/Bench";
import { GaugeDimensions, OverallDimensions, type GaugeLine } from "../bench/Dimensions";
import { useBenchMesh } from "../bench/mesh";
import { PlateLetters } from "../bench/PlateLetters";
import { fileNumber, mm } from "../blocks/numbers";
import { SheetStrip } from "../blocks/SheetStrip";
import { SizeChain } from "../blocks/SizeChain";
import { TitleBlock } from "../blocks/TitleBlock";
import { IntakeSheet } from "../sheets/intake/IntakeSheet";
import { LaterSheet } from "../sheets/later/LaterSheet";
import { ReleaseSheet } from "../sheets/release/ReleaseSheet";
import { SeatingSheet } from "../sheets/seating/SeatingSheet";
import { TruingSheet } from "../sheets/truing/TruingSheet";
import { usePicking, type Picking } from "../sheets/truing/usePicking";
import { useSendFile } from "../jobs/useSendFile";
import css from "./JobPage.module.css";
import { ReadingFile } from "./ReadingFile";

const MARGINS = { top: 70, right: 132, bottom: 212, left: 116 };

/** One job: the strip, the sheet at the left, the bench with chain and title block. */
export function JobPage({ id, sheet }: { id: string; sheet: SheetName }) {
  const { handle, problem } = useJob(id);
  const body = handle?.view.job.bodies[0];
  const facts = handle?.view.survey.bodies[0];
  const picking = usePicking(handle, body);
  const drop = useDropElsewhere();
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
      {body && facts ? (
        <Desk handle={handle} body={body} facts={facts} sheet={sheet} picking={picking} />
      ) : (
        <ReadingFile view={handle.view} />
      )}
    </div>
  );
}

/** A file dropped on a job opens a job of its own; left to itself the browser would leave the page for it. */
function useDropElsewhere() {
  const { sending, send } = useSendFile(null);
  const problem = sending?.problem;
  useEffect(() => {
    if (problem) tell(new Problem(problem.status, problem.code, `${sending.name}: ${problem.says}`, "", problem.remedy));
  }, [problem, sending?.name]);
  return {
    onDragOver: (event: DragEvent) => event.preventDefault(),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      void send([...event.dataTransfer.files]);
    },
  };
}

interface DeskProps {
  handle: JobHandle;
  body: Body;
  facts: BodySurvey;
  sheet: SheetName;
  picking: Picking;
}

function Desk({ handle, body, facts, sheet, picking }: DeskProps) {
  const { view } = handle;
  const mesh = useBenchMesh(body.bench);
  const seated = facts.chain != null && (sheet === "seating" || sheet === "release");
  const picked = sheet === "truing" && picking.on;
  return (
    <>
      <SheetOf handle={handle} body={body} facts={facts} sheet={sheet} picking={picking} />
      <div className={css.right}>
        <Bench
          body={body}
          facts={facts}
          mesh={mesh.data}
          machine={view.job.machine}
          mode={seated ? "seated" : "true"}
          margins={MARGINS}
          onPick={picked ? picking.pick : undefined}
          onHover={picking.hover}
          says={mesh.isError ? <strong className="stop">The drawing cannot be loaded; reload the page</strong> : !mesh.data && <strong>drawing …</strong>}
        >
          {(ground) => (
            <>
              <Overall handle={handle} body={body} facts={facts} ground={ground} typed={sheet === "truing"} seated={seated} />
              {!seated && <Gauges handle={handle} body={body} facts={facts} ground={ground} typed={sheet === "truing"} picking={picked ? picking : null} />}
              {seated && <PlateLetters view={ground.view} volume={view.job.machine.volume} />}
            </>
          )}
        </Bench>
        <SizeChain view={view} body={body} facts={facts} />
        <TitleBlock view={view} body={body} facts={facts} />
      </div>
    </>
  );
}

function SheetOf(props: DeskProps) {
  switch (props.sheet) {
    case "intake":
      return <IntakeSheet {...props} />;
    case "truing":
      return <TruingSheet {...props} />;
    case "seating":
      return <SeatingSheet {...props} />;
    case "release":
      return <ReleaseSheet {...props} />;
    default:
      return <LaterSheet sheet={props.sheet} job={props.handle.view.id} />;
  }
}

interface DrawnProps {
  handle: JobHandle;
  body: Body;
  facts: BodySurvey;
  ground: Ground;
  typed: boolean;
}

/** Overall dimensions: numbers of the file while the unit is open, else mm, typed on Truing. */
function Overall({ handle, body, facts, ground, typed, seated }: DrawnProps & { seated: boolean }) {
  const numerals = Object.fromEntries(
    (["x", "y", "z"] as const).map((axis, i) => {
      const row = facts.chain?.[i];
      if (!row) return [axis, { text: fileNumber(facts.numbers[i]!), label: axis, prefix: axis.toUpperCase(), suffix: "?" }];
      const size = seated && facts.room ? facts.room.high[i]! - facts.room.low[i]! : row.size_mm;
      return [
        axis,
        {
          text: mm(size),
          full: String(Number(size.toPrecision(12))),
          label: `Size along ${axis.toUpperCase()}, in the bench`,
          prefix: axis.toUpperCase(),
          commit: typed ? (text: string) => handle.act({ do: "size-axis", body: body.id, axis, typed: text }) : undefined,
        },
      ];
    }),
  );
  return <OverallDimensions ground={ground} numerals={numerals} />;
}

const SETTLED = "#256c62";
const LOOK = "#865b07";

/** Readings as dimension lines, and the pair being picked. */
function Gauges({ handle, body, facts, ground, typed, picking }: DrawnProps & { picking: Picking | null }) {
  const gauges: GaugeLine[] = handle.view.job.readings
    .filter((reading) => reading.body === body.id)
    .flatMap((reading, i) => {
      const measured = facts.readings.find((one) => one.id === reading.id);
      if (!measured) return [];
      return [
        {
          key: reading.id,
          a: ground.place(reading.a_point),
          b: ground.place(reading.b_point),
          numeral: {
            text: mm(measured.model_mm),
            full: String(Number(measured.model_mm.toPrecision(12))),
            label: `Reading ${i + 1}, in the bench`,
            prefix: `(${i + 1})`,
            colour: measured.met ? SETTLED : LOOK,
            commit: typed ? (text: string) => handle.act({ do: "set-reading", reading: reading.id, typed: text }) : undefined,
          },
        },
      ];
    });
  const pair =
    picking?.first && picking.second && picking.distance
      ? [{ key: "picking", a: picking.first.point, b: picking.second.point, numeral: { text: mm(picking.distance), label: "distance", colour: "#b83a24" } }]
      : [];
  return (
    <>
      <GaugeDimensions ground={ground} gauges={gauges} />
      <GaugeDimensions ground={ground} gauges={pair} onBody />
    </>
  );
}
