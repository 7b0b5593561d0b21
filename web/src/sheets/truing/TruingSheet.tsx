import { useState } from "react";
import type { JobHandle } from "../../api/useJob";
import { GoOn } from "../../blocks/GoOn";
import { Press } from "../../blocks/Press";
import { Findings, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import type { Subject } from "../../job/subject";
import type { Selection } from "../../job/useSelection";
import { Allowance } from "./Allowance";
import { BeforeAfter } from "./BeforeAfter";
import { Lanes } from "./Lanes";
import { OverallSize } from "./OverallSize";
import { Readings } from "./Readings";
import { truthKey } from "./readingsOf";
import type { Picking } from "./usePicking";
import { Ways } from "./Ways";

interface Props {
  handle: JobHandle;
  subject: Subject;
  picking: Picking;
  selection: Selection;
  /** The factor is dragged: how many times its present value; null when it is let go. */
  drag: (ratio: number | null) => void;
}

/** Sheet 2: gauges and readings, the factor they ask for, sizes, allowance; Enter commits everywhere. */
export function TruingSheet({ handle, subject, picking, selection, drag }: Props) {
  const { view } = handle;
  const [told, tellRows] = useState<string[]>([]);
  const truth = view.survey.truths.find((verdict) => verdict.id === truthKey(subject));
  const findings = view.survey.findings.filter((finding) => finding.sheet === "truing");
  if (!subject.facts.chain) {
    return (
      <Sheet label="Truing">
        <UnitFirst job={view.id} doing="any size" />
      </Sheet>
    );
  }
  return (
    <Sheet label="Truing">
      <Readings handle={handle} subject={subject} picking={picking} tellRows={tellRows} />
      {told.length > 0 && (
        <div className={sheetCss.notice} role="status">
          <strong>Rows that were not taken</strong>
          {told.map((line) => (
            <p key={line}>{line}</p>
          ))}
          <Press className="link" onClick={() => tellRows([])}>
            Seen
          </Press>
        </div>
      )}
      {truth && <Lanes handle={handle} subject={subject} truth={truth} drag={drag} />}
      {truth && <Ways handle={handle} subject={subject} truth={truth} />}
      <Findings handle={handle} here="truing" findings={findings} show={selection.mark} />
      <OverallSize handle={handle} subject={subject} />
      <Allowance handle={handle} subject={subject} />
      <BeforeAfter handle={handle} subject={subject} />
      <GoOn view={view} from="truing" says="Every size is worked out with the correction." />
    </Sheet>
  );
}
