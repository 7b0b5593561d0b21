import { Dialog } from "../blocks/Dialog";
import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState, type KeyboardEvent } from "react";
import { useLocation } from "wouter";
import { api } from "../api/client";
import { Press } from "../blocks/Press";
import { controlsOfPage } from "./controls";
import css from "./House.module.css";

/** Something that can be found and gone to. */
export interface Findable {
  key: string;
  says: string;
  within: string;
  why?: string;
  go: () => void;
}

const MOST = 40;

interface Props {
  close: () => void;
  /** What the page adds: its sheets, its bodies. */
  more: readonly Findable[];
  openSettings: () => void;
  openHelp: () => void;
}

/** Every control, sheet, job, body and setting, by words; Enter goes there. */
export function FindDialog({ close, more, openSettings, openHelp }: Props) {
  const [typed, type] = useState("");
  const [at, move] = useState(0);
  // Looked up once, when it opens: under the dialog the page stays as it is.
  const controls = useMemo(() => controlsOfPage(), []);
  const jobs = useJobsFound(typed);
  const house: Findable[] = [
    {
      key: "settings",
      says: "Settings: theme, units, decimals, dates, keys, width",
      within: "Aim True",
      go: openSettings,
    },
    { key: "help", says: "Help: keys, words, examples", within: "Aim True", go: openHelp },
  ];
  const all = [...more, ...controls, ...house, ...jobs];
  const found = all.filter((entry) => holds(`${entry.within} ${entry.says}`, typed)).slice(0, MOST);
  const chosen = Math.min(at, found.length - 1);
  const take = (entry: Findable | undefined) => {
    if (!entry || entry.why) return;
    close();
    // The dialog gives the focus back first; then it goes where it was sent.
    setTimeout(entry.go);
  };
  const pressed = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      move(Math.max(0, Math.min(found.length - 1, chosen + step)));
    }
    if (event.key === "Enter") take(found[chosen]);
  };
  return (
    <Dialog close={close} title="Find" size={620} closeButton={false}>
      <TextInput
        data-autofocus
        aria-label="What to find"
        placeholder="a control, a sheet, a body, a job, a setting"
        role="combobox"
        aria-expanded
        aria-controls="found"
        aria-activedescendant={found[chosen] ? `found-${chosen}` : undefined}
        value={typed}
        onChange={(event) => {
          type(event.currentTarget.value);
          move(0);
        }}
        onKeyDown={pressed}
      />
      <div id="found" role="listbox" aria-label="Found" className={css.found}>
        {found.map((entry, i) => (
          <FoundLine key={entry.key} id={`found-${i}`} entry={entry} on={i === chosen} take={() => take(entry)} />
        ))}
      </div>
      <p role="status" className="soft">
        {found.length
          ? `${found.length}${all.length > found.length ? ` of ${all.length}` : ""} found`
          : "Nothing is called so. Try another word."}
      </p>
    </Dialog>
  );
}

interface LineProps {
  id: string;
  entry: Findable;
  on: boolean;
  take: () => void;
}

function FoundLine({ id, entry, on, take }: LineProps) {
  return (
    <Press
      id={id}
      role="option"
      tabIndex={-1}
      aria-selected={on}
      aria-disabled={!!entry.why}
      className={css.line}
      ref={on ? inSight : undefined}
      onClick={take}
    >
      <span>{entry.says}</span>
      <small>{entry.why ? `not now: ${entry.why}` : entry.within}</small>
    </Press>
  );
}

const inSight = (line: HTMLButtonElement | null) => line?.scrollIntoView({ block: "nearest" });

/** Whether a text holds all words that were typed. */
const holds = (text: string, typed: string) =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.toLowerCase().includes(word));

/** Jobs by their words, as the list finds them. */
function useJobsFound(text: string): Findable[] {
  const [, go] = useLocation();
  const { data } = useQuery({
    queryKey: ["find-jobs", text],
    queryFn: () => api.jobList({ text, wanted: "all", label: "", order: "changed", page: 0 }),
    enabled: text.trim() !== "",
    placeholderData: (known) => known,
  });
  if (!text.trim()) return [];
  return (data?.rows ?? []).slice(0, 8).map((row) => ({
    key: `job ${row.id}`,
    // What it was found by may be in its files; so that it is listed, the words are told, too.
    says: `Job ${row.name}${row.name.toLowerCase().includes(text.toLowerCase()) ? "" : ` (${text})`}`,
    within: "jobs",
    go: () => go(`/jobs/${row.id}`),
  }));
}
