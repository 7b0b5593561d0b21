import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type {
  PlateState,
  AskRelease,
  Body,
  JobView,
  TaskView,
  Preview,
  ReleaseFormat,
  ReleasePlace,
  ReleaseShape,
  Unit,
} from "../../api/types";
import { Choice, Segments } from "../../blocks/Choice";
import { Press } from "../../blocks/Press";
import { Head, sheetCss } from "../../blocks/Sheet";
import { sentence } from "../../blocks/words";
import { Working } from "../../blocks/Working";
import { Contents } from "./Contents";
import { Names } from "./Names";
import css from "./ReleaseSheet.module.css";
import { type Order, useOrder } from "./useOrder";

const FORMATS: [ReleaseFormat, string][] = [
  ["3mf", "3MF, unit inside"],
  ["stl", "STL, binary"],
  ["stl-ascii", "STL, ASCII"],
  ["obj", "OBJ"],
  ["ply", "PLY"],
  ["step", "STEP, exact solids"],
];
const UNITS: [Unit, string][] = [
  ["mm", "in millimetres"],
  ["cm", "in centimetres"],
  ["m", "in metres"],
  ["um", "in micrometres"],
  ["in", "in inches"],
  ["ft", "in feet"],
];
const SHAPES: [ReleaseShape, string][] = [
  ["together", "together"],
  ["each", "each its own file"],
  ["merged", "as one object"],
];
const PLACES: [ReleasePlace, string][] = [
  ["seated", "as they stand"],
  ["own", "as in their file"],
  ["origin", "at the origin"],
];

/** What is to be released, with every name and what each file holds before anything is written. */
export function NewRelease({ handle, chosen, all }: { handle: JobHandle; chosen: Body[]; all: number }) {
  const { view } = handle;
  const [order, set] = useOrder(view.id);
  const [shown, show] = useState(0);
  const plates = view.survey.plates;
  const plate = plates.some((one) => one.id === order.plate) ? order.plate : "all";
  const asked: AskRelease = {
    format: order.format,
    unit: order.unit,
    place: order.place,
    shape: order.shape,
    alike: order.once ? "once" : "every",
    pattern: order.pattern,
    short: order.short,
    bodies: chosen.length < all ? chosen.map((body) => body.id) : null,
    plates: plate === "all" || order.place === "own" ? null : [plate],
  };
  const { data: preview } = useQuery({
    queryKey: ["release-preview", view.id, view.number, view.releases.length, asked, shown],
    queryFn: () => api.previewRelease(view.id, asked, shown),
    placeholderData: (before: Preview | undefined) => before,
  });
  const task = view.tasks.find((one) => one.kind === "release");
  const working = task && (task.state === "waiting" || task.state === "doing") ? task : null;
  const release = () => handle.change((on) => api.release(view.id, on, asked)).catch(tell);
  const formats = FORMATS.filter(([format]) => format !== "step" || preview?.exact || order.format === "step");
  return (
    <>
      <Head title="New release">
        {chosen.length < all ? (
          <b className="look">{`${chosen.length} of ${all} bodies`}</b>
        ) : (
          <span className="soft">{all > 1 ? `all ${all} bodies` : ""}</span>
        )}
      </Head>
      <div className={css.pair}>
        <Choice label="Format" value={order.format} options={formats} choose={(format) => set({ format })} />
        <Choice label="Unit written" value={order.unit} options={UNITS} choose={(unit) => set({ unit })} />
      </div>
      {(chosen.length > 1 || (preview?.files.length ?? 1) > 1) && <FormatChoice order={order} set={set} />}
      <div className={css.formats}>
        <Segments
          label="Where they stand"
          value={order.place}
          options={PLACES}
          choose={(place) => set({ place })}
          width="100%"
        />
      </div>
      <OnceAndPlates order={order} set={set} plates={plates} plate={plate} />
      {preview && <Contents preview={preview} shown={shown} show={show} />}
      <Names preview={preview} order={order} set={set} />
      {preview && <PreviewMinds preview={preview} />}
      <Press className={css.go} why={whyNot(view, chosen, working !== null, preview)} onClick={release}>
        Write, read back, compare
      </Press>
      {working ? <Working task={working} /> : <Failed task={task} view={view} />}
    </>
  );
}

/** Why nothing can be released now, if so. */
function whyNot(view: JobView, chosen: Body[], working: boolean, preview: Preview | undefined): string | null {
  const stopped = chosen.filter((body) => !view.survey.bodies.find((facts) => facts.id === body.id)?.releasable);
  if (working) return "a release is being made";
  if (!chosen.length) return "no body is to be released: choose one, or mark one as to print on Intake";
  if (stopped.length) {
    const more = stopped.length > 1 ? ` and ${stopped.length - 1} more` : "";
    return `a finding stops ${stopped[0]!.name}${more}: settle it first`;
  }
  return preview?.problem ? sentence(preview.problem) : null;
}

/** What is to be minded before files are written, and what keeps them from it. */
function PreviewMinds({ preview }: { preview: Preview }) {
  return (
    <>
      {preview.minds.map((mind) => (
        <p key={mind} className={css.mind} role="status">
          <span aria-hidden className={`${sheetCss.sign} ${sheetCss.look} look`} />
          {sentence(mind)}
        </p>
      ))}
      {preview.problem && (
        <p className={css.mind} role="alert">
          <span aria-hidden className={`${sheetCss.sign} ${sheetCss.stop} stop`} />
          {sentence(preview.problem)}
        </p>
      )}
    </>
  );
}

/** In which format the files are written. */
function FormatChoice({ order, set }: { order: Order; set: (change: Partial<Order>) => void }) {
  return (
    <div className={css.formats}>
      <Segments label="Files" value={order.shape} options={SHAPES} choose={(shape) => set({ shape })} width="100%" />
    </div>
  );
}

interface OnceAndPlatesProps {
  order: Order;
  set: (change: Partial<Order>) => void;
  plates: PlateState[];
  plate: string;
}

/** Whether the same part is written once, and of which plates. */
function OnceAndPlates({ order, set, plates, plate }: OnceAndPlatesProps) {
  return (
    <div className={css.lines}>
      {order.shape === "each" && (
        <Checkbox
          label="the same part once, with a count"
          checked={order.once}
          onChange={(event) => set({ once: event.target.checked })}
        />
      )}
      {plates.length > 1 && order.place !== "own" && (
        <Choice
          label="Plates"
          value={plate}
          options={[["all", "all plates"], ...plates.map((one, i) => [one.id, `plate ${i + 1}`] as const)]}
          choose={(next) => set({ plate: next })}
          width={150}
        />
      )}
    </div>
  );
}

function Failed({ task, view }: { task: TaskView | undefined; view: JobHandle["view"] }) {
  // A failure is old news once a later release was made.
  if (task?.state !== "failed" || !task.error || view.tasks[0]?.id !== task.id) return null;
  return (
    <div className={sheetCss.notice} role="alert">
      <strong>Not released</strong>
      <p>{sentence(task.error.says)}</p>
      <span className="soft">{sentence(task.error.remedy ?? "")}</span>
    </div>
  );
}
