import type { BulkRow } from "../api/types";
import css from "./Jobs.module.css";

/** How the release of each of several jobs went. */
export function ReleasedTable({ rows, over }: { rows: BulkRow[]; over: boolean | undefined }) {
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
