import { Button, Checkbox, Modal, Progress } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type DragEvent } from "react";
import { Link } from "wouter";
import { api, type Problem } from "../api/client";
import type { JobLine } from "../api/types";
import { Mark } from "../blocks/Mark";
import { Press } from "../blocks/Press";
import { count, mm, UNIT_WORDS } from "../blocks/numbers";
import { sentence } from "../blocks/words";
import { Bulk } from "./Bulk";
import { FilePicker } from "./FilePicker";
import css from "./Jobs.module.css";
import { droppedFiles } from "./dropped";
import { type Sending, type NotTaken, useSendFile } from "./useSendFile";

const STEPS = [
  ["Intake", "files, their true unit, bodies, health"],
  ["Truing", "a real measurement sets the size"],
  ["Fit", "what goes together, and walls"],
  ["Division", "too big for the machine, in pieces that fit"],
  ["Seating", "down on the plate, inside the machine"],
  ["Release", "written, read back, compared, then yours"],
] as const;

/** The first page: a place for a file, and the jobs. */
export function JobList() {
  const jobs = useQuery({ queryKey: ["jobs"], queryFn: api.jobs, refetchInterval: 4000 });
  const { sending, problems, send } = useSendFile(null);
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void droppedFiles(event.dataTransfer).then((files) => send(files));
  };
  const rows = jobs.data ?? [];
  // Jobs to be released together; null while nobody wants to.
  const [picked, setPicked] = useState<string[] | null>(null);
  const pick =
    picked && ((id: string, on: boolean) => setPicked(on ? [...picked, id] : picked.filter((one) => one !== id)));
  return (
    <div
      className={css.page}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <header className={css.top}>
        <Mark /> Aim True <span>A mesh that leaves here is provably the right size.</span>
      </header>
      <div className={css.body}>
        <DroppingPlace over={over} sending={sending} problems={problems} />
        <main className={css.right}>
          {jobs.isError && (
            <p className="stop">The list of jobs cannot be loaded; see whether the server still runs.</p>
          )}
          {rows.length > 1 && <Bulk rows={rows} picked={picked} setPicked={setPicked} />}
          <JobTable
            title="Jobs"
            picked={picked}
            pick={pick}
            rows={rows.filter((row) => !row.demo)}
            empty={jobs.isSuccess ? "No job yet. Drop a file, and it opens one." : "…"}
          />
          {rows.some((row) => row.demo) && (
            <JobTable
              title="Larch Hill, demo"
              picked={picked}
              pick={pick}
              rows={rows.filter((row) => row.demo)}
              empty=""
            />
          )}
        </main>
      </div>
    </div>
  );
}

/** Where files are dropped, what is under way, and what the six sheets are for. */
function DroppingPlace({ over, sending, problems }: { over: boolean; sending: Sending | null; problems: NotTaken[] }) {
  return (
    <div className={css.left}>
      <section className={`${css.drop} ${over ? css.over : ""}`} data-testid="drop">
        <h1>{over ? "Let go" : "Drop files here"}</h1>
        <p>
          STEP, IGES, BREP, STL, 3MF, OBJ or PLY, one or many, packed or in folders. They are kept as they are and never
          changed.
        </p>
        <span className={css.picks}>
          <FilePicker into={null} label="Pick files" />
          <FilePicker into={null} label="Pick a folder" folder />
        </span>
      </section>
      {sending && (
        <div role="status">
          <Progress value={sending.share * 100} color="ink" radius={0} aria-label="sending" />
          <span className="soft">
            sending {sending.name}
            {sending.left > 1 ? `, ${sending.left - 1} more after it` : ""}
          </span>
        </div>
      )}
      {problems.map(({ name, problem }) => (
        <div key={name} className={css.problem} role="alert">
          <strong>{name} was not taken</strong>
          <p>{sentence(problem.says)}</p>
          {problem.remedy && <p className="soft">{sentence(problem.remedy)}</p>}
        </div>
      ))}
      <ol className={css.steps} aria-label="The six sheets">
        {STEPS.map(([name, says], i) => (
          <li key={name}>
            <i>{i + 1}</i>
            <b>{name}</b>
            <span>{says}</span>
          </li>
        ))}
      </ol>
    </div>
  );
}

