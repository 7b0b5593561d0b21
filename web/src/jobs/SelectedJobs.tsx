import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import type { BulkRow, JobLine } from "../api/types";
import { tell } from "../api/useJob";
import { Press } from "../blocks/Press";
import { TypedField } from "../blocks/TypedField";
import { type Order, useLastOrder } from "../sheets/release/useOrder";
import css from "./Jobs.module.css";
import { JobsTally } from "./JobsTally";
import { ReleasedTable } from "./ReleasedTable";
import type { Listing } from "./useJobList";

interface Props {
  rows: JobLine[];
  picked: string[];
  setPicked: (picked: string[]) => void;
  listing: Listing;
}

/** What can be done with the jobs that are chosen; nothing while none is. */
export function SelectedJobs({ rows, picked, setPicked, listing }: Props) {
  const chosen = rows.filter((row) => picked.includes(row.id));
  const { answer, over, release, forget } = useReleaseMany();
  if (!chosen.length && !answer) return null;
  const { wanted } = listing.wish;
  const away = wanted === "bin" || wanted === "archive";
  const jobs = chosen.length === 1 ? "1 job" : `${chosen.length} jobs`;
  const moved = (place: "list" | "archive" | "bin") => async () => {
    await listing.put(chosen, place);
    setPicked([]);
  };
  const leave = () => {
    setPicked([]);
    forget();
  };
  return (
    <section className={css.bulk} aria-label="Chosen jobs">
      <p role="status">
        <b>{jobs} chosen</b>
        {!away && (
          <Press className={css.pick} onClick={() => release(chosen.map(({ id }) => id))}>
            Release {jobs}
          </Press>
        )}
        {!away && <Doing says="Copy" act={() => listing.copy(chosen)} />}
        {!away && <Doing says="Archive" act={moved("archive")} />}
        {away && <Doing says="Put back" act={moved("list")} />}
        {wanted !== "bin" && <Doing says="Into the bin" act={moved("bin")} />}
        <Doing says={`All ${rows.length}`} act={() => setPicked(rows.map(({ id }) => id))} />
        <Doing says="None" act={leave} />
      </p>
      {!away && <LabelField chosen={chosen} listing={listing} />}
      {!away && <JobsTally picked={chosen.map(({ id }) => id)} />}
      {answer && <ReleasedTable rows={answer} over={over} />}
    </section>
  );
}

function Doing({ says, act }: { says: string; act: () => unknown }) {
  return (
    <Press className="link" onClick={act}>
      {says}
    </Press>
  );
}

/** A label for all that are chosen; those that all of them have are taken off by a press. */
function LabelField({ chosen, listing }: { chosen: JobLine[]; listing: Listing }) {
  const shared = (chosen[0]?.labels ?? []).filter((label) => chosen.every((row) => row.labels.includes(label)));
  return (
    <p>
      label{" "}
      <TypedField
        words
        label="Label for the chosen jobs"
        placeholder="such as club night"
        value=""
        width={160}
        commit={(label) => listing.label(chosen, label, true)}
      />
      {shared.map((label) => (
        <Press key={label} className="link" onClick={() => listing.label(chosen, label, false)}>
          remove “{label}”
        </Press>
      ))}
    </p>
  );
}

const isOver = (row: BulkRow) => row.state === "done" || row.state === "failed";

/** Jobs released alike, as it was last chosen on sheet 6; each goes its own way. */
function useReleaseMany() {
  const order = useLastOrder();
  const [asked, setAsked] = useState<BulkRow[] | null>(null);
  const { data } = useQuery({
    queryKey: ["bulk", asked],
    queryFn: () => api.manyNow(asked!),
    enabled: asked !== null,
    refetchInterval: (query) => (query.state.data?.every(isOver) ? false : 700),
  });
  const answer = data ?? asked;
  const release = (jobs: string[]) => api.releaseMany(jobs, askedFor(order)).then(setAsked).catch(tell);
  return { answer, over: answer?.every(isOver), release, forget: () => setAsked(null) };
}

function askedFor({ format, unit, place, shape, once, pattern, short }: Order) {
  const alike = once ? ("once" as const) : ("every" as const);
  return { format, unit, place, shape, alike, pattern, short, bodies: null, plates: null };
}
