import { Link } from "wouter";
import type { JobHandle } from "../../api/useJob";
import { tell } from "../../api/useJob";
import type { Body, BodySurvey, Candidate, Unit } from "../../api/types";
import { bytes, count, fileNumber, plainSize, UNIT_WORDS } from "../../blocks/numbers";
import { Findings, Head, Sheet, sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./IntakeSheet.module.css";

const ORDER: Unit[] = ["mm", "cm", "m", "in", "ft", "um"];
const KINDS: Record<string, string> = { "stl-binary": "STL, binary", "stl-ascii": "STL, ASCII", "3mf": "3MF" };

/** Sheet 1: the file, its unit, its up axis, its health. */
export function IntakeSheet({ handle, body, facts }: { handle: JobHandle; body: Body; facts: BodySurvey }) {
  const { view } = handle;
  const source = view.job.sources.find((one) => one.id === body.source)!;
  const act = (action: Parameters<JobHandle["act"]>[0]) => void handle.act(action).catch(tell);
  return (
    <Sheet label="Intake">
      <Head title="Unit of the file">
        {source.unit ? <span className="settled">{UNIT_WORDS[source.unit]}, {source.how}</span> : <span className="stop">not settled</span>}
      </Head>
      <Candidates
        facts={facts}
        unit={source.unit ?? null}
        settle={(unit) => act({ do: "settle-unit", source: source.id, unit })}
      />
      <Evidence facts={facts} unit={source.unit ?? null} declared={source.declared ?? null} />
      {source.unit && (
        <div className={css.row}>
          <span className="soft">Every size below is worked out from this.</span>
          <Link href={`/jobs/${view.id}/truing`} className="link">
            Go on to Truing
          </Link>
        </div>
      )}
      <Head title="Body" />
      <dl className={sheetCss.facts}>
        <dt>name</dt>
        <dd>
          <TypedField words label="Name of the body" value={body.name} width={220} commit={(name) => handle.act({ do: "rename", body: body.id, name })} />
        </dd>
        <dt>triangles</dt>
        <dd className="number">{count(body.triangles)}</dd>
        <dt>solid</dt>
        <dd>{body.health.closed ? "closed" : <span className="stop">not closed</span>}</dd>
        {body.parts.length > 0 && (
          <>
            <dt>objects in the file</dt>
            <dd title={body.parts.join(", ")}>{body.parts.length}, taken together</dd>
          </>
        )}
      </dl>
      <div className={css.row}>
        <span>Up axis of the file</span>
        <span className={css.ups} role="group" aria-label="Up axis">
          {(["z", "y"] as const).map((up) => (
            <button key={up} type="button" aria-pressed={source.up === up} onClick={() => source.up !== up && act({ do: "set-up", source: source.id, up })}>
              {up.toUpperCase()}
            </button>
          ))}
        </span>
      </div>
      <Findings
        job={view.id}
        here="intake"
        findings={view.survey.findings.filter((one) => one.code !== "unit-unsettled")}
        remedy={(finding) =>
          finding.severity === "stop" ? (
            <button type="button" className="link" onClick={() => act({ do: "accept", body: body.id, code: finding.code, accepted: !finding.accepted })}>
              {finding.accepted ? "Take back" : "Accept as it is"}
            </button>
          ) : undefined
        }
      />
      <Head title="Source">
        <a className="link" href={`/api/jobs/${view.id}/originals/${source.sha256}`} download={source.name}>
          Original
        </a>
      </Head>
      <dl className={sheetCss.facts}>
        <dt>file</dt>
        <dd>{source.name}</dd>
        <dt>kind</dt>
        <dd>
          {KINDS[source.format] ?? source.format}, {bytes(source.bytes)}
        </dd>
        <dt>SHA-256</dt>
        <dd className="number" title={source.sha256}>
          {source.sha256.slice(0, 16)}…
        </dd>
      </dl>
    </Sheet>
  );
}

interface CandidatesProps {
  facts: BodySurvey;
  unit: Unit | null;
  settle: (unit: Unit) => void;
}

/** What the numbers of the file would be in each unit, side by side; choosing one settles it. */
function Candidates({ facts, unit, settle }: CandidatesProps) {
  const rows = ORDER.map((one) => facts.candidates.find((row) => row.unit === one)!);
  return (
    <table className={`${sheetCss.table} ${css.candidates}`}>
      <thead>
        <tr>
          <th>If the file is in</th>
          <th className={sheetCss.r}>it is this big</th>
        </tr>
      </thead>
      <tbody role="radiogroup" aria-label="Unit of the file">
        {rows.map((row) => (
          <tr key={row.unit} className={row.unit === unit ? sheetCss.chosen : undefined}>
            <td>
              <button type="button" role="radio" aria-checked={row.unit === unit} onClick={() => row.unit !== unit && settle(row.unit)}>
                <span className={`${css.dot} ${row.unit === unit ? css.on : ""}`} />
                {UNIT_WORDS[row.unit]}
              </button>
            </td>
            <td className={css.sizes}>{sizeText(row)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Three sizes in one unit of length, so that they can be compared down the column. */
function sizeText(row: Candidate): string {
  const largest = Math.max(...row.size_mm);
  const [per, name] = largest >= 1e6 ? [1e6, "km"] : largest >= 1e4 ? [1e3, "m"] : largest >= 1 ? [1, "mm"] : [1e-3, "µm"];
  // One number of decimals for all three, so that they line up in the eye.
  const decimals = largest / (per as number) >= 1000 ? 1 : 2;
  const digits = (value: number) => (value < 0.1 ? value.toPrecision(2) : value.toFixed(decimals));
  return `${row.size_mm.map((size) => digits(size / (per as number))).join(" × ")} ${name}`;
}

interface EvidenceProps {
  facts: BodySurvey;
  unit: Unit | null;
  declared: Unit | null;
}

/** Why a unit is suggested, or that it cannot be told. */
function Evidence({ facts, unit, declared }: EvidenceProps) {
  if (declared && unit === declared) {
    return <p className={css.why}>The file declares its unit: {UNIT_WORDS[declared]}.</p>;
  }
  const best = facts.candidates.find((row) => row.unit === (facts.suggested ?? facts.candidates[0]!.unit))!;
  const second = facts.candidates[1]!;
  const numbers = facts.numbers.map(fileNumber).join(" × ");
  if (facts.suggested) {
    return (
      <div className={`${css.why} ${unit ? "" : css.ask}`}>
        The file says {numbers} and no unit. {unit === best.unit ? "The evidence agrees with" : "The evidence points to"}{" "}
        <b>{UNIT_WORDS[best.unit]}</b>:
        <ul>
          {best.reasons.map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
        </ul>
      </div>
    );
  }
  return (
    <div className={`${css.why} ${css.ask}`}>
      The file says {numbers} and no unit, and the evidence does not tell. Nearest are:
      <ul>
        {[facts.candidates[0]!, second].map((row) => (
          <li key={row.unit}>
            {UNIT_WORDS[row.unit]}, {plainSize(Math.max(...row.size_mm))} long: {row.reasons.slice(-1)[0]}
          </li>
        ))}
      </ul>
    </div>
  );
}
