import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { ReleasedFile, ReleaseView } from "../../api/types";
import { Press } from "../../blocks/Press";
import { bytes, count, mm } from "../../blocks/numbers";
import { dateAndTime } from "../../house/dates";
import { Head, sheetCss } from "../../blocks/Sheet";
import { Changes } from "./Changes";
import { Handover } from "./Handover";
import { Proofs } from "./Proofs";
import css from "./ReleaseSheet.module.css";
import { Verify } from "./Verify";

/** What was released, as a revision block: letter, date, what changed, stamp. The newest comes first. */
export function Releases({ handle, showSheet }: { handle: JobHandle; showSheet: (number: number) => void }) {
  const { releases } = handle.view;
  return (
    <>
      <Head title="Releases">{releases.length === 0 && <span className="soft">none yet</span>}</Head>
      {releases.length === 0 && (
        <p className={sheetCss.text}>
          A release is written to a file and read back; the original is read a second time, and every vertex is compared
          with what your decisions make of it. None of that shares code with the writer. Only when every check holds is
          it offered.
        </p>
      )}
      {releases.map((releas, i) => (
        <ReleaseCard key={releas.number} handle={handle} release={releas} open={i === 0} showSheet={showSheet} />
      ))}
      <p className={css.bundle}>
        <a className="link" href={`/api/jobs/${handle.view.id}/bundle`} download>
          The whole job as a bundle
        </a>{" "}
        <span className="soft">
          originals, decisions and releases in one ZIP; drop it on the first page of another Aim True
        </span>
      </p>
    </>
  );
}

function ReleaseCard({
  handle,
  release,
  open,
  showSheet,
}: {
  handle: JobHandle;
  release: ReleaseView;
  open: boolean;
  showSheet: (number: number) => void;
}) {
  const job = handle.view.id;
  const [shown, setShown] = useState(open);
  // The files and their proofs are fetched when they are looked at; they never change.
  const { data } = useQuery({
    queryKey: ["release", job, release.number],
    queryFn: () => api.releaseFiles(job, release.number),
    enabled: shown,
    staleTime: Infinity,
  });
  const files = data?.files ?? [];
  const several = release.files > 1;
  const at = `/api/jobs/${job}/releases/${release.number}`;
  const back = () => void handle.change((on) => api.backToRelease(job, on, release.number)).catch(tell);
  return (
    <article className={css.release} data-testid={`release-${release.number}`}>
      <ReleaseTop release={release} several={several} files={files} />
      <Changes job={job} release={release} />
      <ReleaseTakes several={several} at={at} release={release} showSheet={showSheet} />
      {!release.current && (
        <p className={css.since}>
          <span className="look">The job has changed since.</span>{" "}
          <Press className="link" onClick={back}>
            Open it as it was
          </Press>
        </p>
      )}
      {several && shown && (
        <ul className={css.files}>
          {files.map((file, i) => (
            <li key={file.name}>
              <a className="link" href={`${at}/file?file=${i}`} download={file.name}>
                {file.name}
              </a>
              <span className="number">{(file.size_mm as number[]).map(mm).join(" × ")}</span>
            </li>
          ))}
        </ul>
      )}
      {shown && release.recorded && <Handover handle={handle} release={release.number} />}
      {shown && release.recorded && <Verify job={job} release={release.number} />}
      {shown && files.length > 0 && <Proofs files={files} />}
      <div className={css.more} style={shown ? { paddingTop: 8 } : undefined}>
        <Press className="link" onClick={() => setShown(!shown)}>
          {shown ? "Fold the proof" : "Show the proof"}
        </Press>
      </div>
    </article>
  );
}

/** The letter of a release, its files and its time. */
function ReleaseTop({ release, several, files }: { release: ReleaseView; several: boolean; files: ReleasedFile[] }) {
  return (
    <div className={css.top}>
      <b className={css.letter} title={`release ${release.number}`}>
        {release.letter}
      </b>
      <span>
        <b>{several ? `${release.files} files` : release.name}</b>
        <small>
          release {release.number}, {dateAndTime(release.at)}, {bytes(release.bytes)}
          {files.length > 0 && `, ${count(files.reduce((sum, file) => sum + file.triangles, 0))} triangles`}
        </small>
      </span>
      <span className={`${css.proven} settled`}>PROVEN</span>
    </div>
  );
}

interface ReleaseTakesProps {
  several: boolean;
  at: string;
  release: ReleaseView;
  showSheet: (number: number) => void;
}

/** What can be taken from a release. */
function ReleaseTakes({ several, at, release, showSheet }: ReleaseTakesProps) {
  return (
    <div className={css.takes}>
      <a className={css.get} href={several ? `${at}/zip` : `${at}/file`} download={several ? true : release.name}>
        {several ? "Download all, as ZIP" : "Download the file"}
      </a>
      <Press className="link" onClick={() => showSheet(release.number)}>
        Proof sheet
      </Press>
      <a className="link" href={`${at}/sheet.pdf`} download>
        PDF
      </a>
      {release.recorded && (
        <a className="link" href={`${at}/record`} download="PROOF.json" title="for aimtrue verify, anywhere">
          Record
        </a>
      )}
      {!several && (
        <a className="link" href={`${at}/zip`} download>
          ZIP
        </a>
      )}
    </div>
  );
}
