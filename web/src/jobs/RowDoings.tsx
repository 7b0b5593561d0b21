import { lazy, Suspense, useState } from "react";
import type { JobLine } from "../api/types";
import { Press } from "../blocks/Press";
import css from "./Jobs.module.css";
import type { Listing } from "./useJobList";

/** Loaded with the first menu that is opened. */
const RowMenu = lazy(() => import("./RowMenu").then(({ RowMenu }) => ({ default: RowMenu })));

export interface RowDoingsProps {
  row: JobLine;
  listing: Listing;
  rename: () => void;
  remove: () => void;
}

/** What can be done with a job: by where it is. */
export function RowDoings(props: RowDoingsProps) {
  const [opened, open] = useState(false);
  const button = (
    <Press
      className={css.remove}
      aria-label={`more to do with ${props.row.name}`}
      aria-haspopup="menu"
      aria-expanded={opened}
      onClick={() => open(!opened)}
    >
      more
    </Press>
  );
  if (!opened) return button;
  return (
    <Suspense fallback={button}>
      <RowMenu {...props} close={() => open(false)}>
        {button}
      </RowMenu>
    </Suspense>
  );
}
