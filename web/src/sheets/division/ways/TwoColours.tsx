import type { Changes, Meant } from "../useDivision";
import { Checkbox, FileButton } from "@mantine/core";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Vec3, AskInside, Axis } from "../../../api/types";
import { Choice } from "../../../blocks/Choice";
import { Fold } from "../../../blocks/Fold";
import { Press } from "../../../blocks/Press";
import { count } from "../../../blocks/numbers";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Division.module.css";
import { Asking, Faces } from "../PlaneTable";
import { AxisRow, Do, LengthRow, Row, Rows, useShaping, useTyped, type Way, busyOr } from "./parts";

const UNITS = [
  ["told", "as it says"],
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["in", "inches"],
] as const;

/** Two bodies of one: by height, by faces that are raised or sunk, or by the outlines of a drawing. */
export function TwoColours(props: Way) {
  return (
    <Fold title="Two colours from one solid" name="division-two" says="by height, faces, or a drawing">
      <ByHeight {...props} />
      <ByFaces {...props} />
      <ByDrawing {...props} />
    </Fold>
  );
}

function ByHeight(props: Way) {
  const shape = useShaping(props);
  const [axis, along] = useState<Axis>("z");
  const [at, setAt] = useTyped("");
  const [depth, setDepth] = useTyped("");
  return (
    <>
      <Rows>
        <AxisRow says="by height, along" label="Axis of the split" value={axis} choose={along} />
        <LengthRow says="all above" label="Split at" value={at} put={setAt} />
        <LengthRow says="so deep only" label="Split depth" value={depth} placeholder="through" put={setDepth} />
      </Rows>
      <Do
        says="Split by height"
        why={busyOr(props.busy, !at && "type the height")}
        act={() => shape({ by: "height", axis, at, depth })}
      />
    </>
  );
}

function ByFaces(props: Way) {
  const shape = useShaping(props);
  const { meant, mean, taking } = props.dividing;
  const [alike, all] = useState(true);
  const [depth, setDepth] = useTyped("");
  const { marks } = meant;
  const picks = marks.map(({ face }) => ({ face, point: [0, 0, 0] as [number, number, number] }));
  return (
    <>
      <FacesAndDepth props={props} marks={marks} mean={mean} depth={depth} setDepth={setDepth} />
      {taking.want === "marks" && (
        <Faces
          view={props.handle.view}
          dividing={props.dividing}
          label="Faces that are raised or sunk"
          hint="Click them in the bench, or choose them here."
          pressed={marks.map((mark) => mark.face)}
          take={(face) =>
            mean({
              marks: marks.some((mark) => mark.face === face)
                ? marks.filter((mark) => mark.face !== face)
                : [...marks, { face, at: null }],
            })
          }
        />
      )}
      <div className={css.line}>
        <Checkbox
          label="all alike in the same plane at once"
          checked={alike}
          onChange={(event) => all(event.currentTarget.checked)}
        />
      </div>
      <Do
        says="Split by the faces"
        why={busyOr(props.busy, !marks.length && "pick a face that is raised or sunk")}
        act={() => {
          taking.ask(null);
          return shape({ by: "faces", picks, alike, depth, geometry: "" });
        }}
      />
    </>
  );
}

interface FacesAndDepthProps {
  props: Way;
  marks: { face: number; at: Vec3 | null }[];
  mean: (change: Changes<Meant>) => void;
  depth: string;
  setDepth: (typed: string) => Promise<unknown>;
}

/** Which faces are raised or sunk, and how far the second colour goes under them. */
function FacesAndDepth({ props, marks, mean, depth, setDepth }: FacesAndDepthProps) {
  return (
    <Rows>
      <Row says="by raised or sunk faces">
        <Asking
          dividing={props.dividing}
          want="marks"
          says={marks.length ? `${count(marks.length)} picked; pick more` : "Pick them in the bench"}
          leave="Enough picked"
        />
        {marks.length > 0 && (
          <Press className="link" onClick={() => mean({ marks: [] })}>
            none
          </Press>
        )}
      </Row>
      <LengthRow
        says="and so far under them"
        label="Depth under the faces"
        value={depth}
        placeholder="not"
        put={setDepth}
      />
    </Rows>
  );
}

/** The drawing that is read; a press chooses another. */
function DrawingFile({ name, read }: { name: string | undefined; read: (file: File | null) => unknown }) {
  return (
    <FileButton accept=".svg,.dxf" inputProps={{ "aria-label": "Outline" }} onChange={(file) => void read(file)}>
      {({ onClick }) => (
        <Press className="link" onClick={onClick}>
          {name ?? "Choose an SVG or DXF"}
        </Press>
      )}
    </FileButton>
  );
}

function ByDrawing(props: Way) {
  const shape = useShaping(props);
  const [axis, along] = useState<Axis>("z");
  const [depth, setDepth] = useTyped("");
  const [size, setSize] = useTyped("");
  const [x, setX] = useTyped("0");
  const [y, setY] = useTyped("0");
  const [unit, setUnit] = useState<(typeof UNITS)[number][0]>("told");
  const [drawing, setDrawing] = useState<{ name: string; text: string } | null>(null);
  const read = (file: File | null) => file && void file.text().then((text) => setDrawing({ name: file.name, text }));
  const asked = useMemo(
    (): AskInside | null =>
      drawing && {
        by: "outline",
        axis,
        drawing: drawing.text,
        name: drawing.name,
        size,
        move: [x || "0", y || "0"],
        depth,
        unit: unit === "told" ? null : unit,
      },
    [drawing, axis, size, x, y, depth, unit],
  );
  // Drawn on the body while it is thought of.
  const see = useRef(props.dividing.mean);
  see.current = props.dividing.mean;
  useEffect(() => see.current({ outline: asked }), [asked]);
  useEffect(() => () => see.current({ outline: null }), []);
  return (
    <>
      <Rows>
        <Row says="by an outline">
          <DrawingFile name={drawing?.name} read={read} />
        </Row>
        <Row says="drawn in">
          <Choice label="Unit of the outline" value={unit} options={UNITS} choose={setUnit} width={132} />
        </Row>
        <AxisRow says="seen along" label="Axis of the outline" value={axis} choose={along} />
        <LengthRow says="as wide as" label="Outline width" value={size} placeholder="as drawn" put={setSize} />
        <Row says="moved by">
          <TypedField label="Outline moved along the first axis" value={x} width={60} commit={setX} />
          <TypedField label="Outline moved along the second axis" value={y} width={60} commit={setY} /> mm
        </Row>
        <LengthRow says="so deep only" label="Outline depth" value={depth} placeholder="through" put={setDepth} />
      </Rows>
      {drawing && props.dividing.misplaced && (
        <p className={css.problem} role="alert">
          {props.dividing.misplaced.line}
        </p>
      )}
      <Do
        says="Split by the outline"
        why={busyOr(props.busy, !drawing && "choose a drawing first")}
        act={() => shape(asked!)}
      />
    </>
  );
}
