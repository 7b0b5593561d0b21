import { Link } from "wouter";
import type { JobView } from "../api/types";
import { Preview } from "../bench/Preview";
import { sentence } from "../blocks/words";
import { Working } from "../blocks/Working";
import { FilePicker } from "../jobs/FilePicker";
import css from "./JobPage.module.css";

/** Shown while a file is read, or when it could not be: the reason, what to do, and the file back. */
export function ReadingFile({ view }: { view: JobView }) {
  const errand = view.errands.find((one) => one.kind === "read");
  const reading = errand && errand.state !== "failed";
  return (
    <>
      {reading && (
        <div className={css.right}>
          <Preview name={errand.preview ?? null} />
        </div>
      )}
      <div className={reading ? css.beside : css.reading}>
        <div className={css.card}>
          {!errand && <h2>No file yet</h2>}
          {errand && errand.state !== "failed" && (
            <>
              <h2>Reading {errand.name}</h2>
              <Working errand={errand} />
            </>
          )}
          {errand?.state === "failed" && errand.error && (
            <div role="alert">
              <h2 className="stop">{errand.name} cannot be read</h2>
              <p>{sentence(errand.error.says)}</p>
              {errand.error.where && <p className="soft">Where: {errand.error.where}.</p>}
              {errand.error.remedy && <p className="soft">What to do: {errand.error.remedy}.</p>}
              <div className={css.actions}>
                <FilePicker into={view.id} label="Give another file" />
                <a className="link" href={`/api/jobs/${view.id}/originals/${errand.sha256}`} download={errand.name}>
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
