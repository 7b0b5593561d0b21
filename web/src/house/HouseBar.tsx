import { lazy, Suspense, useEffect, useState } from "react";
import { Press } from "../blocks/Press";
import type { Findable } from "./FindDialog";
import css from "./House.module.css";
import { letterKey } from "./letterKey";

/** Loaded with the first that is opened. */
const FindDialog = lazy(() => import("./FindDialog").then(({ FindDialog }) => ({ default: FindDialog })));
const HelpDialog = lazy(() => import("./HelpDialog").then(({ HelpDialog }) => ({ default: HelpDialog })));
const SettingsDialog = lazy(() =>
  import("./SettingsDialog").then(({ SettingsDialog }) => ({ default: SettingsDialog })),
);

type Shown = "find" | "settings" | "help" | null;

const NOTHING: readonly Findable[] = [];

/** Find, settings and help, on every page; Ctrl K finds, ? helps. */
export function HouseBar({ more = NOTHING }: { more?: readonly Findable[] }) {
  const [shown, show] = useState<Shown>(null);
  const close = () => show(null);
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "k" && (event.ctrlKey || event.metaKey) && !event.shiftKey) {
        event.preventDefault();
        if (!document.querySelector("[role='dialog']")) show("find");
      }
      if (letterKey(event) === "?") show("help");
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
  return (
    <nav className={css.bar} aria-label="Aim True">
      <Press className={css.open} onClick={() => show("find")} aria-keyshortcuts="Control+K">
        Find
      </Press>
      <Press className={css.open} onClick={() => show("settings")}>
        Settings
      </Press>
      <Press className={css.open} onClick={() => show("help")} aria-keyshortcuts="?">
        Help
      </Press>
      <Suspense fallback={null}>
        {shown === "find" && (
          <FindDialog close={close} more={more} openSettings={() => show("settings")} openHelp={() => show("help")} />
        )}
        {shown === "settings" && <SettingsDialog close={close} />}
        {shown === "help" && <HelpDialog close={close} />}
      </Suspense>
    </nav>
  );
}
