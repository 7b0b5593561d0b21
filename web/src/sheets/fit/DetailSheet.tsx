import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { api } from "../../api/client";
import type { JobHandle } from "../../api/useJob";
import type { PairState } from "../../api/types";
import { Press } from "../../blocks/Press";
import { rounded } from "../../blocks/numbers";
import { choosePair, pairsOf, useChosenPair } from "./chosenPair";
import { DetailDrawing } from "./DetailDrawing";
import css from "./Fit.module.css";
import { PairBlock } from "./PairBlock";
import { clearance } from "./words";

/** The detail of the pair that is looked at, drawn in place of the bench; nothing where none is. */
export function DetailSheet({ handle, cover }: { handle: JobHandle; cover: (covered: boolean) => void }) {
  const { view } = handle;
  const pair = useChosenPair(view);
  const there = !!pair?.states.length;
  useEffect(() => {
    cover(there);
    return () => cover(false);
  }, [cover, there]);
  const { data } = useQuery({
    queryKey: ["detail", view.id, view.number, pair?.id],
    queryFn: () => api.detail(view.id, pair!.id),
    enabled: there,
  });
  if (!pair || !there) return null;
  const number = pairsOf(view).indexOf(pair) + 1;
  return (
    <section className={css.detail} aria-label={`Detail ${number}`}>
      {data && <DetailDrawing detail={data} pair={pair} />}
      <div className={css.title}>
        <h2>Detail {number}</h2>
        <span className="soft">{seenAs(pair)}, as released</span>
      </div>
      <Press className={`link ${css.back}`} onClick={() => choosePair(null)}>
        Back to the bench
      </Press>
      <Equation pair={pair} />
      <PairBlock view={view} pair={pair} number={number} />
    </section>
  );
}

const seenAs = ({ kind }: PairState) =>
  kind === "bore and shaft" || kind === "thread and thread" ? "section along the axis" : "section across the gap";

/** How the clearance comes about: the outer size, less the inner one. */
function Equation({ pair }: { pair: PairState }) {
  const now = pair.states.at(-1)!;
  const [outer, inner] = now.sizes_mm;
  return (
    <div className={css.equation} data-testid="clearance-equation">
      <p>how the clearance comes about, mm{outer === undefined ? "" : " in diameter or width"}</p>
      <div className={css.sum}>
        {outer !== undefined && (
          <>
            <span>
              <small>{pair.names[0]}</small>
              {rounded(outer, 3)}
            </span>
            <span>−</span>
            <span>
              <small>{pair.names[1]}</small>
              {rounded(inner!, 3)}
            </span>
            <span>=</span>
          </>
        )}
        <span className={now.verdict === "holds" ? "settled" : "stop"}>
          <small>clearance</small>
          {clearance(now.clearance_mm)}
        </span>
        <span>
          <small>is to be</small>
          {pair.band_says.replace(" mm", "")}
        </span>
      </div>
    </div>
  );
}
