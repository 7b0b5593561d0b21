import type { JobView } from "../../api/types";
import { Press } from "../../blocks/Press";
import { count, mm } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
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
  const rows = view.job.bodies.flatMap((body) => body.mended!.map((one) => ({ body, one })));
  if (!rows.length) return null;
  const undoable = rows.some(({ body }) => view.undo_brought.includes(body.id));
  return (
    <section aria-label="Mended">
      <Head title="Mended">
        {undoable && (
          <Press className="link" onClick={() => undo()}>
            Put the last one back
          </Press>
        )}
      </Head>
      {rows.map(({ body, one }, i) => {
        const per = view.survey.sources.find((source) => source.id === body.source)?.mm_per_unit ?? null;
        const length = (value: number) => (per ? `${mm(value * per)} mm` : value.toPrecision(4));
        const volume = (value: number) =>
          per ? `${((value * per ** 3) / 1000).toPrecision(5)} cm³` : value.toPrecision(5);
        return (
          <dl key={i} className={sheetCss.facts} data-testid="mended">
            <dt>{body.name}</dt>
            <dd>{WORDS[one.remedy] ?? one.remedy}</dd>
            <dt>triangles</dt>
            <dd className="number">
              {count(one.before.triangles)} → {count(one.after.triangles)}
            </dd>
            <dt>volume</dt>
            <dd className="number">
              {volume(one.before.volume)} → {volume(one.after.volume)}
            </dd>
            <dt>faults</dt>
            <dd className="number">
              {one.before.findings} →{" "}
              <span className={one.after.findings ? "look" : "settled"}>{one.after.findings}</span>
            </dd>
            <dt>largest size</dt>
            <dd className="number">
              {length(Math.max(...(one.before.size as number[])))} → {length(Math.max(...(one.after.size as number[])))}
            </dd>
            {one.moved! > 0 && (
              <>
                <dt>surface moved by up to</dt>
                <dd className="number">{length(one.moved!)}</dd>
              </>
            )}
          </dl>
        );
      })}
      <p className={css.alike}>
        <span className="soft">The original file is as it was; a remedy changes only what is worked with.</span>
      </p>
    </section>
  );
}