/** What goes when a job is removed, and whether it is meant. */
function RemoveJob({ row, close }: { row: JobLine; close: () => void }) {
  const cache = useQueryClient();
  const remove = useMutation({
    mutationFn: () => api.removeJob(row.id),
    onSuccess: () => cache.setQueryData<JobLine[]>(["jobs"], (known) => known?.filter((line) => line.id !== row.id)),
    onSettled: close,
    onError: (error) => notifications.show({ message: (error as Problem).line, color: "vermilion" }),
  });
  const files = row.files > 1 ? `its ${row.files} files` : "its file";
  const releases = row.releases === 1 ? ", its release" : row.releases ? `, its ${row.releases} releases` : "";
  return (
    <Modal opened onClose={close} title={`Remove ${row.name}?`} centered transitionProps={{ duration: 0 }}>
      <p>
        The job goes with {files}
        {releases} and all that was decided. It cannot be had back; keep{" "}
        <a className="link" href={`/api/jobs/${row.id}/bundle`} download>
          the whole job as a bundle
        </a>{" "}
        if you may want it.
      </p>
      <span className={css.picks}>
        <Button color="vermilion" onClick={() => remove.mutate()} disabled={remove.isPending}>
          Remove
        </Button>
        <Button variant="default" onClick={close}>
          Keep
        </Button>
      </span>
    </Modal>
  );
}

function JobTable({
  title,
  rows,
  empty,
  picked,
  pick,
}: {
  title: string;
  rows: JobLine[];
  empty: string;
  picked: string[] | null;
  pick: ((id: string, on: boolean) => void) | null;
}) {
  const [removing, setRemoving] = useState<JobLine | null>(null);
  return (
    <>
      {removing && <RemoveJob row={removing} close={() => setRemoving(null)} />}
      <h2>{title}</h2>
      {!rows.length && <p className="soft">{empty}</p>}
      {rows.length > 0 && (
        <table className={css.table}>
          <thead>
            <tr>
              <th>Job</th>
              <th className={css.r}>bodies</th>
              <th className={css.r}>triangles</th>
              <th>unit of the file</th>
              <th className={css.r}>size, mm</th>
              <th className={css.r}>releases</th>
              <th aria-label="remove" />
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <JobLineRow key={row.id} row={row} pick={pick} picked={picked} setRemoving={setRemoving} />
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

interface JobLineRowProps {
  row: JobLine;
  pick: ((id: string, on: boolean) => void) | null;
  picked: string[] | null;
  setRemoving: (value: JobLine | null) => void;
}

/** One job of the list. */
function JobLineRow({ row, pick, picked, setRemoving }: JobLineRowProps) {
  return (
    <tr>
      <td className={pick ? css.pickable : undefined}>
        {pick && (
          <Checkbox
            aria-label={`Release ${row.name}`}
            checked={picked!.includes(row.id)}
            onChange={(event) => pick(row.id, event.target.checked)}
          />
        )}
        <Link href={`/jobs/${row.id}/intake`} className={css.name}>
          {row.name}
        </Link>
        <span className={css.file}>{row.file}</span>
      </td>
      {row.triangles ? (
        <Facts row={row} />
      ) : (
        <td colSpan={5} className={row.failed ? "stop" : "soft"}>
          {row.failed ? `cannot be read: ${row.says}` : row.says}
        </td>
      )}
      <td className={css.r}>
        <Press className={css.remove} aria-label={`Remove ${row.name}`} onClick={() => setRemoving(row)}>
          remove
        </Press>
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
      </td>
      <td className={`${css.r} number`}>
        {row.size_mm ? row.size_mm.map((size) => mm(size)).join(" × ") : "–"}
        {row.takes && <small className={css.takes}>{row.takes}</small>}
      </td>
      <td className={`${css.r} number`}>{row.releases || "–"}</td>
    </>
  );
}
