import { Radio } from "@mantine/core";
import type { KeyboardEvent, ReactNode } from "react";

interface Props {
  group: string;
  checked: boolean;
  choose: () => void;
  children: ReactNode;
}

const STEPS: Record<string, number> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 };

/**
 * The radio of one row of a table, where choosing does something that takes its time. Arrow keys go from row to row
 * without choosing; Space or Enter chooses.
 */
export function RowRadio({ group, checked, choose, children }: Props) {
  const pressed = (event: KeyboardEvent<HTMLInputElement>) => {
    const step = STEPS[event.key];
    if (event.key === "Enter") choose();
    else if (step) {
      const all = [...document.querySelectorAll<HTMLInputElement>(`input[type=radio][name="${group}"]`)];
      all[(all.indexOf(event.currentTarget) + step + all.length) % all.length]?.focus();
    } else return;
    event.preventDefault();
  };
  return <Radio name={group} label={children} checked={checked} onChange={choose} onKeyDown={pressed} />;
}
