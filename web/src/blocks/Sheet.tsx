import type { ReactNode } from "react";
import { Link } from "wouter";
import type { Finding, SheetName } from "../api/types";
import css from "./Sheet.module.css";

export { css as sheetCss };

/** The sheet at the left: the table the current step is about. */
export function Sheet({ label, children }: { label: string; children: ReactNode }) {
  return (
    <main className={css.sheet} aria-label={label}>
      {children}
    </main>
  );
}

export function Head({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className={css.head}>
      <h2>{title}</h2>
      {children && <span className={css.aside}>{children}</span>}
    </div>
  );
}

/** Said in place of a sheet's work while the unit is not settled. */
export function UnitFirst({ job, doing }: { job: string; doing: string }) {
  return (
    <div className={css.notice} role="status">
      <strong>The unit is not settled</strong>
      <p>The file does not say what its numbers are in, so {doing} would be a guess. Say it once on Intake; nothing is assumed.</p>
      <Link href={`/jobs/${job}/intake`} className="link">
        Settle the unit
      </Link>
    </div>
  );
}

interface FindingsProps {
  job: string;
  here: SheetName;
  findings: Finding[];
  /** Fly to where a finding is. */
  show?: (finding: Finding) => void;
  /** A button beside a finding, where this sheet can do something about it. */
  remedy?: (finding: Finding) => ReactNode;
}

/** Findings: a filled square stops, a half one wants a look, a ring is a note. */
export function Findings({ job, here, findings, show, remedy }: FindingsProps) {
  if (!findings.length) return null;
  return (
    <section aria-label="Findings">
      <Head title="Findings" />
      {findings.map((finding) => {
        const severity = finding.accepted ? "note" : finding.severity;
        return (
          <div key={[finding.code, finding.body_id, finding.source_id, finding.says].join()} className={css.finding} data-testid={`finding-${finding.code}`}>
            <span className={`${css.sign} ${css[severity]} ${severity}`} aria-hidden />
            <span>
              {show && finding.places!.length > 0 ? (
                <button type="button" className={css.place} title="show where" onClick={() => show(finding)}>
                  {finding.says}
                </button>
              ) : (
                finding.says
              )}
              <small>
                {finding.body && !finding.says.startsWith(finding.body) ? `${finding.body}; ` : ""}{finding.accepted ? "accepted on purpose" : SEVERITY_WORDS[finding.severity]}</small>
            </span>
            {remedy?.(finding) ??
              (finding.sheet !== here && (
                <Link href={`/jobs/${job}/${finding.sheet}`} className="link">
                  Go there
                </Link>
              ))}
          </div>
        );
      })}
    </section>
  );
}

const SEVERITY_WORDS = { stop: "stop: nothing is released until this is settled", look: "look", note: "note" } as const;
