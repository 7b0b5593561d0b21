import { Columns } from "../../blocks/Columns";
import { useState } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { JobView, UnitCandidate, Source, SourceSurvey, Unit } from "../../api/types";
import { Press } from "../../blocks/Press";
import { fileNumber, plainSize, UNIT_WORDS } from "../../blocks/numbers";
import { RowRadio } from "../../blocks/RowRadio";
import { Head, sheetCss } from "../../blocks/Sheet";
import css from "./IntakeSheet.module.css";
import { UnitOutlines } from "./UnitOutlines";

const ORDER: Unit[] = ["mm", "cm", "m", "in", "ft", "um"];

interface Props {
  handle: JobHandle;
  source: Source;
  facts: SourceSurvey;
}

/** What the numbers of a file would be in each unit, what speaks for which, and the choice. */
export function UnitVerdict({ handle, source, facts }: Props) {
  const { view } = handle;
  const unit = source.unit ?? null;
  const open = view.job.sources!.filter((one) => !one.unit);
  // Once settled the other units are history, and the room is needed for the bodies.
  const [unfolded, setUnfolded] = useState(false);
  const rows = ORDER.map((one) => facts.candidates.find((row) => row.unit === one)!).filter(
    (row) => !unit || unfolded || row.unit === unit,
  );
  const settle = (wanted: Unit, all: boolean, remember = false) =>
    void handle.act({ do: "settle-unit", source: all ? null : source.id, unit: wanted, remember }).catch(tell);
  return (
    <section aria-label="Unit">
      <Head title={view.job.sources!.length > 1 ? `Unit of ${source.name}` : "Unit of the file"}>
        {unit ? (
          <Press className="link" onClick={() => setUnfolded(!unfolded)}>
            {unfolded ? "Fold the other units" : "Other units"}
          </Press>
        ) : (
          <span className="stop">not settled</span>
        )}
      </Head>
      <table className={`${sheetCss.table} ${css.candidates}`}>
        <Columns of={["If the file is in", { numbers: "it is this big" }, { numbers: "likely" }]} />
        <tbody role="radiogroup" aria-label="Unit of the file">
          {rows.map((row) => (
            <CandidateRow key={row.unit} row={row} unit={unit} source={source} settle={settle} />
          ))}
        </tbody>
      </table>
      <Evidence facts={facts} source={source} />
      {!unit && <UnitOutlines candidates={facts.candidates} machine={view.survey.machine} />}
      {open.length > 1 && !unit && (
        <p className={css.alike}>
          Settle all {open.length} files without a unit alike:{" "}
          {facts.candidates.slice(0, 3).map((row) => (
            <Press key={row.unit} className="link" onClick={() => settle(row.unit, true)}>
              {UNIT_WORDS[row.unit]}
            </Press>
          ))}
        </p>
      )}
      {unit && !source.declared && <UnitRemembered view={view} unit={unit} settle={settle} />}
    </section>
  );
}

/** Whether the unit holds for further files. */
function UnitRemembered({
  view,
  unit,
  settle,
}: {
  view: JobView;
  unit: Unit;
  settle: (wanted: Unit, all: boolean, remember?: boolean) => void;
}) {
  return (
    <p className={css.alike}>
      {view.job.habits?.unit === unit ? (
        <span className="soft">Further files of this job that do not say theirs are taken as {UNIT_WORDS[unit]}.</span>
      ) : (
        <Press className="link" onClick={() => settle(unit, false, true)}>
          Take further files of this job as {UNIT_WORDS[unit]}, too
        </Press>
      )}
    </p>
  );
}

interface CandidateRowProps {
  row: UnitCandidate;
  unit: Unit | null;
  source: Source;
  settle: (wanted: Unit, all: boolean, remember?: boolean) => void;
}

/** One unit that the file may be in, and how large it would be. */
function CandidateRow({ row, unit, source, settle }: CandidateRowProps) {
  const line = (
    <tr className={row.unit === unit ? sheetCss.chosen : undefined}>
      <td>
        <RowRadio
          group={`unit-${source.id}`}
          checked={row.unit === unit}
          choose={() => row.unit !== unit && settle(row.unit, false)}
        >
          {UNIT_WORDS[row.unit]}
        </RowRadio>
      </td>
      <td className={css.sizes}>{sizeText(row)}</td>
      <td className={css.share}>
        <i style={{ width: `${Math.round(row.score * 100)}%` }} />
        {shareText(row.score)}
      </td>
    </tr>
  );
  if (row.unit === unit || !row.reasons.length) return line;
  return (
    <>
      {line}
      <tr className={css.reasons}>
        <td colSpan={3}>{row.reasons.join("; ")}</td>
      </tr>
    </>
  );
}

function shareText(score: number): string {
  if (score >= 0.995) return "> 99 %";
  return score < 0.01 ? "< 1 %" : `${Math.round(score * 100)} %`;
}

/** Three sizes in one unit of length, so that they can be compared down the column. */
function sizeText(row: UnitCandidate): string {
  const sizes = row.size_mm as number[];
  const largest = Math.max(...sizes);
  const [per, name] =
    largest >= 1e6 ? [1e6, "km"] : largest >= 1e4 ? [1e3, "m"] : largest >= 1 ? [1, "mm"] : [1e-3, "µm"];
  // One number of decimals for all three, so that they line up in the eye.
  const decimals = largest / (per as number) >= 1000 ? 1 : 2;
  const digits = (value: number) => (value < 0.1 ? value.toPrecision(2) : value.toFixed(decimals));
  return `${sizes.map((size) => digits(size / (per as number))).join(" × ")} ${name}`;
}

/** Why a unit is taken or suggested, or that it cannot be told. */
function Evidence({ facts, source }: { facts: SourceSurvey; source: Source }) {
  const unit = source.unit ?? null;
  const numbers = (facts.numbers as number[]).map(fileNumber).join(" × ");
  if (source.declared && unit === source.declared) {
    return <p className={css.why}>The file declares its unit: {UNIT_WORDS[source.declared]}.</p>;
  }
  const named = facts.candidates.find((row) => row.unit === (unit ?? facts.suggested));
  if (named) {
    const says =
      source.how === "inferred"
        ? "Settled by itself, since no other unit is within reach:"
        : unit
          ? "What speaks for it:"
          : `The evidence points to ${UNIT_WORDS[named.unit]}:`;
    return (
      <div className={`${css.why} ${unit ? "" : css.ask}`}>
        The file says {numbers} and no unit. <b>{says}</b>
        <ul>
          {named.reasons.map((reason) => (
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
        {facts.candidates.slice(0, 2).map((row) => (
          <li key={row.unit}>
            {UNIT_WORDS[row.unit]}, {plainSize(Math.max(...(row.size_mm as number[])))} long: {row.reasons.slice(-1)[0]}
          </li>
        ))}
      </ul>
    </div>
  );
}
