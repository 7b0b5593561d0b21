import { Link } from "wouter";
import type { JobView } from "../api/types";
import { Preview } from "../bench/Preview";
import { sentence } from "../blocks/words";
import { Working } from "../blocks/Working";
import { FilePicker } from "../jobs/FilePicker";
import css from "./JobPage.module.css";

/** Shown while a file is read, or when it could not be: the reason, what to do, and the file back. */
export function ReadingFile({ view }: { view: JobView }) {
  const task = view.tasks.find((one) => one.kind === "read");
  const reading = task && task.state !== "failed";
  return (
    <>
      {reading && (
        <div className={css.right}>
          <Preview name={task.preview ?? null} />
        </div>
      )}
      <div className={reading ? css.beside : css.reading}>
        <div className={css.card}>
          {!task && <h2>No file yet</h2>}
          {task && task.state !== "failed" && (
            <>
              <h2>Reading {task.name}</h2>
              <Working task={task} />
            </>
          )}
          {task?.state === "failed" && task.error && (
            <div role="alert">
              <h2 className="stop">{task.name} cannot be read</h2>
              <p>{sentence(task.error.says)}</p>
              {task.error.where && <p className="soft">Where: {task.error.where}.</p>}
              {task.error.remedy && <p className="soft">What to do: {task.error.remedy}.</p>}
              <div className={css.actions}>
                <FilePicker into={view.id} label="Give another file" />
                <a className="link" href={`/api/jobs/${view.id}/originals/${task.sha256}`} download={task.name}>
                  The file as it came
                </a>
                <Link href="/" className="link">
                  All jobs
                </Link>
              </div>
            </div>
          )}
        </div>
      </div>
    </>
  );
}
