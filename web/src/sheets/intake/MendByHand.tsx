import { useState } from "react";
import type { MendingRemedy, Task } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { Press } from "../../blocks/Press";
import { Head } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./IntakeSheet.module.css";

const REMEDIES: [MendingRemedy, string][] = [
  ["weld", "weld corners that are nearly one"],
  ["remove-degenerate", "remove empty and double triangles"],
  ["face-outward", "face outward"],
  ["close-holes", "close holes"],
  ["resolve-crossings", "resolve crossings"],
  ["rebuild", "rebuild as a solid"],
];
/** What a typed distance means, for the remedies that take one. */
const DISTANCE: Partial<Record<MendingRemedy, string>> = { weld: "within, mm", rebuild: "grid, mm" };

interface Props {
  bodies: string[];
  settled: boolean;
  begin: (task: Task) => unknown;
  /** Asks whether a task is clear, without beginning it. */
  check: (task: Task) => Promise<unknown>;
}

/** Any remedy for the chosen bodies, with a distance of one's own. */
export function MendByHand({ bodies, settled, begin, check }: Props) {
  const [remedy, setRemedy] = useState<MendingRemedy>("weld");
  const [distance, setDistance] = useState("");
  const asked = DISTANCE[remedy];
  const mend = (tolerance: string): Task => ({ do: "mend", bodies, remedy, tolerance });
  const type = async (text: string) => {
    if (bodies.length) await check(mend(text));
    setDistance(text.trim());
  };
  return (
    <section aria-label="Mend by hand">
      <Head title="Mend by hand" />
      <div className={css.row}>
        <Choice label="Remedy" width="100%" value={remedy} options={REMEDIES} choose={setRemedy} />
        <Press
          className={css.mend}
          why={!bodies.length && "select the bodies to mend"}
          onClick={() => begin(mend(asked ? distance : ""))}
        >
          Mend
        </Press>
      </div>
      {asked && (
        <div className={css.row}>
          <span>{asked}</span>
          <TypedField
            label={`Distance, ${asked}`}
            value={distance}
            placeholder="by size"
            width={90}
            disabled={!settled}
            commit={type}
          />
        </div>
      )}
      {!bodies.length && (
        <p className={css.alike}>
          <span className="soft">Select the bodies to mend.</span>
        </p>
      )}
    </section>
  );
}
