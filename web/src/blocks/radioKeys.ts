import type { KeyboardEvent } from "react";

const STEPS: Record<string, number> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 };

/**
 * The keys of radios whose choosing does something that takes its time: arrow keys go from one to the next without
 * choosing; Space or Enter chooses. For the radio itself, or whatever holds a group of them.
 */
export function radioKeys(event: KeyboardEvent<HTMLElement>): void {
  const radio = event.target;
  if (!(radio instanceof HTMLInputElement) || radio.type !== "radio") return;
  const step = STEPS[event.key];
  if (event.key === "Enter") radio.click();
  else if (step) {
    const all = [...document.querySelectorAll<HTMLInputElement>(`input[type=radio][name="${radio.name}"]`)];
    all[(all.indexOf(radio) + step + all.length) % all.length]?.focus();
  } else return;
  event.preventDefault();
}
