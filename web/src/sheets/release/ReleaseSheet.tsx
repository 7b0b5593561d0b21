import { useState } from "react";
import type { JobHandle } from "../../api/useJob";
import { Segments } from "../../blocks/Choice";
import { Findings, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import { NewRelease } from "./NewRelease";
import { ProofSheetPage } from "./ProofSheetPage";
import css from "./ReleaseSheet.module.css";
import { Releases } from "./Releases";

/** Sheet 6: make a release; it is offered only once it was read back and compared. */
export function ReleaseSheet({ handle, selected }: { handle: JobHandle; selected: string[] }) {
  const { view } = handle;
  const [sheet, showSheet] = useState<number | null>(null);
  // Of a body that was divided its pieces are released.
  const all = view.job.bodies.filter((body) => !view.survey.bodies.find((facts) => facts.id === body.id)?.divided);
  const some = all.filter((body) => selected.includes(body.id));
  // Everything is released until its user says otherwise here; what is selected elsewhere is for another purpose.
  const [narrowed, narrow] = useState(false);
  const onlySome = narrowed && some.length > 0 && some.length < all.length;
  const chosen = onlySome ? some : all;
  const open = chosen.some((body) => !view.survey.bodies.find((facts) => facts.id === body.id)?.chain);
  if (open) {
    return (
      <Sheet label="Release">
        <UnitFirst job={view.id} doing="any release" />
      </Sheet>
    );
  }
  return (
    <Sheet label="Release">
      {some.length > 0 && some.length < all.length && (
        <div className={css.which}>
          <Segments
            label="Bodies to release"
            value={onlySome ? "some" : "all"}
            options={[
              ["all", `all ${all.length} bodies`],
              ["some", `only ${some.length} selected`],
            ]}
            choose={(which) => narrow(which === "some")}
            width="100%"
          />
          {onlySome && (
            <p className={css.mind} role="status">
              <span aria-hidden className={`${sheetCss.sign} ${sheetCss.look} look`} />
              Left out: {listed(all.filter((body) => !some.includes(body)).map((body) => body.name))}.
            </p>
          )}
        </div>
      )}
      <NewRelease handle={handle} chosen={chosen} all={all.length} />
      <Findings handle={handle} here="release" findings={view.survey.findings} />
      <Releases handle={handle} showSheet={showSheet} />
      {sheet !== null && <ProofSheetPage job={view.id} release={sheet} close={() => showSheet(null)} />}
    </Sheet>
  );
}

/** Names as words: the first few, and how many more. */
function listed(names: string[]): string {
  return names.length > 4 ? `${names.slice(0, 3).join(", ")} and ${names.length - 3} more` : names.join(", ");
}
