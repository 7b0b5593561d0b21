import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { UsualSettings } from "../../api/types";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { mm } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./IntakeSheet.module.css";

const KEY = ["usual"];

/** What a workshop settles for most jobs: kept under a name, and taken into the next one at once. */
export function Usual({ handle }: { handle: JobHandle }) {
  const cache = useQueryClient();
  const { data: sets = [] } = useQuery({ queryKey: KEY, queryFn: api.usual });
  const show = (all: UsualSettings[]) => cache.setQueryData(KEY, all);
  const keep = async (name: string) => show(await api.keepUsual(handle.view.id, name));
  return (
    <Fold
      title="Usual settings"
      name="usual"
      says={sets.length ? `${sets.length} kept` : "machine, material, allowance, printing"}
    >
      {sets.map((set) => (
        <div key={set.name} className={css.usual}>
          <span>
            {set.name}
            <small>{wordsOf(set)}</small>
          </span>
          <Press
            className="link"
            aria-label={`Take ${set.name}`}
            onClick={() => handle.act({ do: "take-usual", settings: set }).catch(tell)}
          >
            Take
          </Press>
          <Press
            className="link"
            aria-label={`Remove the set ${set.name}`}
            onClick={() => api.removeUsual(set.name).then(show, tell)}
          >
            ×
          </Press>
        </div>
      ))}
      <div className={css.row}>
        <span>keep those of this job as</span>
        <TypedField label="Name of usual settings" value="" placeholder="a name" words width={150} commit={keep} />
      </div>
      <p className={sheetCss.text}>Taken for every body that is printed, in one step that can be undone.</p>
    </Fold>
  );
}

function wordsOf({ machine, material, shrinkage, clearance, least_wall_mm, printing }: UsualSettings): string {
  const shares = shrinkage.shares!.map((share) => Number((100 * share).toFixed(2)));
  const wide = clearance.mm!.some(Boolean) ? `clearance ${clearance.mm!.map(mm).join(", ")} mm` : "";
  return [
    machine.name,
    material.name,
    shares.some(Boolean) ? `shrinkage ${shares.join(", ")} %` : "",
    wide,
    least_wall_mm ? `walls from ${mm(least_wall_mm)} mm` : "",
    printing.name,
  ]
    .filter(Boolean)
    .join("; ");
}
