import { useDocumentTitle } from "@mantine/hooks";
import { useEffect, type DragEvent } from "react";
import { Link } from "wouter";
import { tellNotTaken, useJob } from "../api/useJob";
import type { SheetName } from "../api/types";
import { SheetStrip } from "./SheetStrip";
import { usePicking } from "../sheets/truing/usePicking";
import { followPointing } from "../bench/lit";
import { droppedFiles } from "../jobs/dropped";
import { useSendFile } from "../jobs/useSendFile";
import { SHEETS } from "../sheets/sheets";
import { Desk } from "./Desk";
import css from "./JobPage.module.css";
import { useAnnounced } from "./useAnnounced";
import { keepPlace } from "./lastPlace";
import { ReadingFile } from "./ReadingFile";
import { useSelection } from "./useSelection";

/** One job: the strip, the sheet at the left, the bench with chain and title block. */
export function JobPage({ id, sheet }: { id: string; sheet: SheetName }) {
  const { handle, problem } = useJob(id);
  const selection = useSelection(id, handle?.view);
  useKeptPlace(id, sheet, selection.selected, handle !== null);
  const picking = usePicking(handle);
  useAnnounced(handle?.view);
  useEffect(followPointing, []);
  const drop = useDropHere(id);
  useDocumentTitle(handle ? `${handle.view.job.name}, ${SHEETS[sheet].title}: Aim True` : "Aim True");
  if (!handle) {
    return (
      <div className={css.page}>
        <div className={css.reading}>
          {problem ? (
            <div className={css.card} role="alert">
              <h2>This job cannot be shown</h2>
              <p>{problem.line}</p>
              <div className={css.actions}>
                <Link href="/" className="link">
                  All jobs
                </Link>
              </div>
            </div>
          ) : (
            <span className="soft">opening the job …</span>
          )}
        </div>
      </div>
    );
  }
  return (
    <div className={css.page} {...drop}>
      <SheetStrip handle={handle} sheet={sheet} select={selection.select} />
      {handle.view.job.sources.length > 0 ? (
        <Desk handle={handle} sheet={sheet} selection={selection} picking={picking} />
      ) : (
        <ReadingFile view={handle.view} />
      )}
    </div>
  );
}

/** Opening the job again leads back to where it was left. */
function useKeptPlace(id: string, sheet: SheetName, selected: string[], loaded: boolean) {
  useEffect(() => {
    if (loaded) keepPlace(id, { sheet, selected });
  }, [id, sheet, selected, loaded]);
}

/** Files dropped on a job join it; left to itself the browser would leave the page for them. */
function useDropHere(id: string) {
  const { problems, send } = useSendFile(id);
  useEffect(() => {
    for (const { name, problem } of problems) tellNotTaken(name, problem);
  }, [problems]);
  return {
    onDragOver: (event: DragEvent) => event.preventDefault(),
    onDrop: (event: DragEvent) => {
      event.preventDefault();
      void droppedFiles(event.dataTransfer).then((files) => send(files));
    },
  };
}
