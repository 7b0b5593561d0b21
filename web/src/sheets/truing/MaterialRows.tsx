import type { Material } from "../../api/types";
import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import { Choice } from "../../blocks/Choice";
import { TypedField } from "../../blocks/TypedField";
import css from "./TruingSheet.module.css";

export type Three = [string, string, string];

/** Takes another material, or changes figures of it: as values, or as they were typed. */
type ChangeMaterial = (
  update: Partial<Material>,
  typed?: {
    shrinkage?: [string | null, string | null, string | null];
    density?: string;
    strand?: string;
    sure?: boolean;
  },
) => Promise<unknown>;

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
  const change: ChangeMaterial = (update, typed = {}) =>
    handle.act((view) => ({
      do: "choose-material",
      material: { ...view.job.material!, ...update },
      shrinkage: null,
      density: null,
      strand: null,
      sure: false,
      ...typed,
    }));
  const known = data?.find((one) => one.name === material.name);
  return (
    <>
      <MaterialChoice known={known} data={data} change={change} material={material} />
      {!known && (
        <div className={css.row}>
          <span>called</span>
          <TypedField
            words
            label="Name of the material"
            value={material.name!}
            width={150}
            commit={(name) => change({ name: name.trim() })}
          />
        </div>
      )}
      <UsualValues follows={follows} follow={follow} shrinkage={shrinkage} change={change} />
    </>
  );
}

interface MaterialChoiceProps {
  known: Material | undefined;
  data: Material[] | undefined;
  change: ChangeMaterial;
  material: Material;
}

/** What it is made of, how dense that is, and as which strand. */
function MaterialChoice({ known, data, change, material }: MaterialChoiceProps) {
  return (
    <div className={css.row}>
      <span className={css.pair}>
        material
        <Choice
          label="Material"
          width={104}
          value={known ? known.name! : OWN}
          options={[...(data ?? []).map((one) => [one.name!, one.name!] as const), [OWN, "another"] as const]}
          choose={(name) => void change(data?.find((one) => one.name === name) ?? { name: OWN }).catch(tell)}
        />
      </span>
      <span className={css.pair}>
        g/cm³{" "}
        <TypedField
          label="Density"
          value={String(material.density)}
          width={54}
          commit={(density) => change({}, { density })}
        />
      </span>
      <span className={css.pair}>
        strand{" "}
        <TypedField
          label="Strand, mm"
          value={String(material.strand_mm)}
          width={54}
          commit={(strand) => change({}, { strand })}
        />
      </span>
    </div>
  );
}

interface UsualValuesProps {
  follows: boolean;
  follow: (on: boolean) => Promise<unknown>;
  shrinkage: Three;
  change: ChangeMaterial;
}

/** The usual values of a material, which may be typed over. */
function UsualValues({ follows, follow, shrinkage, change }: UsualValuesProps) {
  return (
    <div className={css.row}>
      <Checkbox
        label="allow for its shrinkage, %"
        aria-label="allow for its shrinkage"
        checked={follows}
        onChange={(event) => void follow(event.target.checked).catch(tell)}
      />
      <span className={css.pair}>
        {shrinkage.map((percent, i) => (
          <TypedField
            key={AXES[i]}
            label={`Usual shrinkage along ${AXES[i]}`}
            value={percent}
            width={44}
            commit={(text, sure) =>
              change(
                {},
                {
                  sure,
                  shrinkage: [0, 1, 2].map((k) => (k === i ? text : null)) as [
                    string | null,
                    string | null,
                    string | null,
                  ],
                },
              )
            }
          />
        ))}
      </span>
    </div>
  );
}
