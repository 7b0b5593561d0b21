import { Unseen } from "./Unseen";
import { type ChainRow, chainRows } from "./chainRows";
import { Link } from "wouter";
import type { Source, JobView } from "../api/types";
import type { Subject } from "../job/subject";
import { factor, fileNumber, mm, UNIT_WORDS } from "./numbers";
import css from "./SizeChain.module.css";

/** Number in the file x unit x correction = size, a line per axis; each link leads to where it is settled. */
export function SizeChain({ view, subject }: { view: JobView; subject: Subject }) {
  const { body, facts } = subject;
  const source = view.job.sources.find((one) => one.id === body.source);
  const to = (sheet: string) => `/jobs/${view.id}/${sheet}`;
  if (!facts.chain || !source?.unit) {
    return (
      <section className={css.chain} aria-label="Size chain">
        <p className={css.open}>
          <span className="number">{facts.numbers?.map(fileNumber).join(" × ")}</span> in the file{" "}
          <span className="soft">×</span>{" "}
          <Link href={to("intake")} className="link stop">
            a unit that is not settled
          </Link>{" "}
          <span className="soft">= no size yet</span>
        </p>
      </section>
    );
  }
  const added = facts.chain.allowed;
  return (
    <section className={css.chain} aria-label="Size chain">
      <table className={added ? css.tight : undefined}>
        <ChainHead to={to} source={source} added={added} />
        <tbody>
          {chainRows(facts.chain).map((row) => (
            <ChainLine key={row.axis} row={row} added={added} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The links of the size chain, each to be settled by a click. */
function ChainHead({ to, source, added }: { to: (sheet: string) => string; source: Source; added: boolean }) {
  return (
    <thead>
      <tr>
        <th className={css.first}>
          <Unseen>axis</Unseen>
        </th>
        <th>in the file</th>
        <td />
        <th>
          <Link href={to("intake")} className="link" title="settle the unit on Intake">
            {UNIT_WORDS[source.unit!]}, {source.how}
          </Link>
        </th>
        <td />
        <th>
          <Link href={to("truing")} className="link" title="set the correction on Truing">
            correction
          </Link>
        </th>
        <td />
        <th>size, mm</th>
        {added && (
          <>
            <td />
            <th>
              <Link href={to("truing")} className="link" title="set the allowance on Truing">
                allowance
              </Link>
            </th>
            <td />
            <th>released</th>
          </>
        )}
      </tr>
    </thead>
  );
}

/** The size chain along one axis. */
function ChainLine({ row, added }: { row: ChainRow; added: boolean }) {
  return (
    <tr data-testid={`chain-${row.axis}`}>
      <td className={css.axis}>{row.axis.toUpperCase()}</td>
      <td title={String(row.number)}>{fileNumber(row.number)}</td>
      <td className={css.op}>×</td>
      <td>{row.mm_per_unit}</td>
      <td className={css.op}>×</td>
      <td className={row.factor === 1 ? "soft" : "settled"} title={String(row.factor)}>
        {factor(row.factor)}
      </td>
      <td className={css.op}>=</td>
      <td className={added ? undefined : css.size} title={String(row.size_mm)}>
        {mm(row.size_mm)}
      </td>
      {added && (
        <>
          <td className={css.op}>{row.allowance_mm < 0 ? "−" : "+"}</td>
          <td>{Math.abs(row.allowance_mm).toFixed(2)}</td>
          <td className={css.op}>=</td>
          <td className={css.size} title={String(row.released_mm)}>
            {mm(row.released_mm)}
          </td>
        </>
      )}
    </tr>
  );
}
