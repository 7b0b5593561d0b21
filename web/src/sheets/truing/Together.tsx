import { Fragment } from "react";
import type { JobHandle } from "../../api/useJob";
import { Head, sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import { Term } from "../../house/Term";

type Decision = "factor" | "shrinkage" | "clearance";

const DECISIONS: [Decision, string, string, string][] = [
  ["factor", "Factor of all selected", "such as 1.02", ""],
  ["shrinkage", "Shrinkage of all selected", "such as 0.5", "%"],
  ["clearance", "Clearance added to all selected", "such as +0.3", "mm"],
];

const NOTHING = { do: "set-together", factor: "", shrinkage: "", clearance: "" } as const;

/** One decision for several bodies that have no common size. */
export function Together({ handle, bodies }: { handle: JobHandle; bodies: string[] }) {
  if (bodies.length < 2) return null;
  const set = (what: Decision, typed: string, sure?: boolean) =>
    handle.act({ ...NOTHING, bodies: bodies as [string, ...string[]], [what]: typed, sure: !!sure });
  return (
    <section aria-label="For all selected">
      <Head title={`For all ${bodies.length} selected`} />
      <dl className={sheetCss.facts}>
        {DECISIONS.map(([what, label, example, unit]) => (
          <Fragment key={what}>
            <dt>{what === "clearance" ? "clearance added" : what}</dt>
            <dd>
              <TypedField
                label={label}
                value=""
                placeholder={example}
                width={110}
                commit={(typed, sure) => set(what, typed, sure)}
              />{" "}
              {unit}
            </dd>
          </Fragment>
        ))}
      </dl>
      <p className={sheetCss.text}>
        In one step. Bodies of a <Term of="kit" /> share a factor and a shrinkage; pieces follow their whole.
      </p>
    </section>
  );
}
