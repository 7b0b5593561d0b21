import { useQuery } from "@tanstack/react-query";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import { TypedField } from "../../blocks/TypedField";
import css from "./TruingSheet.module.css";

export type Three = [string, string, string];

interface Props {
  handle: JobHandle;
  /** Whether the body's shrinkage is the material's. */
  follows: boolean;
  follow: (on: boolean) => Promise<unknown>;
}

const AXES = ["X", "Y", "Z"];
const OWN = "another";

/** A share as a percentage without digits that mean nothing. */
export const percentOf = (share: number) => String(Number((100 * share).toPrecision(6)));

/** What the job is made of: one to start from, its figures, and whether its shrinkage is allowed for. */
export function MaterialRows({ handle, follows, follow }: Props) {
  const material = handle.view.job.material!;
  const { data } = useQuery({ queryKey: ["materials"], queryFn: api.materials, staleTime: Infinity });
  const shrinkage = material.shrinkage!.map(percentOf) as Three;
  const change = (update: object, percent: Three | null = null) =>
    handle.act({ do: "choose-material", material: { ...material, ...update }, shrinkage: percent });
  const typed = (field: string) => (text: string) => {
    const value = Number(text.replace(",", "."));
    if (!Number.isFinite(value)) throw new Problem(0, "number", "this is not a number");
    return change({ [field]: value });
  };
  const known = data?.find((one) => one.name === material.name);
  return (
    <>
      <div className={css.row}>
        <label className={css.pair}>
          material
          <select
            className={css.select}
            aria-label="Material"
            value={known ? known.name : OWN}
            onChange={(event) => {
              const one = data?.find((other) => other.name === event.target.value);
              void change(one ?? { name: OWN }).catch(tell);
            }}
          >
            {data?.map((one) => (
              <option key={one.name}>{one.name}</option>
            ))}
            <option value={OWN}>another</option>
          </select>
        </label>
        <span className={css.pair}>
          g/cm³ <TypedField label="Density" value={String(material.density)} width={54} commit={typed("density")} />
        </span>
        <span className={css.pair}>
          strand <TypedField label="Strand, mm" value={String(material.strand_mm)} width={54} commit={typed("strand_mm")} />
        </span>
      </div>
      {!known && (
        <div className={css.row}>
          <span>called</span>
          <TypedField words label="Name of the material" value={material.name!} width={150} commit={(name) => change({ name: name.trim() })} />
        </div>
      )}
      <div className={css.row}>
        <label className={css.pair}>
          <input type="checkbox" aria-label="allow for its shrinkage" checked={follows} onChange={(event) => void follow(event.target.checked).catch(tell)} />
          allow for its shrinkage, %
        </label>
        <span className={css.pair}>
          {shrinkage.map((percent, i) => (
            <TypedField
              key={AXES[i]}
              label={`Usual shrinkage along ${AXES[i]}`}
              value={percent}
              width={44}
              commit={(text) => change({}, shrinkage.map((one, k) => (k === i ? text : one)) as Three)}
            />
          ))}
        </span>
      </div>
    </>
  );
}
