import { useEffect } from "react";
import type { JobHandle } from "../../api/useJob";
import { drawStrokes } from "../../bench/strokes";
import { GoOn } from "../../blocks/GoOn";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import type { Selection } from "../../job/useSelection";
import { GoesThrough } from "../stock/GoesThrough";
import { StockPanel } from "../stock/StockPanel";
import { StockUnderWay } from "../stock/StockUnderWay";
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
      <StockUnderWay view={view} />
      <GoesThrough handle={handle} />
      <StockPanel handle={handle} place="fit" />
      <Walls handle={handle} mark={selection.mark} />
      <Inspection handle={handle} />
      <Findings
        handle={handle}
        here="fit"
        findings={view.survey.findings.filter((finding) => finding.sheet === "fit")}
      />
      <GoOn
        view={view}
        from="fit"
        says={pairs.length ? "Pairs are held through every correction." : "No pair has to be kept."}
      />
    </Sheet>
  );
}
