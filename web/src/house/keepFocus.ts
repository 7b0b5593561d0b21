const REACHED =
  "a[href], button:not(:disabled), input:not(:disabled):not([type=hidden]), select:not(:disabled), " +
  "textarea:not(:disabled), [tabindex]:not([tabindex='-1'])";

/** Where the focus was last, what that was called, and what it was in, from the inside out. */
interface Held {
  element: HTMLElement;
  name: string;
  box: DOMRect;
  around: HTMLElement[];
  path: string;
}

/** A dialog that closes, and what a page focuses by itself, come first. */
const WAITS_MS = 60;

/**
 * Keeps the focus from falling to the page: where what has it goes away or is switched off, it goes to what took its
 * place, or to what is nearest in the same part of the page; on another sheet, to that sheet.
 *
 * A click beside everything still takes the focus off, as everywhere. Returns what ends it.
 */
export function keepFocus(): () => void {
  let held: Held | null = null;
  let timer = 0;
  const hold = (element: EventTarget | null) => {
    if (!(element instanceof HTMLElement) || element === document.body) return;
    held = {
      element,
      name: nameOf(element),
      box: element.getBoundingClientRect(),
      around: around(element),
      path: at(),
    };
  };
  const note = () => hold(document.activeElement);
  const look = () => {
    timer = 0;
    if (!held || !isLost(held.element)) return;
    const next = nextTo(held);
    if (next) next.focus({ preventScroll: next.tagName === "MAIN" });
  };
  const changed = () => {
    if (!timer && held && isLost(held.element)) timer = window.setTimeout(look, WAITS_MS);
  };
  const focused = (event: FocusEvent) => hold(event.target);
  const watch = new MutationObserver(changed);
  watch.observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ["disabled"] });
  document.addEventListener("focusin", focused);
  // A press or a key is what makes things go: where they stood is noted right before.
  document.addEventListener("keydown", note, true);
  document.addEventListener("click", note, true);
  return () => {
    watch.disconnect();
    window.clearTimeout(timer);
    document.removeEventListener("focusin", focused);
    document.removeEventListener("keydown", note, true);
    document.removeEventListener("click", note, true);
  };
}

const at = () => window.location.pathname;

function isLost(element: HTMLElement): boolean {
  const now = document.activeElement;
  if (now && now !== document.body && now.isConnected && !now.matches(":disabled")) return false;
  return !element.isConnected || element.matches(":disabled") || element.getClientRects().length === 0;
}

function around(element: HTMLElement): HTMLElement[] {
  const all: HTMLElement[] = [];
  for (let one = element.parentElement; one; one = one.parentElement) all.push(one);
  return all;
}

function nextTo(held: Held): HTMLElement | null {
  const main = document.querySelector<HTMLElement>("main");
  if (held.path !== at()) return main;
  for (const part of held.around) {
    if (!part.isConnected || part === document.body) continue;
    const all = [...part.querySelectorAll<HTMLElement>(REACHED)].filter(isReached);
    if (!all.length) continue;
    return all.find((one) => held.name && nameOf(one) === held.name) ?? nearest(all, held.box);
  }
  return main;
}

const isReached = (element: HTMLElement) =>
  element.checkVisibility({ visibilityProperty: true }) && !element.closest("[inert]");

const nameOf = (element: HTMLElement) => (element.getAttribute("aria-label") ?? element.textContent ?? "").trim();

/** The one whose box is nearest; what is in the same line is nearer than what is above or below. */
function nearest(all: HTMLElement[], box: DOMRect): HTMLElement {
  const far = (one: HTMLElement) => {
    const { x, y } = one.getBoundingClientRect();
    return Math.abs(x - box.x) + 3 * Math.abs(y - box.y);
  };
  return all.reduce((best, one) => (far(one) < far(best) ? one : best));
}
