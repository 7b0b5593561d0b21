import type { JobView, LayerPaths, Layers } from "../../api/types";
import { Checkbox, Slider } from "@mantine/core";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { Press } from "../../blocks/Press";
import { count, rounded } from "../../blocks/numbers";
import { typedNumber } from "../../blocks/typed";
import { TypedField } from "../../blocks/TypedField";
import { usePlateCost } from "./cost/costOf";
import css from "./Seating.module.css";
import type { Layering } from "./useSeating";

const HIGH = 44;

interface Props {
  layering: Layering;
  view: JobView;
  plate: string;
  /** Resin has no paths. */
  resin: boolean;
}

/** The area of the layers over their height, at the foot of the bench; dragging along it scrubs the layers. */
export function LayerFoot({ layering, view, plate, resin }: Props) {
  const cost = usePlateCost(view, plate);
  const { layers, layer, toLayer, asPaths } = layering;
  // Along its paths a plate has a time for each layer; then that is the curve.
  const seconds = asPaths ? cost?.full?.layer_seconds : undefined;
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(480);
  useEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const count_ = layers?.heights.length ?? 0;
  const top = count_ ? layers!.heights[count_ - 1]! + layers!.layer_mm / 2 : 1;
  const curve = useMemo(() => {
    if (!layers) return "";
    const values = seconds?.length === layers.heights.length ? seconds : layers.areas;
    const most = Math.max(1e-9, ...values);
    const points = layers.heights.map(
      (height, i) => `${((height / top) * width).toFixed(1)} ${(HIGH + 6 - (values[i]! / most) * HIGH).toFixed(1)}`,
    );
    return `M0 ${HIGH + 6}L${points.join("L")}L${width} ${HIGH + 6}Z`;
  }, [layers, seconds, top, width]);
  const at = layer === null ? null : layer - 1;
  const typed = async (text: string) => {
    const value = typedNumber(text, "mm");
    const number = /mm\s*$/.test(text) || !Number.isInteger(value) ? Math.round(value / layers!.layer_mm + 0.5) : value;
    toLayer(Math.max(1, Math.min(count_, Math.round(number))));
  };
  const step = niceStep(top);
  return (
    <section className={css.foot} aria-label="Layers">
      <LayerHead {...{ layers, at, layer, count_, typed, toLayer }} paths={layering.paths} timed={!!seconds}>
        {!resin && <AsPaths layering={layering} />}
      </LayerHead>
      <div ref={box} className={css.curve}>
        {layers && count_ > 0 && (
          <AreaByLayer
            width={width}
            curve={curve}
            top={top}
            step={step}
            at={at}
            layers={layers}
            count_={count_}
            layer={layer}
            toLayer={toLayer}
          />
        )}
      </div>
    </section>
  );
}

/** Whether layers are drawn as the paths that make them; from the whole it goes to the first layer. */
function AsPaths({ layering: { asPaths, drawPaths, layer, toLayer } }: { layering: Layering }) {
  const draw = (on: boolean) => {
    drawPaths(on);
    if (on && layer === null) toLayer(1);
  };
  return <Checkbox label="as paths" checked={asPaths} onChange={(event) => draw(event.currentTarget.checked)} />;
}

interface LayerHeadProps {
  layers: Layers | undefined;
  at: number | null;
  layer: number | null;
  count_: number;
  typed: (text: string) => Promise<unknown>;
  toLayer: (layer: number | null) => void;
  paths: LayerPaths | undefined;
  /** Whether the curve is of times. */
  timed: boolean;
  children: ReactNode;
}

/** Which layer is looked at, by number or height. */
function LayerHead({ layers, at, layer, count_, typed, toLayer, paths, timed, children }: LayerHeadProps) {
  return (
    <div className={css.footHead}>
      <span>
        {!(layers && at !== null) && (timed ? "time of each layer" : "area of the layers, mm²")}
        {layers && at !== null && (
          <span className="number" data-testid="layer">
            layer {layer} of {count_} · {rounded(layers.heights[at]!, 2)} mm ·{" "}
            {paths
              ? paths.says
              : `${count(Math.round(layers.areas[at]!))} mm² · ${layers.islands[at]} ${layers.islands[at] === 1 ? "island" : "islands"}, ${count(Math.round(layers.outlines[at]!))} mm around`}
          </span>
        )}
      </span>
      {children}
      {layers && (
        <TypedField
          label="Layer, by number or height"
          value={layer === null ? "" : String(layer)}
          placeholder="layer"
          width={52}
          commit={typed}
        />
      )}
      <Press className="link" onClick={() => toLayer(1)}>
        first
      </Press>
      <Press className="link" why={layer === null && "the whole is shown already"} onClick={() => toLayer(null)}>
        whole
      </Press>
    </div>
  );
}

interface AreaByLayerProps {
  width: number;
  curve: string;
  top: number;
  step: number;
  at: number | null;
  layers: Layers;
  count_: number;
  layer: number | null;
  toLayer: (layer: number | null) => void;
}

/** The curve of the areas over the layers, to be scrubbed along. */
function AreaByLayer({ width, curve, top, step, at, layers, count_, layer, toLayer }: AreaByLayerProps) {
  return (
    <>
      <svg width={width} height={HIGH + 24} aria-hidden>
        <path d={curve} fill="var(--section)" stroke="var(--ink)" strokeWidth="1.2" strokeLinejoin="round" />
        {Array.from({ length: Math.floor(top / step) + 1 }, (_, i) => i * step).map((height) => (
          <g key={height}>
            <path d={`M${(height / top) * width} ${HIGH + 6}v4`} stroke="var(--rule-strong)" />
            <text className={css.tick} x={Math.min(width - 10, Math.max(6, (height / top) * width))} y={HIGH + 22}>
              {height}
            </text>
          </g>
        ))}
        {at !== null && (
          <path d={`M${(layers.heights[at]! / top) * width} 0V${HIGH + 10}`} stroke="var(--stop)" strokeWidth="2" />
        )}
      </svg>
      <Slider
        min={1}
        max={count_}
        value={layer ?? count_}
        classNames={{ root: css.scrub, trackContainer: css.scrubTrack }}
        thumbLabel="Layer"
        thumbProps={{
          "aria-valuetext":
            at === null ? "whole" : `layer ${layer} of ${count_}, ${rounded(layers.heights[at]!, 2)} mm`,
        }}
        onChange={toLayer}
      />
    </>
  );
}

function niceStep(top: number): number {
  const rough = top / 6;
  const power = 10 ** Math.floor(Math.log10(rough));
  return [1, 2, 5, 10].map((one) => one * power).find((one) => one >= rough) ?? rough;
}
