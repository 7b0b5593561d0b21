import type { JobHandle } from "../../api/useJob";
import type { TaskView, Source } from "../../api/types";
import { Press } from "../../blocks/Press";
import { bytes, UNIT_WORDS } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import { sentence } from "../../blocks/words";
import { Working } from "../../blocks/Working";
import { FilePicker } from "../../jobs/FilePicker";
import css from "./IntakeSheet.module.css";

const KINDS: Record<string, string> = {
  "stl-binary": "STL",
  "stl-ascii": "STL, ASCII",
  "3mf": "3MF",
  obj: "OBJ",
  "ply-ascii": "PLY, ASCII",
  "ply-binary": "PLY",
  step: "STEP",
  iges: "IGES",
  brep: "BREP",
};

interface Props {
  handle: JobHandle;
  chosen: string;
  choose: (source: string) => void;
}

/** The files of the job, those on their way, and those that could not be read. */
export function Files({ handle, chosen, choose }: Props) {
  const { view } = handle;
  const { sources } = view.job;
  const running = view.tasks
    .filter((one) => one.state === "waiting" || one.state === "doing")
    .filter((one) => one.kind !== "release" && one.does !== "estimate-plate");
  const newest = view.tasks[0]?.id ?? 0;
  // A failure is shown until something newer was done; the file itself stays downloadable.
  const failed = view.tasks.filter(
    (one) => one.state === "failed" && one.kind !== "release" && one.does !== "estimate-plate" && one.id > newest - 8,
  );
  return (
    <section aria-label="Files">
      <Head title={sources!.length === 1 ? "File" : `Files (${sources!.length})`}>
        <FilePicker into={view.id} label="Add files" className="link" />
      </Head>
      <table className={sheetCss.table}>
        <tbody>
          {sources!.map((source) => (
            <tr key={source.id} className={source.id === chosen && sources!.length > 1 ? sheetCss.chosen : undefined}>
              <td className={css.file}>
                <Press onClick={() => choose(source.id)} title={`${source.name}, SHA-256 ${source.sha256}`}>
                  {source.name}
                </Press>
                <small>
                  {KINDS[source.format] ?? source.format}, {bytes(source.bytes)}
                  {source.packed_in ? `, out of ${source.packed_in}` : ""}
                  {source.replaced!.length ? `, revision ${source.replaced!.length + 1}` : ""}
                </small>
              </td>
              <td className={sheetCss.r}>
                <UnitOf source={source} />
                <span className={css.links}>
                  <a className="link" href={`/api/jobs/${view.id}/originals/${source.sha256}`} download={source.name}>
                    Original
                  </a>
                  <FilePicker
                    into={view.id}
                    label="New revision"
                    className="link"
                    replaces={{ source: source.id, on: handle.settled }}
                  />
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {running.map((task) => (
        <Working key={task.id} task={task} />
      ))}
      {failed.map((task) => (
        <Failed key={task.id} job={view.id} task={task} />
      ))}
    </section>
  );
}

function UnitOf({ source }: { source: Source }) {
  return source.unit ? (
    <span className="settled">
      {UNIT_WORDS[source.unit]}, {source.how}
    </span>
  ) : (
    <span className="stop">unit not settled</span>
  );
}

function Failed({ job, task }: { job: string; task: TaskView }) {
  if (!task.error) return null;
  return (
    <div className={css.failed} role="alert">
      <b className="stop">{task.kind === "read" ? `${task.name} cannot be read` : "Not done"}</b>
      <p>{sentence(task.error.says)}</p>
      {task.error.where && <p className="soft">Where: {task.error.where}.</p>}
      {task.error.remedy && <p className="soft">{sentence(task.error.remedy)}</p>}
      {task.sha256 && (
        <a className="link" href={`/api/jobs/${job}/originals/${task.sha256}`} download={task.name}>
          The file as it came
        </a>
      )}
    </div>
  );
}
