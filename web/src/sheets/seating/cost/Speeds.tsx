import type { JobHandle } from "../../../api/useJob";
import type { Estimate } from "../../../api/types";
import { Fold } from "../../../blocks/Fold";
import { TypedField } from "../../../blocks/TypedField";
import type { Seating } from "../useSeating";
import css from "./cost.module.css";

const MOTION: readonly (readonly [string, string, string])[] = [
  ["outline", "outline", "mm/s"],
  ["shell", "shells", "mm/s"],
  ["solid", "solid", "mm/s"],
  ["infill", "infill", "mm/s"],
  ["support", "support", "mm/s"],
  ["first", "first layer", "mm/s"],
  ["travel", "travel", "mm/s"],
  ["acceleration", "speeds up by", "mm/s²"],
  ["layer_change_s", "next layer", "s"],
  ["heating_s", "heating", "s"],
  ["watts", "draws", "W"],
];
const CURING: readonly (readonly [string, string, string])[] = [
  ["exposure_s", "exposure", "s"],
  ["first_exposure_s", "first ones", "s"],
  ["first_layers", "first layers", ""],
  ["lift_s", "lift", "s"],
  ["wait_s", "wait", "s"],
  ["watts", "draws", "W"],
];

interface Props {
  handle: JobHandle;
  seating: Seating;
  /** Says whether the machine's own speeds are known. */
  estimate: Estimate | undefined;
}

/** How fast the machine of a plate works; what nobody has typed is taken to start with, and said so. */
export function Speeds({ handle, seating, estimate }: Props) {
  const { process, name } = seating.plate.machine;
  const resin = process?.kind === "resin";
  const known = (resin ? process?.curing : process?.motion) as Record<string, number> | null | undefined;
  const says = estimate?.assumed
    ? "not known; taken to start with"
    : resin
      ? "for each layer"
      : `${known?.outline} mm/s outline`;
  return (
    <Fold title={`Speeds of ${name}`} name="seating-speeds" says={says}>
      <dl className={css.settings}>
        {(resin ? CURING : MOTION).map(([speed, label, unit]) => (
          <div key={speed} className={css.pair}>
            <dt>{label}</dt>
            <dd>
              <TypedField
                label={`Speed: ${label}`}
                value={known ? String(known[speed]) : ""}
                placeholder="to start with"
                width={58}
                commit={(typed) => handle.act({ do: "set-speed", plate: seating.plate.id, speed, typed })}
              />
              <span className="soft">{unit}</span>
            </dd>
          </div>
        ))}
      </dl>
    </Fold>
  );
}
