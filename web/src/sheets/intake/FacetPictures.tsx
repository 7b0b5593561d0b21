import type { Source } from "../../api/types";
import css from "./IntakeSheet.module.css";

type Step = NonNullable<Source["steps"]>[number];

const WIDTH = 116;
const HEIGHT = 32;
const MARGIN = 6;
/** How far the coarsest facet is drawn from its arc, in pixels; to scale it could not be seen. */
const SAG = 16;

/** One facet of the coarsest step along the widest bore, and what each step makes of that same stretch; heights are stretched, alike in all. */
export function FacetPictures({ steps, names, now }: { steps: Step[]; names: (step: Step) => string; now: number }) {
  const round = steps.filter((step) => step.sides! > 0);
  if (!round.length) return null;
  const coarsest = Math.min(...round.map((step) => step.sides!));
  const radius = (WIDTH - 2 * MARGIN) / 2 / Math.sin(Math.PI / coarsest);
  return (
    <div className={css.facets} role="group" aria-label="Facets along the widest bore">
      {round.map((step) => (
        <figure key={step.fineness.chord_mm} className={step.fineness.chord_mm === now ? css.inForce : undefined}>
          <Stretch radius={radius} sides={step.sides!} half={Math.PI / coarsest} />
          <figcaption>
            {names(step)}, {step.sides} around
          </figcaption>
        </figure>
      ))}
    </div>
  );
}

/** The true arc, dashed, above the facets, inked; the bore is below them. */
function Stretch({ radius, sides, half }: { radius: number; sides: number; half: number }) {
  const tall = SAG / (1 - Math.cos(half));
  const at = (angle: number) =>
    `${(WIDTH / 2 + radius * Math.sin(angle)).toFixed(2)},${(MARGIN + tall * (1 - Math.cos(angle))).toFixed(2)}`;
  const step = (2 * Math.PI) / sides;
  const corners: number[] = [];
  for (let angle = -half; angle < half + step; angle += step) corners.push(angle);
  const arc = Array.from({ length: 41 }, (_, k) => -half * 1.2 + (k * half * 2.4) / 40);
  return (
    <svg width={WIDTH} height={HEIGHT} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-hidden>
      <polygon
        className={css.free}
        points={[...corners.map(at), `${WIDTH + 40},${HEIGHT + 40}`, `-40,${HEIGHT + 40}`].join(" ")}
      />
      <polyline className={css.arc} points={arc.map(at).join(" ")} />
      <polyline className={css.chord} points={corners.map(at).join(" ")} />
    </svg>
  );
}
