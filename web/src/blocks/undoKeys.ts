import { useEffect } from "react";

/**
 * What a key press asks for: to undo (Ctrl Z), to redo (Ctrl Shift Z or Ctrl Y), or neither.
 *
 * A field that holds text keeps these keys to itself, and so does a dialog: what lies under it is out of reach.
 * A field of ours that was entered and not typed into holds nothing of its own, so the keys pass through it.
 */
export function undoKey(event: KeyboardEvent): "undo" | "redo" | null {
  if (event.defaultPrevented || !(event.ctrlKey || event.metaKey) || event.altKey) return null;
  const at = event.target instanceof HTMLElement ? event.target : null;
  if (at?.matches("textarea, [contenteditable='true']")) return null;
  if (at instanceof HTMLInputElement && isText(at) && at.dataset.typed !== "no") return null;
  if (document.querySelector("[role='dialog']")) return null;
  const key = event.key.toLowerCase();
  if (key === "z") return event.shiftKey ? "redo" : "undo";
  return key === "y" ? "redo" : null;
}

const isText = (input: HTMLInputElement) =>
  !["checkbox", "radio", "range", "color", "button", "file"].includes(input.type);

/**
 * Undo and redo by keys. With `first`, these go before those of the job: while something is being laid out that is
 * not yet of the job, the keys take back what was laid out last.
 */
export function useUndoKeys(steps: { undo: () => unknown; redo: () => unknown } | null, first = false) {
  const undo = steps?.undo,
    redo = steps?.redo;
  useEffect(() => {
    if (!undo || !redo) return;
    const pressed = (event: KeyboardEvent) => {
      const wanted = undoKey(event);
      if (!wanted) return;
      event.preventDefault();
      if (wanted === "undo") undo();
      else redo();
    };
    window.addEventListener("keydown", pressed, first);
    return () => window.removeEventListener("keydown", pressed, first);
  }, [undo, redo, first]);
}
