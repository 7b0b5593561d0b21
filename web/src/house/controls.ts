/** A control of the page that is open, as the finder lists it. */
export interface PageControl {
  key: string;
  says: string;
  /** The part of the page that it is in. */
  within: string;
  /** Why it is not to be had now; empty where it is. */
  why: string;
  go: () => void;
}

const CONTROLS = "button, a[href], input:not([type=hidden]):not([type=file]), select, textarea, [role=slider]";

/** All controls of the page, by their names in the accessibility tree: whatever a sheet has can be found. */
export function controlsOfPage(): PageControl[] {
  const root = document.getElementById("root");
  if (!root) return [];
  const seen = new Set<string>();
  const controls: PageControl[] = [];
  for (const element of root.querySelectorAll<HTMLElement>(CONTROLS)) {
    const says = nameOf(element);
    if (!says || !isShown(element)) continue;
    const within = partOf(element);
    const key = `${within}: ${says}`;
    if (seen.has(key)) continue;
    seen.add(key);
    controls.push({ key, says, within, why: whyNot(element), go: () => press(element) });
  }
  return controls;
}

function nameOf(element: HTMLElement): string {
  const label = element.getAttribute("aria-label") ?? (element as HTMLInputElement).labels?.[0]?.textContent;
  return (label ?? element.textContent ?? "").replace(/\s+/g, " ").trim();
}

const isShown = (element: HTMLElement) => element.getClientRects().length > 0 && !element.closest("[inert]");

function partOf(element: HTMLElement): string {
  const part = element.parentElement?.closest("section[aria-label], nav[aria-label], main[aria-label], [role=group]");
  return part?.getAttribute("aria-label") ?? "";
}

/** What a control that is switched off says about it. */
function whyNot(element: HTMLElement): string {
  if (!(element as HTMLButtonElement).disabled && element.getAttribute("aria-disabled") !== "true") return "";
  return element.dataset.why || element.title || "nothing for it to do now";
}

/** Go to a control as if it had been pressed; a field is only entered. */
function press(element: HTMLElement) {
  element.scrollIntoView({ block: "center" });
  element.focus();
  if (element.matches("button, a, [type=checkbox]")) element.click();
}
