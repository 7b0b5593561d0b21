import { Progress } from "@mantine/core";
import { Press } from "../blocks/Press";
import css from "./Uploads.module.css";
import { useUploads } from "./uploads";

const MOST = 6;

/** Files on their way, on whatever page one is: how far each is, and a way to leave it. */
export function UploadsShown() {
  const uploads = useUploads();
  if (!uploads.length) return null;
  const more = uploads.length - MOST;
  return (
    <aside className={css.uploads} aria-label="Files on their way">
      {uploads.slice(0, MOST).map((upload) => (
        <div key={upload.id} className={css.upload}>
          <span className={css.name}>{upload.name}</span>
          <span className="number">{upload.begun ? `${Math.round(upload.share * 100)} %` : "waits"}</span>
          <Press className="link" onClick={upload.cancel} aria-label={`Stop sending ${upload.name}`}>
            Stop
          </Press>
          <Progress value={upload.share * 100} color="ink" radius={0} size={3} aria-label={`sending ${upload.name}`} />
        </div>
      ))}
      {more > 0 && (
        <p>
          and {more} more{" "}
          <Press className="link" onClick={() => [...uploads].reverse().forEach(({ cancel }) => cancel())}>
            Stop all
          </Press>
        </p>
      )}
    </aside>
  );
}
