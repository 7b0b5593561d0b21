import { Collapse } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import type { ReactNode } from "react";
import css from "./Fold.module.css";
import { Press } from "./Press";

interface Props {
  title: string;
  /** Said beside the title, folded or not. */
  says?: ReactNode;
  /** Under which name this page remembers whether it is open. */
  name: string;
  /** Whether it is open while nobody has folded or unfolded it. */
  open?: boolean;
  children: ReactNode;
}

/** A section that folds, and remembers how it was left. */
export function Fold({ title, says, name, open = false, children }: Props) {
  const [left, leave] = useLocalStorage<boolean | null>({
    key: `aimtrue-fold-${name}`,
    defaultValue: null,
    getInitialValueInEffect: false,
  });
  const shown = left ?? open;
  return (
    <section aria-label={title} className={css.fold}>
      <h2 className={css.heading}>
        <Press className={css.head} aria-expanded={shown} onClick={() => leave(!shown)}>
          <span aria-hidden className={css.sign}>
            {shown ? "−" : "+"}
          </span>
          <b>{title}</b>
          <span className={css.says}>{says}</span>
        </Press>
      </h2>
      <Collapse expanded={shown} transitionDuration={0}>
        {shown && children}
      </Collapse>
    </section>
  );
}
