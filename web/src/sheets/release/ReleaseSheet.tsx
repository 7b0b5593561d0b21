import { useState } from "react";
import type { JobHandle } from "../../api/useJob";
import { Findings, Sheet, UnitFirst } from "../../blocks/Sheet";
import { NewRelease } from "./NewRelease";
import { ProofSheetPage } from "./ProofSheetPage";
import { Releases } from "./Releases";

/** Sheet 6: make a release; it is offered only once it was read back and compared. */
export function ReleaseSheet({ handle, selected }: { handle: JobHandle; selected: string[] }) {
  const { view } = handle;
  const [sheet, showSheet] = useState<number | null>(null);
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
  return (
    <Sheet label="Release">
      <NewRelease handle={handle} selected={selected} />
      <Findings handle={handle} here="release" findings={view.survey.findings} />
      <Releases handle={handle} showSheet={showSheet} />
      {sheet !== null && <ProofSheetPage job={view.id} release={sheet} close={() => showSheet(null)} />}
    </Sheet>
  );
}
