import { useSyncExternalStore } from "react";

/** What each person settles for this browser; nothing of it is part of a job. */
export interface Settings {
  /** How the pages look: on paper, as a blueprint, or as the system wants it. */
  theme: "system" | "paper" | "blueprint";
  /** What several files that are dropped on the list of jobs become. */
  manyFiles: "ask" | "one" | "each";
  /** Which unit a size is told in first. */
  first: "mm" | "in";
  /** Places after the point of millimetres. */
  decimals: "2" | "3";
  /** How inches are written. */
  inches: "decimal" | "fraction";
  /** How a date is written. */
  dates: "iso" | "day" | "month";
  /** Whether single letters do something in the bench and on the sheets. */
  singleKeys: boolean;
  /** How wide the sheet beside the bench is. */
  sheetWidth: "usual" | "wide" | "widest";
}

export const USUAL: Settings = {
  theme: "system",
  manyFiles: "ask",
  first: "mm",
  decimals: "2",
  inches: "decimal",
  dates: "iso",
  singleKeys: true,
  sheetWidth: "usual",
};

const KEPT_AS = "aimtrue-settings";
const listeners = new Set<() => void>();
let now = read();

/** What is kept, as far as it is understood: an older page, or a hand, may have written it. */
function read(): Settings {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT_AS) ?? "{}") as Record<string, unknown>;
    const known = Object.entries(USUAL).map(([name, usual]) => {
      const value = kept[name];
      return [name, typeof value === typeof usual ? value : usual];
    });
    return Object.fromEntries(known) as Settings;
  } catch {
    return USUAL;
  }
}

function changed(next: Settings) {
  now = next;
  listeners.forEach((listener) => listener());
}

// A page beside this one follows.
window.addEventListener("storage", (event) => event.key === KEPT_AS && changed(read()));

/** The settings as they are, where nothing has to follow them. */
export const settingsNow = (): Settings => now;

export function changeSettings(change: Partial<Settings>) {
  changed({ ...now, ...change });
  try {
    localStorage.setItem(KEPT_AS, JSON.stringify(now));
  } catch {
    // A browser that keeps nothing still heeds them until the page is left.
  }
}

function listen(listener: () => void) {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

/** The settings, followed. */
export function useSettings(): Settings {
  return useSyncExternalStore(listen, settingsNow);
}
