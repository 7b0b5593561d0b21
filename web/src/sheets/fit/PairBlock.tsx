import type { JobView, PairState } from "../../api/types";
import { rounded } from "../../blocks/numbers";
import css from "../../blocks/TitleBlock.module.css";
import { pairsOf } from "./lookedAt";
import { MARKS, sizesOf } from "./words";

const STAMPS: Record<string, string> = { holds: "HOLDS", "may hold": "MAY HOLD", "does not hold": "DOES NOT" };

/** The corner block of a detail: which pair, how large both are, and whether it holds. */
export function PairBlock({ view, pair, number }: { view: JobView; pair: PairState; number: number }) {
  const now = pair.states.at(-1)!;
  const pairs = pairsOf(view);
  const holding = pairs.filter((one) => one.verdict === "holds").length;
  return (
    <section className={css.block} aria-label="Pair block">
      <div className={css.cell} style={{ gridColumn: "span 4" }}>
        <small>
          pair {number}, {pair.kind}
        </small>
        <b title={pair.names.join(" and ")}>{[...new Set(pair.names)].join(" and ")}</b>
      </div>
      <div className={`${css.cell} ${css.last}`} style={{ gridColumn: "span 2", display: "grid" }}>
        <span className={`${css.stamp} ${MARKS[pair.verdict]}`} style={{ fontSize: 14 }}>
          {STAMPS[pair.verdict]}
        </span>
      </div>
      <div className={css.cell} style={{ gridColumn: "span 4" }}>
        <small>sizes and engaged length, mm</small>
        <p className={css.mm}>{sizesOf({ kind: pair.kind, sizes_mm: now.sizes_mm })}</p>
        <p className={css.in}>{rounded(pair.engaged_mm, 2)} engaged</p>
      </div>
      <div className={`${css.cell} ${css.last}`} style={{ gridColumn: "span 2" }}>
        <small>off by, mm</small>
        <p className="number">{rounded(pair.offset_mm, 2)}</p>
      </div>
      <div className={`${css.cell} ${css.foot}`} style={{ gridColumn: "span 4" }}>
        <small>machine</small>
        <p>{view.survey.machine.name}</p>
      </div>
      <div className={`${css.cell} ${css.foot} ${css.last}`} style={{ gridColumn: "span 2" }}>
        <small>hold</small>
        <p>
          {holding} of {pairs.length}
        </p>
      </div>
    </section>
  );
}
