import { Slider } from "@mantine/core";
import type { Body, JobView } from "../../api/types";
import { rounded } from "../../blocks/numbers";
import css from "./Division.module.css";
import type { Dividing } from "./useDivision";

const MOST = 9;

/** At the foot of the bench: how the volumes of the pieces add up to the whole, and how far they are drawn apart. */
export function SumFoot({ view, dividing }: { view: JobView; dividing: Dividing }) {
  const { division, prospect, drafting, pieces, facts, apart, drawApart } = dividing;
  const volumes = drafting
    ? (prospect?.pieces ?? []).map((piece) => piece.volume_mm3)
    : pieces.filter((piece) => !isLoose(piece.body)).map((piece) => piece.facts.volume_mm3 ?? 0);
  const whole = facts.volume_mm3 ?? prospect?.volume_mm3 ?? 0;
  const drilled = !drafting && division?.shaping.by === "planes" && !!division.shaping.pins?.places?.length;
  const off = drafting ? (prospect?.difference ?? 0) : (division?.difference ?? 0);
  const many = volumes.length;
  // The second of two solids that one was made of.
  const other = view.survey.bodies.find((body) => body.id === division?.wholes[1])?.volume_mm3 ?? 0;
  // Of one body made of it, what is left and what is saved.
  const left = !drafting && many === 1 ? volumes[0]! : null;
  return (
    <section className={css.foot} aria-label="Volumes">
      <small>{many > 1 ? "adds up to the whole, cm³" : "volume, cm³"}</small>
      {volumes.length > 1 && <p className={css.sum}>{summed(volumes)}</p>}
      <p className={css.total}>
        {many > 1 ? "= " : ""}
        {left !== null && (
          <>
            <u>{rounded(left / 1000, 2)}</u> <span className="soft">made of</span>{" "}
          </>
        )}
        {left === null ? <u>{rounded(whole / 1000, 2)}</u> : rounded(whole / 1000, 2)}{" "}
        <span className="soft">{other > 0 ? `and ${rounded(other / 1000, 2)}` : "whole"}</span>{" "}
        {left !== null && division?.shaping.by === "hollow" && (
          <span className="settled">
            saves {rounded((whole - left) / 1000, 2)} cm³, {grams((whole - left) / 1000, view)} g
          </span>
        )}{" "}
        {many > 1 && (
          <span className="settled">off by {off < 1e-15 ? "nothing" : off.toExponential(0).replace("-", "−")}</span>
        )}{" "}
        {many > 1 && drilled && <span className="soft">pins left out</span>}
      </p>
      {many > 1 && (
        <div className={css.slider}>
          <span>drawn apart</span>
          <Slider min={0} max={1} step={0.02} value={apart} onChange={drawApart} thumbLabel="Drawn apart" />
        </div>
      )}
    </section>
  );
}

/** What a volume in cm³ weighs in the material of the job. */
const grams = (volume: number, view: JobView) => rounded(volume * view.job.material!.density!, 1);

/** Volumes as a sum, in cm³; those that are the same are told once. */
function summed(volumes: number[]): string {
  const counts = new Map<string, number>();
  for (const one of volumes) counts.set(rounded(one / 1000, 2), (counts.get(rounded(one / 1000, 2)) ?? 0) + 1);
  const terms = [...counts].map(([one, times]) => (times > 1 ? `${times} × ${one}` : one));
  return [...terms.slice(0, MOST), ...(terms.length > MOST ? ["…"] : [])].join(" + ");
}

/** Whether a body is a loose pin, which is no piece of the whole. */
function isLoose(body: Body): boolean {
  return body.recipe?.step === "shaped" && body.recipe.shaping.by === "dowel";
}
