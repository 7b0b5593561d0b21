import type { JobView, MendingStep } from "../../api/types";
import { Press } from "../../blocks/Press";
import { count, mm } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import { useChanges } from "./useChanges";
import css from "./IntakeSheet.module.css";

const WORDS: Record<string, string> = {
  weld: "welded",
  "remove-degenerate": "empty and double triangles removed",
  "face-outward": "faced outward",
  "close-holes": "holes closed",
  "resolve-crossings": "crossings resolved",
  rebuild: "rebuilt as a solid",
};

/** What remedies changed, before and after; the last one can be put back. */
export function Mended({ view, undo }: { view: JobView; undo: () => Promise<void> }) {
  const draw = useChanges(view.id);
  const mended = view.job.bodies.filter((body) => body.mended!.length);
  if (!mended.length) return null;
  const undoable = mended.some((body) => view.undo_brought.includes(body.id));
  return (
    <section aria-label="Mended">
      <Head title="Mended">
        {undoable && (
          <Press className="link" onClick={() => undo()}>
            Put the last one back
          </Press>
        )}
      </Head>
      {mended.map((body) => {
        const per = view.survey.sources.find((source) => source.id === body.source)?.mm_per_unit ?? null;
        return (
          <section key={body.id} aria-label={`${body.name}, mended`} data-body={body.id}>
            {body.mended!.map((step, i) => (
              <StepFacts key={i} name={body.name} step={step} per={per} />
            ))}
            <p className={css.alike}>
              <Press
                className="link"
                why={!per && "its unit is not settled: how far it moved is told in mm"}
                onClick={() => draw(body.id, body.name, "mended")}
              >
                Draw what moved on {body.name}
              </Press>
            </p>
          </section>
        );
      })}
      <p className={css.alike}>
        <span className="soft">The original file is as it was; a remedy changes only what is worked with.</span>
      </p>
    </section>
  );
}

/** What one remedy changed; lengths in mm once the unit is settled, until then in numbers of the file. */
function StepFacts({ name, step, per }: { name: string; step: MendingStep; per: number | null }) {
  const { remedy, before, after, moved } = step;
  const length = (value: number) => (per ? `${mm(value * per)} mm` : value.toPrecision(4));
  const volume = (value: number) => (per ? `${((value * per ** 3) / 1000).toPrecision(5)} cm³` : value.toPrecision(5));
  const largest = (size: typeof before.size) => length(Math.max(...(size as number[])));
  return (
    <dl className={sheetCss.facts} data-testid="mended">
      <dt>{name}</dt>
      <dd>{WORDS[remedy] ?? remedy}</dd>
      <dt>triangles</dt>
      <dd className="number">
        {count(before.triangles)} → {count(after.triangles)}
      </dd>
      <dt>volume</dt>
      <dd className="number">
        {volume(before.volume)} → {volume(after.volume)}
      </dd>
      <dt>faults</dt>
      <dd className="number">
        {before.findings} → <span className={after.findings ? "look" : "settled"}>{after.findings}</span>
      </dd>
      <dt>largest size</dt>
      <dd className="number">
        {largest(before.size)} → {largest(after.size)}
      </dd>
      {moved! > 0 && (
        <>
          <dt>surface moved by up to</dt>
          <dd className="number">{length(moved!)}</dd>
        </>
      )}
    </dl>
  );
}
