import type { Meant, Changes } from "../useDivision";
import { Fold } from "../../../blocks/Fold";
import type { Vec3 } from "../../../api/types";
import { Press } from "../../../blocks/Press";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Division.module.css";
import { placeIn } from "../places";
import { Asking } from "../PlaneTable";
import { Do, LengthRow, Row, Rows, useShaping, useTyped, type Way, busyOr } from "./parts";

/** A hollow with a wall, and drains: where they were picked, else at the lowest places as it is seated. */
export function Hollow(props: Way) {
  const shape = useShaping(props);
  const { meant, mean, taking } = props.dividing;
  const [wall, setWall] = useTyped("2");
  const [drains, setDrains] = useTyped("4");
  return (
    <Fold title="Hollow" name="division-hollow" says="a wall, and drains">
      <WallRow
        wall={wall}
        setWall={setWall}
        drains={drains}
        setDrains={setDrains}
        props={props}
        meant={meant}
        mean={mean}
      />
      {meant.drains.map((place, i) => (
        <div key={i} className={css.line}>
          <TypedField
            label={`Mouth of drain ${i + 1}: X, Y and Z`}
            value={place.map((one) => String(one)).join(", ")}
            width={210}
            commit={async (text) => {
              const mouth = placeIn(text);
              mean((now) => ({ drains: now.drains.map((drain, k) => (k === i ? mouth : drain)) }));
            }}
          />
          <Press
            className="link"
            aria-label={`Remove drain ${i + 1}`}
            onClick={() => mean((now) => ({ drains: now.drains.filter((_, k) => k !== i) }))}
          >
            ×
          </Press>
        </div>
      ))}
      <Do
        says="Hollow it"
        why={busyOr(props.busy, !wall && "type the wall that is to stay")}
        act={() => {
          taking.ask(null);
          return shape({ by: "hollow", wall, drains: [drains], places: meant.drains, down: [0, 0, -1] });
        }}
      >
        <span className="soft">{meant.drains.length ? "" : "at the lowest places as it is seated; several: 4; 3"}</span>
      </Do>
    </Fold>
  );
}

interface WallRowProps {
  wall: string;
  setWall: (typed: string) => Promise<unknown>;
  drains: string;
  setDrains: (typed: string) => Promise<unknown>;
  props: Way;
  meant: Meant;
  mean: (change: Changes<Meant>) => void;
}

/** The wall that is left. */
function WallRow({ wall, setWall, drains, setDrains, props, meant, mean }: WallRowProps) {
  return (
    <Rows>
      <LengthRow says="wall" label="Hollow wall" value={wall} put={setWall} />
      <Row says="drains, across">
        <TypedField label="Drains" value={drains} placeholder="none" width={90} commit={setDrains} /> mm
      </Row>
      <Row says="their mouths">
        <Asking
          dividing={props.dividing}
          want="drain"
          says={meant.drains.length ? "Pick another" : "Pick them in the bench"}
          leave="Enough picked"
        />
        <Press className="link" onClick={() => mean((now) => ({ drains: [...now.drains, lowest(props)] }))}>
          type one
        </Press>
      </Row>
    </Rows>
  );
}

/** Under the middle of the body, to be typed over. */
function lowest({ dividing: { prospect } }: Way): Vec3 {
  const [low, high] = [prospect?.low ?? [0, 0, 0], prospect?.high ?? [0, 0, 0]];
  return [0, 1, 2].map((i) => Number((i === 2 ? low[i]! : (low[i]! + high[i]!) / 2).toFixed(2))) as Vec3;
}
