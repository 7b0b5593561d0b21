import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Body, BodySurvey, ErrandView, ReleaseFormat, ReleaseView } from "../../api/types";
import { bytes, count, mm } from "../../blocks/numbers";
import { sentence } from "../../blocks/words";
import { Working } from "../../blocks/Working";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import css from "./ReleaseSheet.module.css";

const FORMATS: [ReleaseFormat, string][] = [
  ["3mf", "3MF, unit inside"],
  ["stl", "STL, binary"],
  ["stl-ascii", "STL, ASCII"],
];

/** Sheet 6: make a release; it is offered only once it was read back and compared. */
export function ReleaseSheet({ handle, facts }: { handle: JobHandle; body: Body; facts: BodySurvey }) {
  const { view } = handle;
  const [format, setFormat] = useState<ReleaseFormat>("3mf");
  if (!facts.chain) {
    return (
      <Sheet label="Release">
        <UnitFirst job={view.id} doing="any release" />
      </Sheet>
    );
  }
  const errand = view.errands.find((one) => one.kind === "release");
  const working = errand && (errand.state === "waiting" || errand.state === "doing") ? errand : null;
  const release = () => void handle.change((on) => api.release(view.id, on, format)).catch(tell);
  return (
    <Sheet label="Release">
      <Head title="New release">
        <span className="soft">in millimetres</span>
      </Head>
      <div className={css.formats} role="radiogroup" aria-label="Format">
        {FORMATS.map(([key, says]) => (
          <button key={key} type="button" role="radio" aria-checked={format === key} onClick={() => setFormat(key)}>
            {says}
          </button>
        ))}
      </div>
      <button type="button" className={css.go} disabled={!view.survey.releasable || Boolean(working)} onClick={release}>
        Write, read back, compare
      </button>
      {working ? <Working errand={working} /> : <Failed errand={errand} view={view} />}
      <Findings job={view.id} here="release" findings={view.survey.findings} />
      <Head title="Releases">{view.releases.length === 0 && <span className="soft">none yet</span>}</Head>
      {view.releases.length === 0 && (
        <p className={sheetCss.text}>
          A release is written to a file, read back by a second reader that shares no code with the writer, and compared. Only when
          every check holds is it offered. The original is never touched.
        </p>
      )}
      {view.releases.map((one, i) => (
        <ReleaseCard key={one.number} job={view.id} release={one} open={i === 0} />
      ))}
    </Sheet>
  );
}

function Failed({ errand, view }: { errand: ErrandView | undefined; view: JobHandle["view"] }) {
  // A failure is old news once a later release was made.
  if (errand?.state !== "failed" || !errand.error || view.errands[0]?.id !== errand.id) return null;
  return (
    <div className={sheetCss.notice} role="alert">
      <strong>Not released</strong>
      <p>{sentence(errand.error.says)}</p>
      <span className="soft">{sentence(errand.error.remedy ?? "")}</span>
    </div>
  );
}

function ReleaseCard({ job, release, open }: { job: string; release: ReleaseView; open: boolean }) {
  const [shown, setShown] = useState(open);
  const { file, proof } = release;
  return (
    <article className={css.release} data-testid={`release-${release.number}`}>
      <div className={css.top}>
        <span>
          <b>{file.name}</b>
          <small>
            release {release.number}, {new Date(release.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })},{" "}
            {bytes(file.bytes)}, {count(file.triangles)} triangles
          </small>
        </span>
        <span className={`${css.proven} settled`}>PROVEN</span>
      </div>
      <a className={css.get} href={`/api/jobs/${job}/releases/${release.number}/file`} download={file.name}>
        Take the file
      </a>
      {!release.current && <span className="look"> the job has changed since</span>}
      {shown ? <Checks release={release} /> : null}
      <div className={css.more} style={shown ? { paddingTop: 8 } : undefined}>
        <button type="button" className="link" onClick={() => setShown(!shown)}>
          {shown ? "Fold the proof" : `Show the proof: ${proof.checks.length} checks hold, worst ${worst(proof.worst_mm)}`}
        </button>
      </div>
      {shown && <p className={css.chain}>{file.chain}</p>}
    </article>
  );
}

function worst(value: number): string {
  return value < 1e-3 ? `${(value * 1e6).toFixed(value < 1e-5 ? 1 : 0)} nm` : `${mm(value)} mm`;
}

function Checks({ release }: { release: ReleaseView }) {
  return (
    <table className={css.checks}>
      <thead>
        <tr>
          <th>read back by {release.proof.reader}</th>
          <th>asked</th>
          <th>found</th>
          <th>off</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {release.proof.checks.map((check, i) => (
          <tr key={i} title={`limit ${check.limit.toPrecision(3)}`}>
            <td>{check.says}</td>
            <td>{short(check.asked)}</td>
            <td>{short(check.found)}</td>
            <td>{check.off === 0 ? "0" : check.code === "volume" ? check.off.toPrecision(1) : worst(check.off)}</td>
            <td className={check.holds ? "settled" : "stop"}>{check.holds ? "holds" : "fails"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function short(text: string): string {
  return text.replace(/ mm$/, "").replace(/(\d+)\.\d+ mm³$/, "$1 mm³");
}
