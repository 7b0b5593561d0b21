import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { Press } from "../blocks/Press";
import { rounded } from "../blocks/numbers";
import css from "./Jobs.module.css";

/** What the picked jobs take together: asked for by a press, since each has to be looked at. */
export function JobsTally({ picked }: { picked: string[] }) {
  const [asked, ask] = useState<string[] | null>(null);
  const { data, isFetching } = useQuery({
    queryKey: ["jobs-tally", asked],
    queryFn: () => api.tallyOfJobs(asked!),
    enabled: asked !== null,
  });
  return (
    <>
      <p>
        <Press className="link" why={!picked.length && "choose jobs first"} onClick={() => ask(picked)}>
          What {picked.length === 1 ? "it takes" : "they take"} to print
        </Press>
        {isFetching && <span className="soft"> adding up …</span>}
      </p>
      {data && (
        <>
          <table className={css.table} aria-label="What the jobs take">
            <tbody>
              {data.jobs.map((row) => (
                <tr key={row.id}>
                  <td>{row.name}</td>
                  <td className="number">{row.refused ? "–" : `≈ ${row.says}`}</td>
                  <td className="number">{row.refused ? "–" : `${rounded(row.grams, 1)} g`}</td>
                  <td className="soft">{row.refused}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="number">
            all: {data.says}, {rounded(data.grams, 1)} g, {rounded(data.spools, 2)} spools of 1 kg
            {data.cost > 0 && `, ${rounded(data.cost, 2)}`}
          </p>
          <p className="soft">{data.machines.join("; ")}</p>
        </>
      )}
    </>
  );
}
