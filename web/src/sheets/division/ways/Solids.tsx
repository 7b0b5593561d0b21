import { useState } from "react";
import { Choice, Segments } from "../../../blocks/Choice";
import { Fold } from "../../../blocks/Fold";
import { Press } from "../../../blocks/Press";
import css from "../Division.module.css";
import { useShaping, type Way, busyOr } from "./parts";

const SOLIDS = [
  ["join", "join with"],
  ["cut", "cut away"],
  ["common", "keep in"],
  ["split", "split by"],
] as const;

/** A body with another: joined, cut, what they have in common, or split by it. */
export function Solids(props: Way) {
  const shape = useShaping(props);
  const { view } = props.handle;
  const others = view.job.bodies.filter((body) => body.id !== props.dividing.body.id && body.health.closed);
  const [how, choose] = useState<(typeof SOLIDS)[number][0]>("join");
  const [other, take] = useState("");
  if (!others.length) return null;
  const chosen = others.find((body) => body.id === other) ?? others[0]!;
  return (
    <Fold title="With another body" name="division-solids" says="joined, cut, in common, or split">
      <div className={css.line}>
        <Segments label="How" value={how} options={SOLIDS} choose={choose} width="100%" />
      </div>
      <div className={css.line}>
        <Choice
          label="The other body"
          value={chosen.id}
          options={others.map((body) => [body.id, body.name] as const)}
          choose={take}
          width={200}
        />
        <Press look="box" why={busyOr(props.busy)} onClick={() => shape({ by: "solids", how }, chosen.id)}>
          Do it
        </Press>
      </div>
    </Fold>
  );
}
