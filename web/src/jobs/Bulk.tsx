import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { tell } from "../api/useJob";
import type { BulkRow, JobLine } from "../api/types";
import { Press } from "../blocks/Press";
import { useLastOrder } from "../sheets/release/useOrder";
import { JobsTally } from "./JobsTally";
import css from "./Jobs.module.css";

interface Props {
  rows: JobLine[];
  picked: string[] | null;
  setPicked: (picked: string[] | null) => void;
}

/** Several jobs released alike, as it was last chosen on sheet 6; each goes its own way, and how is told in a table. */
export function Bulk({ rows, picked, setPicked }: Props) {
  const order = useLastOrder();
  const [asked, setAsked] = useState<BulkRow[] | null>(null);
  const { data } = useQuery({
    queryKey: ["bulk", asked],
    queryFn: () => api.manyNow(asked!),
    enabled: asked !== null,
    refetchInterval: (query) =>
      query.state.data?.every((row) => row.state === "done" || row.state === "failed") ? false : 700,
  });
  const outcome = data ?? asked;
  const release = async () => {
    const { format, unit, place, shape, once, pattern, short } = order;
    await api
      .releaseMany(picked!, {
        format,
        unit,
        place,
        shape,
        alike: once ? "once" : "every",
        pattern,
        short,
        bodies: null,
        plates: null,
      })
      .then(setAsked)
      .catch(tell);
  };
  if (!picked) {
    return (
      <p className={css.bulk}>
        <Press className="link" onClick={() => setPicked([])}>
          Release several
        </Press>{" "}
        <span className="soft">or add up what they take</span>
      </p>
    );
  }
  const over = outcome?.every((row) => row.state === "done" || row.state === "failed");
  return (
    <section className={css.bulk} aria-label="Release several">
      <BulkChoice picked={picked} release={release} setPicked={setPicked} rows={rows} setAsked={setAsked} />
      <p className="soft">
        As last chosen on sheet 6: {order.format.toUpperCase()} in {order.unit},{" "}
        {order.shape === "each" ? "each body its own file" : order.shape}, names {order.pattern || "as usual"}. What one
        job cannot do does not stop the others.
      </p>
      <JobsTally picked={picked} />
      {outcome && <BulkAnswer rows={outcome} over={over} />}
    </section>
  );
}

interface BulkChoiceProps {
  picked: string[];
  release: () => Promise<unknown>;
  setPicked: (picked: string[] | null) => void;
  rows: JobLine[];
  setAsked: (value: BulkRow[] | null) => void;
}

/** How many jobs are picked, and the press that releases them. */
function BulkChoice({ picked, release, setPicked, rows, setAsked }: BulkChoiceProps) {
  return (
    <p>
      <Press className={css.pick} disabled={!picked.length} onClick={release}>
        Release {picked.length || "the"} {picked.length === 1 ? "job" : "jobs"}
      </Press>{" "}
      <Press className="link" onClick={() => setPicked(rows.map((row) => row.id))}>
        All
      </Press>{" "}
      <Press
        className="link"
        onClick={() => {
          setPicked(null);
          setAsked(null);
        }}
      >
        Done
      </Press>
    </p>
  );
}

/** How the release of each job went. */
function BulkAnswer({ rows, over }: { rows: BulkRow[]; over: boolean | undefined }) {
  return (
    <>
      <table className={css.table} aria-label="How each job went">
        <tbody>
          {rows.map((row) => (
            <tr key={row.job}>
              <td>{row.name}</td>
              <td className={row.state === "failed" ? "stop" : row.state === "done" ? "settled" : "soft"}>
                {row.says}
              </td>
              <td className="number">
                {row.files.slice(0, 3).join(", ")}
                {row.files.length > 3 && ` and ${row.files.length - 3} more`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {over && (
        <p>
          {rows.filter((row) => row.state === "done").length} of {rows.length} released.{" "}
          <a
            className="link"
            href={`data:text/csv;charset=utf-8,${encodeURIComponent(csv(rows))}`}
            download="releases.csv"
          >
            Table as CSV
          </a>
        </p>
      )}
    </>
  );
}

function csv(rows: BulkRow[]): string {
  const quoted = (text: string) => `"${(/^[=+\-@]/.test(text) ? `'${text}` : text).replaceAll('"', '""')}"`;
  return [
    ["job", "state", "says", "files"],
    ...rows.map((one) => [one.name, one.state, one.says, one.files.join("; ")]),
  ]
    .map((row) => row.map(quoted).join(","))
    .join("\r\n");
}
