import { settingsNow } from "./settings";

/**
 * The single letter that a key press means, or null: none while a field or a dialog has the keys, or where single
 * keys are switched off.
 */
export function letterKey(event: KeyboardEvent): string | null {
  const at = event.target instanceof HTMLElement ? event.target : null;
  if (event.ctrlKey || event.metaKey || event.altKey || event.key.length !== 1) return null;
  if (!settingsNow().singleKeys || at?.matches("input, textarea, select, [contenteditable='true']")) return null;
  return document.querySelector("[aria-modal='true'], [role='menu']") ? null : event.key.toUpperCase();
}
