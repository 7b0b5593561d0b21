import { Tooltip } from "@mantine/core";
import { useEffect, useState } from "react";
import { Link, useLocation } from "wouter";
import type { JobHandle } from "../api/useJob";
import type { SheetName } from "../api/types";
import { Mark } from "../blocks/Mark";
import type { Findable } from "../house/FindDialog";
import { HouseBar } from "../house/HouseBar";
import { SHEETS } from "../sheets/sheets";
import { Press } from "../blocks/Press";
import css from "./SheetStrip.module.css";
import { useUndoKeys } from "../blocks/undoKeys";

interface Props {
  handle: JobHandle;
  sheet: SheetName;
  select: (body: string) => void;
}

/** What the finder adds on a job: its sheets with what is done there, and its bodies. */
function useFindables({ handle, select }: Props): Findable[] {
  const [, go] = useLocation();
  const { view } = handle;
  const sheets = view.survey.sheets.map(({ name }) => ({
    key: `sheet ${name}`,
    says: `Sheet ${SHEETS[name].title}: ${SHEETS[name].does}`,
    within: "sheets",
    go: () => go(`/jobs/${view.id}/${name}`),
  }));
  const bodies = view.job.bodies.map((body) => ({
    key: `body ${body.id}`,
    says: `Body ${body.name}`,
    within: "select it",
    go: () => select(body.id),
  }));
  return [...sheets, ...bodies];
}

/** The top strip: mark, job, undo and redo, and the six sheets in the order of the work. */
export function SheetStrip({ handle, sheet, select }: Props) {
  const { view } = handle;
  const steps = useSteps(handle);
  useUndoKeys(steps);
  const more = useFindables({ handle, sheet, select });
  const source = view.job.sources[0];
  return (
    <header className={css.strip}>
      <a className="skip" href="#sheet">
        To the sheet
      </a>
      <Link href="/" className={css.mark} aria-label="Aim True, all jobs">
        <Mark /> Aim True
      </Link>
      <div className={css.job}>
        <div>
          <h1 title={view.job.name}>{view.job.name}</h1>
          <small title={source?.name}>{source ? source.name : "no file yet"}</small>
        </div>
        <Step
          says={view.undo ? `Undo: ${view.undo}` : "Nothing to undo"}
          keys="Ctrl Z"
          off={!view.undo}
          go={steps.undo}
          back
        />
        <Step
          says={view.redo ? `Redo: ${view.redo}` : "Nothing to redo"}
          keys="Ctrl Shift Z"
          off={!view.redo}
          go={steps.redo}
        />
        {steps.taken && <Taken job={view.id} taken={steps.taken} sheet={sheet} />}
      </div>
      <nav className={css.tabs} aria-label="Sheets">
        {view.survey.sheets.map((state, i) => (
          <Link
            key={state.name}
            href={`/jobs/${view.id}/${state.name}`}
            className={[css.tab, state.name === sheet && css.on, state.mark === "later" && css.later]
              .filter(Boolean)
              .join(" ")}
            aria-current={state.name === sheet ? "page" : undefined}
          >
            <i>{i + 1}</i>
            <s className={state.mark}>{state.says}</s>
            <b>{SHEETS[state.name].title}</b>
          </Link>
        ))}
      </nav>
      <HouseBar more={more} />
    </header>
  );
}

/** A step that was just taken back or done again, and the sheet that it is on. */
interface TakenStep {
  says: string;
  on: string;
}

/** How long it is said what was taken back. */
const SAID_MS = 8000;

/** Undo and redo, with what the last of them did. */
function useSteps({ view, undo, redo }: JobHandle) {
  const [taken, take] = useState<TakenStep | null>(null);
  useEffect(() => {
    if (!taken) return;
    const timer = window.setTimeout(() => take(null), SAID_MS);
    return () => window.clearTimeout(timer);
  }, [taken]);
  return {
    taken,
    undo: async () => {
      const { undo: says, undo_on: on } = view;
      await undo();
      if (says) take({ says: `Undone: ${says}`, on });
    },
    redo: async () => {
      const { redo: says, redo_on: on } = view;
      await redo();
      if (says) take({ says: `Done again: ${says}`, on });
    },
  };
}

/** What was taken back or done again, and the way to the sheet where it can be seen. */
function Taken({ job, taken, sheet }: { job: string; taken: TakenStep; sheet: SheetName }) {
  const there = SHEETS[taken.on as SheetName];
  return (
    <p className={css.taken} data-testid="taken">
      {taken.says}
      {there && taken.on !== sheet && (
        <>
          , on {there.title}.{" "}
          <Link href={`/jobs/${job}/${taken.on}`} className="link">
            Go there
          </Link>
        </>
      )}
    </p>
  );
}

interface StepProps {
  says: string;
  keys: string;
  off: boolean;
  go: () => Promise<void>;
  back?: boolean;
}

function Step({ says, keys, off, go, back }: StepProps) {
  return (
    <Tooltip label={off ? says : `${says} (${keys})`} color="ink">
      <Press className={css.step} disabled={off} onClick={() => void go()} aria-label={says}>
        <svg
          width="16"
          height="16"
          viewBox="0 0 16 16"
          style={back ? undefined : { transform: "scaleX(-1)" }}
          aria-hidden
        >
          <path d="M2 6h8a4 4 0 0 1 0 8H5" fill="none" stroke="currentColor" strokeWidth="1.6" />
          <path d="M5.5 2.5L2 6l3.5 3.5" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
      </Press>
    </Tooltip>
  );
}
