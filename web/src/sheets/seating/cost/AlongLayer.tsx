import { Slider } from "@mantine/core";
import type { Layering } from "../useSeating";
import css from "./cost.module.css";

/** Goes along the way through a layer, by its time. */
export function AlongLayer({ layering: { paths, along, goAlong } }: { layering: Layering }) {
  if (!paths) return null;
  return (
    <div className={css.along}>
      <span>{along >= 1 ? "all of the layer" : `${Math.round(100 * along)} % of ${paths.says}`}</span>
      <Slider
        min={0}
        max={1}
        step={0.005}
        label={null}
        size="xs"
        value={along}
        thumbLabel="How far along the layer"
        thumbProps={{ "aria-valuetext": `${Math.round(100 * along)} % of the layer` }}
        onChange={goAlong}
      />
    </div>
  );
}
