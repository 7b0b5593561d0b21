import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { ReleaseView } from "../../api/types";
import { Press } from "../../blocks/Press";
import css from "./ReleaseSheet.module.css";

const FEW = 3;

/** What changed since the release before. */
export function Changes({ job, release }: { job: string; release: ReleaseView }) {
  const [all, showAll] = useState(false);
  const { data: changes } = useQuery({
    queryKey: ["release-changes", job, release.number],
    queryFn: () => api.releaseChanges(job, release.number),
    enabled: release.number > 1,
    staleTime: Infinity,
  });
  if (release.number === 1) return <p className={css.changes}>First release.</p>;
  if (!changes) return null;
  if (!changes.length)
    return <p className={css.changes}>The same bodies, sizes and readings as release {release.number - 1}.</p>;
  return (
    <ul className={css.changes} aria-label={`What changed since release ${release.number - 1}`}>
      {(all ? changes : changes.slice(0, FEW)).map((difference, i) => (
        <li key={i}>
          {[difference.of, difference.what].filter(Boolean).join(", ")}: <s>{difference.before}</s> {difference.after}
        </li>
      ))}
      {!all && changes.length > FEW && (
        <li>
          <Press className="link" onClick={() => showAll(true)}>
            and {changes.length - FEW} more
          </Press>
        </li>
      )}
    </ul>
  );
}
