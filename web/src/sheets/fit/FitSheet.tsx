import { useEffect } from "react";
import type { JobHandle } from "../../api/useJob";
import { NextStep } from "../../blocks/NextStep";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import { choosePair, pairsOf, useChosenPair } from "./chosenPair";
import { Offers } from "./Offers";
import { PairTable } from "./PairTable";
import { Walls } from "./Walls";
import { Ways } from "./Ways";

/** Sheet 3: what goes together and whether it still does, what would free it, and how thick walls are. */
export function FitSheet({ handle }: { handle: JobHandle }) {
  const { view } = handle;
  const pair = useChosenPair(view);
  const pairs = pairsOf(view);
  useEffect(() => () => choosePair(null), []);
  if (!view.survey.settled)
    return (
      <Sheet label="Fit">
        <UnitFirst job={view.id} doing="a clearance" />
      </Sheet>
    );
  const holding = pairs.filter((one) => one.states.at(-1)?.verdict === "holds").length;
  return (
    <Sheet label="Fit">
      <Head title="What must hold">{pairs.length > 0 && `${holding} of ${pairs.length} hold`}</Head>
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
      <Offers handle={handle} />
      <Walls handle={handle} />
      <Findings handle={handle} here="fit" findings={view.survey.findings.filter((one) => one.sheet === "fit")} />
      <NextStep
        to={`/jobs/${view.id}/division`}
        says={pairs.length ? "Pairs are held through every correction." : "No pair has to be kept."}
      >
        Go on to Division
      </NextStep>
    </Sheet>
  );
}
