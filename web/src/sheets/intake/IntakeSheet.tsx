import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Source, UserAction, Task } from "../../api/types";
import { GoOn } from "../../blocks/GoOn";
import { Findings, Sheet } from "../../blocks/Sheet";
import type { Selection } from "../../job/useSelection";
import { StockPanel } from "../stock/StockPanel";
import { Bodies } from "./Bodies";
import { Files } from "./Files";
import { FinenessTable } from "./FinenessTable";
import { MendByHand } from "./MendByHand";
import { Mended } from "./Mended";
import { Place } from "./Place";
import { RevisionChanges } from "./RevisionChanges";
import { Usual } from "./Usual";
import { UnitVerdict } from "./UnitVerdict";

interface Props {
  handle: JobHandle;
  selection: Selection;
}

/** Sheet 1: the files, their unit and way up, the bodies in them, and their health. */
export function IntakeSheet({ handle, selection }: Props) {
  const { view } = handle;
  const [chosen, choose] = useState<string | null>(null);
  const source = sourceOf(handle, selection, chosen);
  const act = (action: UserAction) => handle.act(action).catch(tell);
  const ask = (wanted: Task) => handle.change((on) => api.task(view.id, on, wanted));
  const begin = (wanted: Task) => ask(wanted).catch(tell);
  if (!source) return <Sheet label="Intake">{null}</Sheet>;
  const facts = view.survey.sources.find((survey) => survey.id === source.id)!;
  return (
    <Sheet label="Intake">
      <Files
        handle={handle}
        chosen={source.id}
        choose={(id) => {
          selection.select(null);
          choose(id);
        }}
      />
      <UnitVerdict handle={handle} source={source} facts={facts} />
      <RevisionChanges view={view} />
      <Place handle={handle} source={source} home={facts.home} />
      <Usual handle={handle} />
      <StockPanel handle={handle} place="intake" />
      <Bodies handle={handle} selection={selection} act={act} begin={begin} />
      <Findings
        handle={handle}
        here="intake"
        findings={view.survey.findings.filter((finding) => finding.code !== "unit-unsettled")}
        show={selection.mark}
      />
      {view.job.bodies.length > 0 && (
        <MendByHand
          bodies={view.job.bodies.length === 1 ? [view.job.bodies[0]!.id] : selection.selected}
          settled={view.survey.settled}
          begin={begin}
          check={(wanted) => handle.change((on) => api.task(view.id, on, wanted, false))}
        />
      )}
      <Mended view={view} undo={handle.undo} />
      {source.fineness && <FinenessTable source={source} per={facts.mm_per_unit ?? 1} begin={ask} />}
      {view.survey.settled && <GoOn view={view} from="intake" says="Every size is worked out from the unit." />}
    </Sheet>
  );
}

/** The file the sheet is about: that of the selected body, else the chosen one, else the first that is open. */
function sourceOf({ view }: JobHandle, selection: Selection, chosen: string | null): Source | undefined {
  const { sources, bodies } = view.job;
  const body = bodies.find((one) => one.id === selection.selected[0]);
  const wanted = body?.source ?? chosen;
  return sources.find((source) => source.id === wanted) ?? sources.find((source) => !source.unit) ?? sources[0];
}
