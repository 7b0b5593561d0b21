import { useDocumentTitle } from "@mantine/hooks";
import { lazy, Suspense, useState, type DragEvent } from "react";
import { Mark } from "../blocks/Mark";
import { HouseBar } from "../house/HouseBar";
import { settingsNow } from "../house/settings";
import { DroppingPlace } from "./DroppingPlace";
import { droppedFiles } from "./dropped";
import { ExampleJobs } from "./ExampleJobs";
import { JobPages, JobSearch } from "./JobSearch";
import css from "./Jobs.module.css";
import { JobTable } from "./JobTable";
import { useJobList } from "./useJobList";
import { useSendFile } from "./useSendFile";

/** Loaded when they are wanted. */
const ManyFiles = lazy(() => import("./ManyFiles").then(({ ManyFiles }) => ({ default: ManyFiles })));
const SelectedJobs = lazy(() => import("./SelectedJobs").then(({ SelectedJobs }) => ({ default: SelectedJobs })));

/** The first page: a place for files, and the jobs. */
export function JobList() {
  useDocumentTitle("Jobs: Aim True");
  const { take, problems, many, ask, send } = useTakeFiles();
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void droppedFiles(event.dataTransfer).then(take);
  };
  const dragged = (event: DragEvent) => {
    event.preventDefault();
    setOver(true);
  };
  return (
    <div className={css.page} onDragOver={dragged} onDragLeave={() => setOver(false)} onDrop={drop}>
      <a className="skip" href="#jobs">
        To the jobs
      </a>
      <header className={css.top}>
        <h1>
          <Mark /> Aim True
        </h1>
        <span>A mesh that leaves here is provably the right size.</span>
        <HouseBar />
      </header>
      <div className={css.body}>
        <DroppingPlace over={over} problems={problems} take={take} />
        <Jobs />
      </div>
      <Suspense fallback={null}>
        {many && <ManyFiles files={many} close={() => ask(null)} send={(each) => void send(many, { each })} />}
      </Suspense>
    </div>
  );
}

/** Several files are one job or one each, as it was settled; asked where it was not. */
function useTakeFiles() {
  const { problems, send } = useSendFile(null);
  const [many, ask] = useState<File[] | null>(null);
  const take = (files: File[]) => {
    const { manyFiles } = settingsNow();
    if (files.length < 2) return void (files.length && send(files));
    if (manyFiles === "ask") ask(files);
    else void send(files, { each: manyFiles === "each" });
  };
  return { problems, send, many, ask, take };
}

/** The list itself: searched, filtered, several of them chosen. */
function Jobs() {
  const listing = useJobList();
  const [picked, setPicked] = useState<string[]>([]);
  const rows = listing.page?.rows ?? [];
  const [touched, touch] = useState(false);
  const pick = (id: string, on: boolean) => {
    touch(true);
    setPicked((now) => (on ? [...now, id] : now.filter((other) => other !== id)));
  };
  const { text, wanted, label } = listing.wish;
  const narrowed = text !== "" || wanted !== "all" || label !== "";
  const parts = [
    { title: "Jobs", rows: rows.filter((row) => !row.demo) },
    { title: "Larch Hill, demo", rows: rows.filter((row) => row.demo) },
  ].filter((part) => part.rows.length > 0);
  return (
    <main className={css.right} id="jobs" tabIndex={-1} aria-label="Jobs">
      <JobSearch listing={listing} />
      {listing.failed && (
        <p className="stop" role="alert">
          The list of jobs cannot be loaded now; it is asked for again every few seconds. See whether the server still
          runs.
        </p>
      )}
      <Suspense fallback={null}>
        {touched && <SelectedJobs rows={rows} picked={picked} setPicked={setPicked} listing={listing} />}
      </Suspense>
      {wanted === "bin" && (
        <p className="soft">What is here goes for good {listing.page?.bin_days ?? 30} days after it was put in.</p>
      )}
      {parts.map((part) => (
        <JobTable key={part.title} {...part} picked={picked} pick={pick} listing={listing} />
      ))}
      {listing.loaded && !rows.length && (
        <>
          <h2>Jobs</h2>
          <p className="soft">{narrowed ? "No job is like that." : "No job yet. Drop a file, and it opens one."}</p>
        </>
      )}
      {listing.loaded && !narrowed && !rows.some((row) => !row.demo) && <ExampleJobs />}
      <JobPages listing={listing} />
    </main>
  );
}
