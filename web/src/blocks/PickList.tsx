import type { ReactNode } from "react";
import { Choice } from "./Choice";
import css from "./PickList.module.css";
import { Press } from "./Press";

export interface Picked {
  id: number;
  pressed?: boolean;
  says: ReactNode;
  /** Beside it, small. */
  aside: string;
  take: () => void;
}

interface Props {
  label: string;
  /** The bodies whose features these are, by id and name, and the one that is looked at. */
  bodies: readonly (readonly [string, string])[];
  body: string;
  choose: (body: string) => void;
  hint?: string;
  rows: Picked[];
  close?: () => void;
}

/** Features of a body to choose from without a pointer. */
export function PickList({ label, bodies, body, choose, hint, rows, close }: Props) {
  return (
    // Escape closes the list from whichever of its buttons has the keyboard.
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions
    <div
      className={css.list}
      role="group"
      aria-label={label}
      onKeyDown={(event) => event.key === "Escape" && close?.()}
    >
      {bodies.length > 1 && <Choice label="Body" value={body} options={bodies} choose={choose} />}
      {hint && <p className="soft">{hint}</p>}
      <ul>
        {rows.map((row, i) => (
          <li key={row.id}>
            <Press autoFocus={i === 0 && !!close} aria-pressed={row.pressed} onClick={row.take}>
              <span>{row.says}</span>
              <small>{row.aside}</small>
            </Press>
          </li>
        ))}
      </ul>
    </div>
  );
}
