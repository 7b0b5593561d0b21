import { tell, type JobHandle } from "../../api/useJob";
import type { Proposal, Reading, ReadingsVerdict } from "../../api/types";
import { Press } from "../../blocks/Press";
import { factor, signed } from "../../blocks/numbers";
import { Head } from "../../blocks/Sheet";
import type { Subject } from "../../job/subject";
import { readingsOf, truthKey } from "./readingsOf";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  subject: Subject;
  truth: ReadingsVerdict;
}

/** What excludes each other and what would free it, and the proposals side by side. */
export function Ways({ handle, subject, truth }: Props) {
  const readings = readingsOf(handle.view, subject);
  const key = truthKey(subject);
  if (!truth.proposals.length) return null;
  const numbers = (ids: string[]) =>
    ids.map((id) => readings.findIndex((reading) => reading.id === id) + 1).filter(Boolean);
  const change = (one: ReadingsVerdict["changes"][number]) => {
    if (one.reading) return handle.act({ do: "relax-reading", reading: one.reading, limit_mm: one.limit_mm! });
    return handle.act({ do: "solve-readings", body: key, free: one.axis });
  };
  return (
    <section aria-label="Ways to make it true">
      {truth.conflict.length > 0 && (
        <div className={css.conflict} role="status" data-testid="conflict">
          <b>
            {truth.conflict.length === 1 ? "Reading" : "Readings"} {listed(numbers(truth.conflict))}{" "}
            {truth.conflict.length === 1 ? "cannot be met" : "exclude each other"}.
          </b>{" "}
          {truth.changes.length > 0
            ? "One of these frees them:"
            : "No single change frees them; the best compromise is in force."}
          {truth.changes.map((one) => (
            <div key={one.says}>
              <span>{one.says}</span>
              <Press className="link" onClick={() => change(one).catch(tell)}>
                Do
              </Press>
            </div>
          ))}
        </div>
      )}
      <Head title="Ways to make it true" />
      {truth.proposals.map((proposal, i) => (
        <div key={proposal.key} className={css.way} data-testid={`way-${proposal.key}`}>
          <b>{"abc"[i]}</b>
          <div>
            <b>{proposal.says}</b> <span className="number">{factors(proposal)}</span>
            <small>
              {outcome(proposal, readings)}
              <span className="number"> {deviations(proposal, readings)}</span>
            </small>
            {proposal.effect && <small>{proposal.effect}</small>}
          </div>
          {proposal.in_force ? (
            <span className={css.inForce}>in force</span>
          ) : (
            <Press
              className="link"
              aria-label={`Take way ${"abc"[i]}`}
              onClick={() => handle.act({ do: "take-proposal", body: key, key: proposal.key }).catch(tell)}
            >
              Take
            </Press>
          )}
        </div>
      ))}
    </section>
  );
}

function factors({ factors }: Proposal): string {
  const texts = factors.map(factor);
  return new Set(texts).size === 1 ? texts[0]! : texts.join(" / ");
}

/** By how much every reading is off, in mm; one that is not good is marked. */
function deviations(one: Proposal, readings: Reading[]): string {
  return one.outcomes
    .map((row) => ({ ...row, number: readings.findIndex((reading) => reading.id === row.reading) + 1 }))
    .filter((row) => row.number)
    .map((row) => `(${row.number}) ${signed(row.off_mm)}`)
    .join("  ");
}

/** Which readings hold. */
function outcome(one: Proposal, readings: Reading[]): string {
  const rows = one.outcomes
    .map((row) => ({ ...row, number: readings.findIndex((reading) => reading.id === row.reading) + 1 }))
    .filter((row) => row.number);
  const hold = rows.filter((row) => row.met).map((row) => row.number);
  const parts = hold.length
    ? [
        `${hold.length === rows.length && hold.length > 1 ? "all" : listed(hold)} ${hold.length === 1 ? "holds" : "hold"}`,
      ]
    : [];
  const missed = rows.filter((row) => !row.met).map((row) => row.number);
  if (missed.length) parts.push(`${listed(missed)} ${missed.length === 1 ? "does" : "do"} not`);
  return `${parts.join(", ")}:`;
}

function listed(numbers: number[]): string {
  return numbers.length < 2
    ? String(numbers[0] ?? "")
    : `${numbers.slice(0, -1).join(", ")} and ${numbers[numbers.length - 1]}`;
}
