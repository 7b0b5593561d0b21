import type { ReactNode } from "react";
import { Link } from "wouter";
import css from "./NextStep.module.css";

/** The one next step of a sheet, always at its bottom edge: a way on, or what has to be done first. */
export function NextStep({ to, says, children }: { to?: string; says?: ReactNode; children: ReactNode }) {
  return (
    <footer className={css.next}>
      {says && <span>{says}</span>}
      {to ? (
        <Link href={to} className={css.go}>
          {children}
        </Link>
      ) : (
        children
      )}
    </footer>
  );
}
