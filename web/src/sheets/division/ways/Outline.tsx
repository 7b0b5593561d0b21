import { useState } from "react";
import { api } from "../../../api/client";
import type { Axis, TrueOutline } from "../../../api/types";
import { tell } from "../../../api/useJob";
import { Fold } from "../../../blocks/Fold";
import { count, rounded } from "../../../blocks/numbers";
import css from "../Division.module.css";
import { AxisRow, Do, LengthRow, Rows, useTyped, type Way } from "./parts";

/** A flat outline of the body, of true size: the section on a plane, or the silhouette; nothing is made of it. */
export function Outline({ handle, dividing }: Way) {
  const { view } = handle;
  const { body } = dividing;
  const [axis, along] = useState<Axis>("z");
  const [at, setAt] = useTyped("");
  const [made, show] = useState<{ of: string; outline: TrueOutline } | null>(null);
  const draw = async () => {
    const outline = await api.outline(view.id, body.id, axis, at).catch(tell);
    if (outline) show({ of: body.id, outline });
  };
  const outline = made?.of === body.id ? made.outline : null;
  const name =
    `${body.name}_${outline ? (outline.at_mm === null ? `silhouette-${outline.axis}` : `${outline.axis}-${rounded(outline.at_mm, 2)}`) : ""}`.replace(
      /[^\w.-]+/g,
      "-",
    );
  return (
    <Fold title="Flat outline" name="division-outline" says="a section or silhouette, as DXF or SVG in mm">
      <Rows>
        <AxisRow says="across" label="Axis of the outline drawn" value={axis} choose={along} />
        <LengthRow says="at" label="Outline at" value={at} placeholder="silhouette" put={setAt} />
      </Rows>
      <Do says="Draw it" why={false} act={() => void draw()}>
        {outline && (
          <>
            <Taken text={outline.dxf} name={`${name}.dxf`} type="image/vnd.dxf" says="Download the DXF" />
            <Taken text={outline.svg} name={`${name}.svg`} type="image/svg+xml" says="Download the SVG" />
          </>
        )}
      </Do>
      {outline && (
        <>
          <img
            className={css.outline}
            alt={`Outline of ${body.name}`}
            src={`data:image/svg+xml,${encodeURIComponent(outline.svg.replace('stroke-width="0.1"', 'stroke-width="0.6"'))}`}
          />
          <p className={css.lead}>
            <b className="number">{count(Math.round(outline.area_mm2))}</b> mm² within{" "}
            <b className="number">{rounded(outline.outline_mm, 2)}</b> mm of outline, {outline.islands}{" "}
            {outline.islands === 1 ? "island" : "islands"}
            {outline.holes ? `, ${outline.holes} ${outline.holes === 1 ? "hole" : "holes"}` : ""};{" "}
            {outline.arcs ? `${outline.arcs} arcs as the CAD has them` : "straight from corner to corner"}
          </p>
        </>
      )}
    </Fold>
  );
}

function Taken({ text, name, type, says }: { text: string; name: string; type: string; says: string }) {
  return (
    <a className="link" download={name} href={`data:${type};charset=utf-8,${encodeURIComponent(text)}`}>
      {says}
    </a>
  );
}
