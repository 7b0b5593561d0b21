import type { ReactNode } from "react";

/** Said to who cannot see it; the page shows it by where it stands. */
export function Unseen({ children }: { children: ReactNode }) {
  return <span className="visually-hidden">{children}</span>;
}
