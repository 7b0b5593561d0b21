import { Fold } from "../../../blocks/Fold";
import { rounded } from "../../../blocks/numbers";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Division.module.css";
import { Asking } from "../PlaneTable";
import { Do, LengthRow, Row, Rows, useShaping, useTyped, type Way } from "./parts";

/** A hollow with a wall, and drains: where they were picked, else at the lowest places as it is seated. */
export function Hollow(props: Way) {
  const shape = useShaping(props);
  const { meant, mean, taking } = props.dividing;
  const [wall, setWall] = useTyped("2");
  const [drains, setDrains] = useTyped("4");
  const sizes = drains.split(/[;\s]+/).filter(Boolean);
  // Each place that was picked has a drain of its own, the last of what was typed for those that are left.
  const all = Array.from({ length: Math.max(sizes.length, sizes.length && meant.drains.length) }, (_, i) => sizes[i] ?? sizes.at(-1)!);
  return (
    <Fold title="Hollow" name="division-hollow" says="a wall, and drains">
      <Rows>
        <LengthRow says="wall" label="Hollow wall" value={wall} put={setWall} />
        <Row says="drains, across">
          <TypedField label="Drains" value={drains} placeholder="none" width={90} commit={setDrains} /> mm
        </Row>
        <Row says="their mouths">
          <Asking dividing={props.dividing} want="drain" says={meant.drains.length ? "Pick another" : "Pick them in the bench"} leave="Enough picked" />
        </Row>
      </Rows>
      {meant.drains.map((place, i) => (
        <div key={i} className={css.line}>
          <span className="number">{place.map((one) => rounded(one, 1)).join(", ")}</span>
          <button type="button" className="link" aria-label={`Remove drain ${i + 1}`} onClick={() => mean({ drains: meant.drains.filter((_, k) => k !== i) })}>
            ×
          </button>
        </div>
      ))}
      <Do
        says="Hollow it"
        off={props.busy || !wall}
        act={() => {
          taking.ask(null);
          void shape({ by: "hollow", wall, drains: all, places: meant.drains, down: [0, 0, -1] });
        }}
      >
        <span className="soft">{meant.drains.length ? "" : "at the lowest places as it is seated; several: 4; 3"}</span>
      </Do>
    </Fold>
  );
}
