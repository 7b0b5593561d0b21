import { rounded } from "../../blocks/numbers";
import css from "./Division.module.css";
import type { Dividing } from "./useDivision";

const MOST = 9;

/** At the foot of the bench: how the volumes of the pieces add up to the whole, and how far they are drawn apart. */
export function SumFoot({ dividing }: { dividing: Dividing }) {
  const { division, prospect, drafting, pieces, facts, apart, drawApart } = dividing;
  const volumes = drafting ? (prospect?.pieces ?? []).map((one) => one.volume_mm3) : [];
  const whole = facts.volume_mm3 ?? prospect?.volume_mm3 ?? 0;
  const off = drafting ? (prospect?.difference ?? 0) : (division?.difference ?? 0);
  const many = drafting ? volumes.length : pieces.length;
  return (
    <section className={css.foot} aria-label="Volumes">
      <small>{many > 1 ? "adds up to the whole, cm³" : "volume, cm³"}</small>
      {volumes.length > 1 && <p className={css.sum}>{[...volumes.slice(0, MOST).map((one) => rounded(one / 1000, 2)), ...(volumes.length > MOST ? [`${volumes.length - MOST} more`] : [])].join(" + ")}</p>}
      <p className={css.total}>
        {many > 1 ? "= " : ""}
        <u>{rounded(whole / 1000, 2)}</u> <span className="soft">whole</span> {many > 1 && <span className="settled">off by {off < 1e-15 ? "nothing" : off.toExponential(0).replace("-", "−")}</span>} {many > 1 && <span className="soft">pins left out</span>}
      </p>
      {!drafting && pieces.length > 1 && (
        <label className={css.slider}>
          drawn apart
          <input type="range" min={0} max={1} step={0.02} value={apart} onChange={(event) => drawApart(Number(event.target.value))} aria-label="Drawn apart" />
        </label>
      )}
    </section>
  );
}
