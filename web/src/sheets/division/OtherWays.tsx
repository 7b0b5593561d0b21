import { useState } from "react";
import { api } from "../../api/client";
import type { Asked, Axis } from "../../api/types";
import { tell, type JobHandle } from "../../api/useJob";
import { Choice, Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { rounded } from "../../blocks/numbers";
import { TypedField } from "../../blocks/TypedField";
import css from "./Division.module.css";
import type { Dividing } from "./useDivision";

const AXES = [
  ["x", "X"],
  ["y", "Y"],
  ["z", "Z"],
] as const;
const SOLIDS = [
  ["join", "join with"],
  ["cut", "cut away"],
  ["common", "keep what is in"],
] as const;

interface Props {
  handle: JobHandle;
  dividing: Dividing;
  busy: boolean;
}

/** What else a body can be made into: a trial, two colours, a hollow one, one with another. */
export function OtherWays(props: Props) {
  return (
    <>
      <Trial {...props} />
      <TwoColours {...props} />
      <Hollow {...props} />
      <Solids {...props} />
    </>
  );
}

function useShaping({ handle, dividing }: Props) {
  const { view } = handle;
  return (asked: Asked, ...others: string[]) => void handle.change((on) => api.work(view.id, on, { do: "shape", bodies: [dividing.body.id, ...others], instead: "", asked })).catch(tell);
}

/** A text that a field holds until it is used. */
function useTyped(first: string) {
  const [text, put] = useState(first);
  return [text, async (typed: string) => put(typed.trim())] as const;
}

function Trial(props: Props) {
  const shape = useShaping(props);
  const [axis, along] = useState<Axis>("z");
  const [low, setLow] = useTyped("");
  const [high, setHigh] = useTyped("");
  const [wall, setWall] = useTyped("");
  const { view } = props.handle;
  const readings = (view.job.readings ?? []).filter((one) => one.body === props.dividing.body.id && !one.lost);
  const around = async (key: string) => {
    const found = await api.around(view.id, key).catch(tell);
    if (!found) return;
    along(found.axis);
    await Promise.all([setLow(found.low), setHigh(found.high)]);
  };
  const made = (view.job.divisions ?? []).filter((one) => !one.replaces && one.wholes[0] === props.dividing.body.id);
  return (
    <Fold title="Trial" name="division-trial" says={made.length ? `${made.length} made` : "a slice to print first and try on"}>
      {made.map((one) => (
        <div key={one.id} className={css.line}>
          <b>{view.job.bodies.find((body) => body.division === one.id)?.name ?? "trial"}</b>
          {one.shaping.by === "slice" && (
            <span className="number">
              {one.shaping.axis.toUpperCase()} {rounded(one.shaping.low, 2)} to {rounded(one.shaping.high, 2)}
            </span>
          )}
          <button type="button" className="link" onClick={() => void props.handle.act({ do: "undivide", division: one.id }).catch(tell)}>
            Take it away
          </button>
        </div>
      ))}
      <dl className={css.fields}>
        <dt>across</dt>
        <dd>
          <Segments label="Axis of the trial" value={axis} options={AXES} choose={(one) => along(one as Axis)} width={120} />
        </dd>
        <dt>from, to</dt>
        <dd>
          <TypedField label="Trial from" value={low} width={70} commit={setLow} />
          <TypedField label="Trial to" value={high} width={70} commit={setHigh} /> mm
        </dd>
        <dt>wall thinned to</dt>
        <dd>
          <TypedField label="Trial wall" value={wall} placeholder="solid" width={70} commit={setWall} /> mm
        </dd>
      </dl>
      {readings.length > 0 && (
        <div className={css.line}>
          <span className="soft">around</span>
          {readings.map((one) => (
            <button key={one.id} type="button" className="link" onClick={() => void around(one.id)}>
              {one.name || one.typed}
            </button>
          ))}
        </div>
      )}
      <div className={css.line}>
        <button type="button" className={css.button} disabled={props.busy || !low || !high} onClick={() => shape({ by: "slice", axis, low, high, wall })}>
          Make the trial
        </button>
      </div>
    </Fold>
  );
}

function TwoColours(props: Props) {
  const shape = useShaping(props);
  const [axis, along] = useState<Axis>("z");
  const [at, setAt] = useTyped("");
  const [depth, setDepth] = useTyped("");
  const [size, setSize] = useTyped("");
  const [x, setX] = useTyped("0");
  const [y, setY] = useTyped("0");
  const [drawing, setDrawing] = useState<{ name: string; text: string } | null>(null);
  const read = (file: File | undefined) => file && void file.text().then((text) => setDrawing({ name: file.name, text }));
  return (
    <Fold title="Two colours from one solid" name="division-two" says="by height, or by a drawing">
      <dl className={css.fields}>
        <dt>along</dt>
        <dd>
          <Segments label="Axis of the split" value={axis} options={AXES} choose={(one) => along(one as Axis)} width={120} />
        </dd>
        <dt>all above</dt>
        <dd>
          <TypedField label="Split at" value={at} width={70} commit={setAt} /> mm
        </dd>
        <dt>so deep only</dt>
        <dd>
          <TypedField label="Split depth" value={depth} placeholder="through" width={70} commit={setDepth} /> mm
        </dd>
      </dl>
      <div className={css.line}>
        <button type="button" className={css.button} disabled={props.busy || !at} onClick={() => shape({ by: "height", axis, at, depth })}>
          Split by height
        </button>
      </div>
      <dl className={css.fields}>
        <dt>outline</dt>
        <dd>
          <label className="link">
            {drawing?.name ?? "Choose an SVG or DXF"}
            <input type="file" accept=".svg,.dxf" hidden aria-label="Outline" onChange={(event) => read(event.target.files?.[0])} />
          </label>
        </dd>
        <dt>as wide as</dt>
        <dd>
          <TypedField label="Outline width" value={size} placeholder="as drawn" width={76} commit={setSize} /> mm
        </dd>
        <dt>moved by</dt>
        <dd>
          <TypedField label="Outline moved along the first axis" value={x} width={60} commit={setX} />
          <TypedField label="Outline moved along the second axis" value={y} width={60} commit={setY} /> mm
        </dd>
      </dl>
      <div className={css.line}>
        <button type="button" className={css.button} disabled={props.busy || !drawing} onClick={() => shape({ by: "outline", axis, drawing: drawing!.text, name: drawing!.name, size, move: [x || "0", y || "0"], depth, unit: null })}>
          Split by the outline
        </button>
      </div>
    </Fold>
  );
}

function Hollow(props: Props) {
  const shape = useShaping(props);
  const [wall, setWall] = useTyped("2");
  const [drains, setDrains] = useTyped("4");
  return (
    <Fold title="Hollow" name="division-hollow" says="a wall, and drains at the lowest places">
      <dl className={css.fields}>
        <dt>wall</dt>
        <dd>
          <TypedField label="Hollow wall" value={wall} width={70} commit={setWall} /> mm
        </dd>
        <dt>drains, across</dt>
        <dd>
          <TypedField label="Drains" value={drains} placeholder="none" width={90} commit={setDrains} /> mm
        </dd>
      </dl>
      <div className={css.line}>
        <button type="button" className={css.button} disabled={props.busy || !wall} onClick={() => shape({ by: "hollow", wall, drains: drains.split(/[;\s]+/).filter(Boolean) })}>
          Hollow it
        </button>
        <span className="soft">several drains: 4; 3</span>
      </div>
    </Fold>
  );
}

function Solids(props: Props) {
  const shape = useShaping(props);
  const { view } = props.handle;
  const others = view.job.bodies.filter((one) => one.id !== props.dividing.body.id && one.health.closed);
  const [how, choose] = useState<(typeof SOLIDS)[number][0]>("join");
  const [other, take] = useState("");
  if (!others.length) return null;
  const chosen = others.find((one) => one.id === other) ?? others[0]!;
  return (
    <Fold title="With another body" name="division-solids" says="joined, cut, or in common">
      <div className={css.line}>
        <Segments label="How" value={how} options={SOLIDS} choose={choose} width="100%" />
      </div>
      <div className={css.line}>
        <Choice label="The other body" value={chosen.id} options={others.map((one) => [one.id, one.name] as const)} choose={take} width={200} />
        <button type="button" className={css.button} disabled={props.busy} onClick={() => shape({ by: "solids", how }, chosen.id)}>
          Do it
        </button>
      </div>
    </Fold>
  );
}
