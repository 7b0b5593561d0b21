import { Tooltip } from "@mantine/core";
import { Link } from "wouter";
import type { JobHandle } from "../api/useJob";
import type { SheetName } from "../api/types";
import { Mark } from "../blocks/Mark";
import { SHEETS } from "../sheets/sheets";
import { Press } from "../blocks/Press";
import css from "./SheetStrip.module.css";
import { useUndoKeys } from "../blocks/undoKeys";

/** The top strip: mark, job, undo and redo, and the six sheets in the order of the work. */
export function SheetStrip({ handle, sheet }: { handle: JobHandle; sheet: SheetName }) {
  const { view } = handle;
  useUndoKeys(handle);
  const source = view.job.sources[0];
  return (
    <header className={css.strip}>
      <Link href="/" className={css.mark} aria-label="Aim True, all jobs">
        <Mark /> Aim True
      </Link>
      <div className={css.job}>
        <div>
          <b title={view.job.name}>{view.job.name}</b>
          <small title={source?.name}>{source ? source.name : "no file yet"}</small>
        </div>
        <Step
          says={view.undo ? `Undo: ${view.undo}` : "Nothing to undo"}
          keys="Ctrl Z"
          off={!view.undo}
          go={handle.undo}
          back
        />
        <Step
          says={view.redo ? `Redo: ${view.redo}` : "Nothing to redo"}
          keys="Ctrl Shift Z"
          off={!view.redo}
          go={handle.redo}
        />
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
    </header>
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
