import { Press } from "../blocks/Press";
import css from "./Bench.module.css";
import type { Ground } from "./Bench";
import { drawStrokes, showEarlier, type DrawnStrokes } from "./strokes";

const LABEL_PX = 26;

/** The legend of the lines on a surface, and the numerals of its contours. */
export function StrokeNotes({ strokes, ground }: { strokes: DrawnStrokes; ground: Ground }) {
  const hatches = strokes.surface.bands.filter((band) => band.kind === "hatch");
  const contours = strokes.surface.bands.filter((band) => band.kind === "contour" && band.at);
  const widest = Math.max(...hatches.map((band) => band.spacing_mm), 1e-9);
  return (
    <>
      <svg className={css.over} aria-hidden>
        {apart(contours.map((band) => ({ band, at: ground.view.project(ground.place(strokes.body, band.at!)) }))).map(
          ({ band, at: [x, y] }) => (
            <text key={band.says} x={x + 3} y={y - 3} className={css.level}>
              {band.says}
            </text>
          ),
        )}
      </svg>
      <section className={css.legend} aria-label="Legend">
        <b>{strokes.title}</b>
        {hatches.map((band, i) => (
          <span key={band.says}>
            <Swatch id={`stroke-${i}`} spacing={(14 * band.spacing_mm) / widest} />
            {band.says}
          </span>
        ))}
        {!hatches.length && <span>{strokes.earlier ? "nothing moved" : "nothing to draw"}</span>}
        {contours.length > 0 && <span>contours in mm</span>}
        {strokes.earlier && (
          <Press className="link" onClick={() => showEarlier(!strokes.earlier!.shown)}>
            {strokes.earlier.shown ? "Show it as it is now" : "Show it as it was"}
          </Press>
        )}
        <Press className="link" onClick={() => drawStrokes(null)}>
          Remove the drawing
        </Press>
      </section>
    </>
  );
}

/** Numerals that would lie on each other are not all written: of those the first is. */
function apart<T extends { at: readonly number[] }>(labels: T[]): T[] {
  const written: T[] = [];
  for (const label of labels)
    if (written.every(({ at }) => Math.hypot(at[0]! - label.at[0]!, at[1]! - label.at[1]!) > LABEL_PX))
      written.push(label);
  return written;
}

function Swatch({ id, spacing }: { id: string; spacing: number }) {
  const step = Math.max(1.8, spacing);
  return (
    <svg width="40" height="14" aria-hidden>
      <pattern id={id} width={step} height={step} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d={`M0 0V${step}`} stroke="var(--ink)" strokeWidth="1.2" />
      </pattern>
      <rect width="40" height="14" fill={`url(#${id})`} stroke="var(--ink)" />
    </svg>
  );
}
