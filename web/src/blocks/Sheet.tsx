import { useRef, useState, type ReactNode } from "react";
import { Link } from "wouter";
import { api } from "../api/client";
import { tell, type JobHandle } from "../api/useJob";
import type { ShownFinding, SheetName, UserAction, Vec3 } from "../api/types";
import type { Mark } from "../bench/Bench";
import { Press } from "./Press";
import css from "./Sheet.module.css";
import { SheetIndex } from "./SheetIndex";
import { TypedField } from "./TypedField";
import { sentence } from "./words";

export { css as sheetCss };

/** The sheet at the left: the table the current step is about. */
export function Sheet({ label, children }: { label: string; children: ReactNode }) {
  const main = useRef<HTMLElement>(null);
  return (
    <main ref={main} className={css.sheet} id="sheet" aria-label={label} tabIndex={-1}>
      <SheetIndex sheet={main} />
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
      <p>
        The file does not say what its numbers are in, so {doing} would be a guess. Say it once on Intake; nothing is
        assumed.
      </p>
      <Link href={`/jobs/${job}/intake`} className="link">
        Settle the unit
      </Link>
    </div>
  );
}

interface FindingsProps {
  here: SheetName;
  findings: ShownFinding[];
  /** Fly to the first of these places, and mark all of them. */
  show?: (places: Mark[]) => void;
  handle: JobHandle;
}

/** Findings: a filled square stops, a half one wants a look, a ring is a note. */
export function Findings({ handle, here, findings, show }: FindingsProps) {
  const job = handle.view.id;
  const [flown, fly] = useState<{ key: string; at: number } | null>(null);
  if (!findings.length) return null;
  const next = (finding: ShownFinding) => {
    const key = keyOf(finding),
      places = marksOf(finding);
    const at = flown?.key === key ? (flown.at + 1) % places.length : 0;
    fly({ key, at });
    show?.([...places.slice(at), ...places.slice(0, at)]);
  };
  return (
    <section aria-label="Findings">
      <Head title="Findings" />
      {findings.map((finding) => {
        const severity = finding.accepted ? "note" : finding.severity;
        return (
          <div
            key={keyOf(finding)}
            data-body={finding.body_id || undefined}
            className={css.finding}
            data-testid={`finding-${finding.code}`}
          >
            <span className={`${css.sign} ${css[severity]} ${severity}`} aria-hidden />
            <span>
              {show && finding.places!.length > 0 ? (
                <Press
                  className={css.place}
                  title={finding.places!.length > 1 ? "show where; again for the next place" : "show where"}
                  onClick={() => next(finding)}
                >
                  {finding.says}
                </Press>
              ) : (
                finding.says
              )}
              <small>
                {whose(finding)}
                {finding.accepted ? "accepted on purpose" : SEVERITY_WORDS[finding.severity]}
                {flown?.key === keyOf(finding) && finding.places!.length > 1
                  ? `; place ${flown.at + 1} of ${finding.places!.length}`
                  : ""}
              </small>
            </span>
            {finding.sheet === here ? (
              <WaysOf handle={handle} finding={finding} />
            ) : (
              <Link href={`/jobs/${job}/${finding.sheet}`} className="link">
                Go there
              </Link>
            )}
          </div>
        );
      })}
    </section>
  );
}

/** The buttons beside a finding: what the core says can be done about it. */
function WaysOf({ handle, finding }: { handle: JobHandle; finding: ShownFinding }) {
  if (!finding.ways?.length) return null;
  const go = ({ action, task }: NonNullable<ShownFinding["ways"]>[number]) =>
    action ? handle.act(action) : handle.change((on) => api.task(handle.view.id, on, task!));
  return (
    <span className={css.ways}>
      {finding.ways.map((way) =>
        way.kind === "sheet" ? (
          <Link key={way.says} href={`/jobs/${handle.view.id}/${way.sheet}`} className="link">
            {way.says}
          </Link>
        ) : way.asks && way.action ? (
          <Reasoned key={way.says} way={way} say={(reason) => handle.act({ ...way.action!, reason } as UserAction)} />
        ) : (
          <Press key={way.says} className="link" onClick={() => go(way).catch(tell)}>
            {way.says}
          </Press>
        ),
      )}
    </span>
  );
}

/** A button that asks for a reason before it does what it says; Esc leaves it be. */
function Reasoned({ way, say }: { way: { says: string; asks?: string }; say: (reason: string) => Promise<unknown> }) {
  const [asking, ask] = useState(false);
  if (!asking) {
    return (
      <Press className="link" onClick={() => ask(true)}>
        {way.says}
      </Press>
    );
  }
  return (
    <TypedField
      value=""
      label={sentence(way.asks!)}
      placeholder={way.asks}
      words
      width={150}
      startTyping
      commit={(typed) => (typed.trim() ? say(typed) : Promise.resolve())}
      done={() => ask(false)}
    />
  );
}

const keyOf = (finding: ShownFinding) =>
  [
    finding.code,
    finding.body_id,
    finding.source_id,
    finding.accepted,
    ...(finding.bodies ?? []).slice(0, 2),
    finding.says,
  ].join();

/** The bodies a finding concerns, where its words do not say. */
function whose(finding: ShownFinding): string {
  const names = finding.names?.length ? finding.names : finding.body ? [finding.body] : [];
  const unnamed = names.filter((name) => !finding.says.includes(name));
  if (!unnamed.length) return "";
  return `${unnamed.slice(0, 3).join(", ")}${unnamed.length > 3 ? ` and ${unnamed.length - 3} more` : ""}; `;
}

function marksOf(finding: ShownFinding): Mark[] {
  return (finding.places as Vec3[]).map((point, i) => ({
    body: finding.place_bodies?.[i] ?? finding.body_id ?? null,
    source: finding.source_id ?? null,
    point,
  }));
}

const SEVERITY_WORDS = {
  stop: "stop: nothing is released until this is settled",
  look: "look at it before you go on",
  note: "note: nothing has to be done",
} as const;
