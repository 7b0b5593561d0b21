import { Unseen } from "../blocks/Unseen";
import { Checkbox } from "@mantine/core";
import { lazy, Suspense, useState, type KeyboardEvent } from "react";
import { Link } from "wouter";
import type { JobLine } from "../api/types";
import { count, mm, UNIT_WORDS } from "../blocks/numbers";
import { TypedField } from "../blocks/TypedField";
import { lastSheet } from "../job/lastPlace";
import css from "./Jobs.module.css";
import { RowDoings } from "./RowDoings";
import { Thumbnail } from "./Thumbnail";
import type { Listing } from "./useJobList";

/** Loaded when it is wanted. */
const RemoveJob = lazy(() => import("./RemoveJob").then(({ RemoveJob }) => ({ default: RemoveJob })));

interface Props {
  title: string;
  rows: JobLine[];
  listing: Listing;
  picked: string[];
  pick: (id: string, on: boolean) => void;
}

/** Jobs, one a row. */
export function JobTable({ title, rows, picked, pick, listing }: Props) {
  const [removing, setRemoving] = useState<JobLine | null>(null);
  return (
    <>
      <Suspense fallback={null}>
        {removing && <RemoveJob row={removing} close={() => setRemoving(null)} refresh={listing.refresh} />}
      </Suspense>
      <h2>{title}</h2>
      <table className={css.table} aria-label={title}>
        <thead>
          <tr>
            <th>
              <Unseen>chosen</Unseen>
            </th>
            <th>
              <Unseen>drawing</Unseen>
            </th>
            <th>Job</th>
            <th className={css.r}>bodies</th>
            <th className={css.r}>triangles</th>
            <th>unit of the file</th>
            <th className={css.r}>size, mm</th>
            <th className={css.r}>releases</th>
            <th>
              <Unseen>what can be done</Unseen>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <JobLineRow
              key={row.id}
              row={row}
              picked={picked}
              pick={pick}
              remove={() => setRemoving(row)}
              listing={listing}
            />
          ))}
        </tbody>
      </table>
    </>
  );
}

/** Arrow keys go from job to job, Delete puts one into the bin. */
function onRowKey(event: KeyboardEvent<HTMLTableRowElement>, bin: () => void) {
  if (!(event.target instanceof HTMLAnchorElement)) return;
  const steps: Record<string, "nextElementSibling" | "previousElementSibling"> = {
    ArrowDown: "nextElementSibling",
    ArrowUp: "previousElementSibling",
  };
  const step = steps[event.key];
  if (step) {
    event.preventDefault();
    event.currentTarget[step]?.querySelector("a")?.focus();
  }
  if (event.key === "Delete") {
    // The row goes; who goes from row to row by keyboard stays among them.
    const { nextElementSibling: next, previousElementSibling: previous } = event.currentTarget;
    (next ?? previous)?.querySelector("a")?.focus();
    bin();
  }
}

interface RowProps extends Omit<Props, "title" | "rows"> {
  row: JobLine;
  remove: () => void;
}

/** One job of the list. */
function JobLineRow({ row, pick, picked, remove, listing }: RowProps) {
  const [renaming, rename] = useState(false);
  return (
    <tr onKeyDown={(event) => onRowKey(event, () => void listing.put([row], "bin"))}>
      <td>
        <Checkbox
          aria-label={`Choose ${row.name}`}
          checked={picked.includes(row.id)}
          onChange={(event) => pick(row.id, event.target.checked)}
        />
      </td>
      <td>
        <Thumbnail row={row} />
      </td>
      <td className={css.named}>
        {renaming ? (
          <TypedField
            words
            startTyping
            label={`Name of ${row.name}`}
            value={row.name}
            width={220}
            commit={(name) => listing.rename(row, name)}
            done={() => rename(false)}
          />
        ) : (
          <Link href={`/jobs/${row.id}/${lastSheet(row.id)}`} className={css.name}>
            {row.name}
          </Link>
        )}
        <span className={css.file}>{row.file}</span>
        {row.labels.map((label) => (
          <span key={label} className={css.label}>
            {label}
          </span>
        ))}
      </td>
      {row.triangles ? (
        <Facts row={row} />
      ) : (
        <td colSpan={5} className={row.failed ? "stop" : "soft"}>
          {row.failed ? `cannot be read: ${row.says}` : row.says}
        </td>
      )}
      <td className={css.r}>
        <RowDoings row={row} listing={listing} rename={() => rename(true)} remove={remove} />
      </td>
    </tr>
  );
}

function Facts({ row }: { row: JobLine }) {
  return (
    <>
      <td className={`${css.r} number`}>{row.bodies}</td>
      <td className={`${css.r} number`}>{count(row.triangles)}</td>
      <td>
        {row.unit ? (
          <span className="settled">
            {UNIT_WORDS[row.unit]}, {row.how}
          </span>
        ) : (
          <span className="stop">not settled</span>
        )}
        {row.stops > 0 && <small className={`${css.takes} stop`}>stops: {row.stops}</small>}
      </td>
      <td className={`${css.r} number`}>
        {row.size_mm ? row.size_mm.map((size) => mm(size)).join(" × ") : "–"}
        {row.takes && <small className={css.takes}>{row.takes}</small>}
      </td>
      <td className={`${css.r} number`}>{row.releases || "–"}</td>
    </>
  );
}
