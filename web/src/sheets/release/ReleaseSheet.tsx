import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { ErrandView, Released, ReleaseFormat, ReleaseShape, ReleaseView } from "../../api/types";
import { bytes, count, mm } from "../../blocks/numbers";
import { Segments } from "../../blocks/Choice";
import { sentence } from "../../blocks/words";
import { Working } from "../../blocks/Working";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import css from "./ReleaseSheet.module.css";

const FORMATS: [ReleaseFormat, string][] = [
  ["3mf", "3MF, unit inside"],
  ["stl", "STL, binary"],
  ["stl-ascii", "STL, ASCII"],
  ["obj", "OBJ"],
];
const SHAPES: [ReleaseShape, string][] = [
  ["together", "together, registered"],
  ["each", "each its own file"],
];

/** Sheet 6: make a release; it is offered only once it was read back and compared. */
export function ReleaseSheet({ handle, selected }: { handle: JobHandle; selected: string[] }) {
  const { view } = handle;
  const [format, setFormat] = useState<ReleaseFormat>("3mf");
  const [shape, setShape] = useState<ReleaseShape>("together");
  // Of a body that was divided its pieces are released.
  const all = view.job.bodies.filter((body) => !view.survey.bodies.find((one) => one.id === body.id)?.divided);
  const chosen = selected.length ? all.filter((body) => selected.includes(body.id)) : all;
  const open = chosen.some((body) => !view.survey.bodies.find((one) => one.id === body.id)?.chain);
  if (open) {
    return (
      <Sheet label="Release">
        <UnitFirst job={view.id} doing="any release" />
      </Sheet>
    );
  }
  const errand = view.errands.find((one) => one.kind === "release");
  const working = errand && (errand.state === "waiting" || errand.state === "doing") ? errand : null;
  const release = () => void handle.change((on) => api.release(view.id, on, { format, shape, bodies: selected.length ? selected : null, unit: "mm", pattern: "" })).catch(tell);
  const stops = chosen.some((body) => !view.survey.bodies.find((one) => one.id === body.id)?.releasable);
  return (
    <Sheet label="Release">
      <Head title="New release">
        <span className="soft">in millimetres</span>
      </Head>
      <div className={css.formats}>
        <Segments label="Format" value={format} options={FORMATS} choose={setFormat} />
      </div>
      {chosen.length > 1 && (
        <div className={css.formats}>
          <Segments label="Files" value={shape} options={SHAPES} choose={setShape} />
        </div>
      )}
      {all.length > 1 && (
        <p className={sheetCss.text}>
          {selected.length ? `${chosen.length} of ${all.length} bodies, as selected: ${chosen.map((body) => body.name).join(", ")}.` : `All ${all.length} bodies. Select some in the bench to release only those.`}
        </p>
      )}
      <button type="button" className={css.go} disabled={stops || !chosen.length || Boolean(working)} onClick={release}>
        Write, read back, compare
      </button>
      {working ? <Working errand={working} /> : <Failed errand={errand} view={view} />}
      <Findings handle={handle} here="release" findings={view.survey.findings} />
      <Head title="Releases">{view.releases.length === 0 && <span className="soft">none yet</span>}</Head>
      {view.releases.length === 0 && (
        <p className={sheetCss.text}>
          A release is written to a file and read back; the original is read a second time, and every vertex is compared with what
          your decisions make of it. None of that shares code with the writer. Only when every check holds is it offered.
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
  // The files and their proofs are fetched when they are looked at; they never change.
  const { data } = useQuery({ queryKey: ["release", job, release.number], queryFn: () => api.releaseFiles(job, release.number), enabled: shown, staleTime: Infinity });
  const files = data?.files ?? [];
  const [first] = files;
  const several = release.files > 1;
  const at = `/api/jobs/${job}/releases/${release.number}/file`;
  return (
    <article className={css.release} data-testid={`release-${release.number}`}>
      <div className={css.top}>
        <span>
          <b>{!several && first ? first.name : several ? `${release.files} files` : `Release ${release.number}`}</b>
          <small>
            release {release.number}, {new Date(release.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}, {bytes(release.bytes)}
            {first && `, ${count(files.reduce((sum, file) => sum + file.triangles, 0))} triangles`}
          </small>
        </span>
        <span className={`${css.proven} settled`}>PROVEN</span>
      </div>
      <a className={css.get} href={at} download={!several && first ? first.name : true}>
        {several ? "Take all, as ZIP" : "Take the file"}
      </a>
      {!release.current && <span className="look"> the job has changed since</span>}
      {several && shown && (
        <ul className={css.files}>
          {files.map((file, i) => (
            <li key={file.name}>
              <a className="link" href={`${at}?file=${i}`} download={file.name}>
                {file.name}
              </a>
              <span className="number">{(file.size_mm as number[]).map(mm).join(" × ")}</span>
            </li>
          ))}
        </ul>
      )}
      {shown && first && <Proofs files={files} />}
      <div className={css.more} style={shown ? { paddingTop: 8 } : undefined}>
        <button type="button" className="link" onClick={() => setShown(!shown)}>
          {shown ? "Fold the proof" : "Show the proof"}
        </button>
      </div>
    </article>
  );
}

function Proofs({ files }: { files: Released[] }) {
  const [first] = files;
  return (
    <>
      {files.map((file) => (
        <Checks key={file.name} file={file} named={files.length > 1} />
      ))}
      {[...new Set(files.flatMap((file) => file.proof.accepted ?? []))].map((says) => (
        <p className={css.chain} key={says}>
          Accepted on purpose: {says}.
        </p>
      ))}
      {first!.proof.original && <p className={css.chain}>Held against {first!.proof.original}.</p>}
      {files.length === 1 && <p className={css.chain}>{first!.chain}</p>}
    </>
  );
}

function worst(value: number): string {
  return value < 1e-3 ? `${(value * 1e6).toFixed(value < 1e-5 ? 1 : 0)} nm` : `${mm(value)} mm`;
}

/** Checks of so many bodies that they are folded until they are asked for. */
const SHOWN = 40;
const LENGTHS = ["size", "extent", "vertices", "reading", "bore", "clearance", "surface", "covered", "sheet", "stands", "centred", "resolution"];

function Checks({ file, named }: { file: Released; named: boolean }) {
  const [all, setAll] = useState(false);
  const { checks } = file.proof;
  const rows = all || checks.length <= SHOWN ? checks : checks.slice(0, SHOWN);
  return (
    <table className={css.checks}>
      <thead>
        <tr>
          <th>{named ? `${file.name}, ` : ""}read back by {file.proof.reader}</th>
          <th>asked</th>
          <th>found</th>
          <th>off</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {rows.map((check, i) => (
          <tr key={i} title={`limit ${check.limit.toPrecision(3)}`}>
            <td>{check.says}</td>
            <td>{short(check.asked)}</td>
            <td>{short(check.found)}</td>
            <td>{check.off === 0 ? "0" : LENGTHS.includes(check.code) ? worst(check.off) : check.off.toPrecision(1)}</td>
            <td className={check.holds ? "settled" : "stop"}>{check.holds ? "holds" : "fails"}</td>
          </tr>
        ))}
        {rows.length < checks.length && (
          <tr>
            <td colSpan={5}>
              <button type="button" className="link" onClick={() => setAll(true)}>
                and {checks.length - rows.length} more checks that hold
              </button>
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

function short(text: string): string {
  return text.replace(/ mm$/, "").replace(/(\d+)\.\d+ mm³$/, "$1 mm³");
}
