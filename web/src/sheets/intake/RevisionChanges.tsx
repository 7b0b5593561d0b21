import type { JobView, RevisionChange, Source } from "../../api/types";
import { Columns } from "../../blocks/Columns";
import { mm, signed, volume } from "../../blocks/numbers";
import { Press } from "../../blocks/Press";
import { Head, sheetCss } from "../../blocks/Sheet";
import { useChanges } from "./useChanges";

/** What the newest revision of each file changed, before and after; a row that is pointed at is framed in the bench. */
export function RevisionChanges({ view }: { view: JobView }) {
  const revised = view.job.sources!.filter((source) => source.replaced!.length > 0 && source.was!.length > 0);
  return revised.map((source) => {
    const changed = view.survey.sources.find((one) => one.id === source.id)?.changed ?? [];
    const title = `What revision ${source.replaced!.length + 1} changed`;
    return (
      <section key={source.id} aria-label={title}>
        <Head title={title}>{revised.length > 1 && <span className="soft">{source.name}</span>}</Head>
        {changed.length === 0 ? (
          <p className={sheetCss.text}>
            {source.unit
              ? "Nothing that can be measured: sizes, volumes and gauges are as they were."
              : "That is told once its unit is settled."}
          </p>
        ) : (
          <Changes changed={changed} />
        )}
        {source.unit && <Drawn view={view} source={source} />}
      </section>
    );
  });
}

/** Bodies that can be drawn with where they moved. */
function Drawn({ view, source }: { view: JobView; source: Source }) {
  const draw = useChanges(view.id);
  const was = new Set(source.was!.filter((one) => one.geometry).map((one) => one.body));
  const bodies = view.job.bodies.filter((body) => was.has(body.id));
  return (
    <p className={sheetCss.text}>
      {bodies.map((body) => (
        <Press key={body.id} className="link" data-body={body.id} onClick={() => draw(body.id, body.name, "revised")}>
          Draw where {body.name} moved
        </Press>
      ))}
    </p>
  );
}

function Changes({ changed }: { changed: RevisionChange[] }) {
  return (
    <table className={sheetCss.table} aria-label="Changes">
      <Columns of={["What", { numbers: "before" }, { numbers: "now" }, { numbers: "by" }]} />
      <tbody>
        {changed.map((one) => (
          <tr key={`${one.kind} ${one.body} ${one.says}`} data-body={one.body || undefined}>
            <td>{one.says}</td>
            {one.before == null || one.after == null ? (
              <td colSpan={3} className={`${sheetCss.r} look`}>
                {one.kind === "new" ? "new in the file" : "no longer in the file"}
              </td>
            ) : (
              <>
                <td className={`${sheetCss.r} number`}>{written(one, one.before)}</td>
                <td className={`${sheetCss.r} number`}>{written(one, one.after)}</td>
                <td className={`${sheetCss.r} number look`}>{difference(one, one.before, one.after)}</td>
              </>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const written = ({ kind }: RevisionChange, value: number) => (kind === "volume" ? volume(value) : mm(value));

/** By how much: of a volume the share, since its number alone says little. */
function difference({ kind }: RevisionChange, before: number, after: number): string {
  if (kind !== "volume") return signed(after - before);
  return before ? `${signed((100 * (after - before)) / before)} %` : "–";
}
