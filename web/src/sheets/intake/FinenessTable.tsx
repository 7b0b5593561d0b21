import { Columns } from "../../blocks/Columns";
import { tell } from "../../api/useJob";
import type { FinenessStep, Fineness, Source, Task } from "../../api/types";
import { count, microns } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import { RowRadio } from "../../blocks/RowRadio";
import { TypedField } from "../../blocks/TypedField";
import { FacetPictures } from "./FacetPictures";
import css from "./IntakeSheet.module.css";

const NAMES: Record<string, string> = { "0.1": "coarse", "0.03": "medium", "0.01": "fine" };

/** How finely a CAD source is cut into facets: what each step would come to, and typed values. */
export function FinenessTable({
  source,
  per,
  begin,
}: {
  source: Source;
  per: number;
  begin: (task: Task) => Promise<unknown>;
}) {
  const now = source.fineness!;
  const set = (change: { fineness?: Fineness; chord?: string; angle?: string }) =>
    begin({ do: "refine", source: source.id, fineness: null, chord: "", angle: "", sew: source.sewn!, ...change });
  return (
    <section aria-label="Fineness">
      <Head title="Fineness of the facets" />
      <table className={sheetCss.table}>
        <Columns of={["step", { numbers: "triangles" }, { numbers: "deviation" }, { numbers: "bores lose" }]} />
        <tbody role="radiogroup" aria-label="Fineness">
          {source.steps!.map((step) => {
            const on = step.fineness.chord_mm === now.chord_mm;
            return <FinenessRow key={step.fineness.chord_mm} step={step} on={on} set={set} per={per} />;
          })}
        </tbody>
      </table>
      <FacetPictures
        steps={source.steps!}
        names={(step) => NAMES[String(step.fineness.chord_mm)] ?? "typed"}
        now={now.chord_mm}
      />
      <LimitField label="Chord deviation, mm" value={now.chord_mm} commit={(chord) => set({ chord })} />
      <LimitField label="Angle between facets, degrees" value={now.angle_deg} commit={(angle) => set({ angle })} />
      <p className={css.alike}>
        <span className="soft">
          Deviation is measured against the true surface, and estimated (≈) for the steps that were not made; a bore
          loses that much of its diameter across the flats. Drawn is a stretch of the widest bore, its true arc dashed,
          heights exaggerated. “facets” in the bench shows all edges.
        </span>
      </p>
    </section>
  );
}

interface LimitFieldProps {
  label: string;
  value: number;
  commit: (typed: string) => Promise<unknown>;
}

/** How far facets may be from the true face, typed as a length or as an angle. */
function LimitField({ label, value, commit }: LimitFieldProps) {
  return (
    <div className={css.row}>
      <span>{label}</span>
      <TypedField label={label} value={String(value)} width={84} commit={commit} />
    </div>
  );
}

interface FinenessRowProps {
  step: FinenessStep;
  on: boolean;
  set: (change: { fineness?: Fineness; chord?: string; angle?: string }) => Promise<unknown>;
  per: number;
}

/** One fineness, with its triangles and its worst deviation. */
function FinenessRow({ step, on, set, per }: FinenessRowProps) {
  return (
    <tr className={on ? sheetCss.chosen : undefined}>
      <td className={css.step}>
        <RowRadio group="fineness" checked={on} choose={() => !on && void set({ fineness: step.fineness }).catch(tell)}>
          {NAMES[String(step.fineness.chord_mm)] ?? "typed"}
        </RowRadio>
      </td>
      <td className={`${sheetCss.r} number`}>
        {step.estimated ? `≈\u2009${count(Number(step.triangles.toPrecision(2)))}` : count(step.triangles)}
      </td>
      <td className={`${sheetCss.r} number`}>{microns(step.deviation * per)}</td>
      <td className={`${sheetCss.r} number`}>{microns(step.loss * per)}</td>
    </tr>
  );
}
