import { useEffect } from "react";
import type { JobHandle } from "../../api/useJob";
import { drawStrokes } from "../../bench/strokes";
import { NextStep } from "../../blocks/NextStep";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import type { Selection } from "../../job/useSelection";
import { Between } from "./Between";
import { fitOf, lookAt, pairsOf, useChosenPair } from "./lookedAt";
import { Inspection } from "./inspection/Inspection";
import { MustHold } from "./MustHold";
import { Offers } from "./Offers";
import { PairTable } from "./PairTable";
import { Walls } from "./Walls";
import { Ways } from "./Ways";

/** Sheet 3: what goes together and whether it still does, what would free it, and how thick walls are. */
export function FitSheet({ handle, selection }: { handle: JobHandle; selection: Selection }) {
  const { view } = handle;
  const pair = useChosenPair(view);
  const pairs = pairsOf(view);
  useEffect(
    () => () => {
      lookAt(null);
      drawStrokes(null);
    },
    [],
  );
  if (!view.survey.settled)
    return (
      <Sheet label="Fit">
        <UnitFirst job={view.id} doing="a clearance" />
      </Sheet>
    );
  const fit = fitOf(view);
  const must = fit?.must ?? [];
  return (
    <Sheet label="Fit">
      <Head title="What must hold">{must.length > 0 && `${fit!.holds} of ${must.length} hold`}</Head>
      {pairs.length ? (
        <>
          <p className={sheetCss.text}>Clearances in diameter or width, mm: as drawn, and as released.</p>
          <PairTable handle={handle} pairs={pairs} chosen={pair} />
          {pair && <Ways handle={handle} pair={pair} />}
        </>
      ) : (
        <p className={sheetCss.text}>
          No pair is kept yet. Nothing here is needed for a release; a pair that is kept is held to its clearance
          through every correction.
        </p>
      )}
      <MustHold rows={must.filter((row) => row.kind !== "pair")} />
      <Offers handle={handle} />
      <Between handle={handle} />
      <Walls handle={handle} mark={selection.mark} />
      <Inspection handle={handle} />
      <Findings
        handle={handle}
        here="fit"
        findings={view.survey.findings.filter((finding) => finding.sheet === "fit")}
      />
      <NextStep
        to={`/jobs/${view.id}/division`}
        says={pairs.length ? "Pairs are held through every correction." : "No pair has to be kept."}
      >
        Go on to Division
      </NextStep>
    </Sheet>
  );
}
