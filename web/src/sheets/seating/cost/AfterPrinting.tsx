import { useState } from "react";
import { tell, type JobHandle } from "../../../api/useJob";
import type { PlateCost } from "../../../api/types";
import { Fold } from "../../../blocks/Fold";
import { Press } from "../../../blocks/Press";
import { sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import { sentence } from "../../../blocks/words";
import type { Seating } from "../useSeating";
import css from "./cost.module.css";

interface Props {
  handle: JobHandle;
  seating: Seating;
  cost: PlateCost;
}

/** What the plate really took, from which the machine's next estimates are corrected. */
export function AfterPrinting({ handle, seating, cost }: Props) {
  const [time, typeTime] = useState("");
  const [grams, typeGrams] = useState("");
  const plate = seating.plate.id;
  const note = async () => {
    if (await handle.act({ do: "note-print", plate, time, grams }).catch(tell)) {
      typeTime("");
      typeGrams("");
    }
  };
  return (
    <Fold title="After printing" name="seating-printed" says={cost.learnt || "what it really took corrects what comes"}>
      <div className={css.line}>
        <span>it took</span>
        <TypedField
          label="How long the plate took"
          value={time}
          placeholder="3 h 51"
          width={84}
          commit={async (typed) => typeTime(typed)}
        />
        <span>and weighs</span>
        <TypedField
          label="What the plate weighs, in grams"
          value={grams}
          placeholder="46.2 g"
          width={72}
          commit={async (typed) => typeGrams(typed)}
        />
        <Press
          look="box"
          why={!time && !grams && "type how long it took, or what it weighs"}
          onClick={() => void note()}
        >
          Learn from it
        </Press>
      </div>
      {cost.learnt && (
        <p className={sheetCss.text}>
          {sentence(cost.learnt)}{" "}
          <Press className="link" onClick={() => void handle.act({ do: "forget-prints", plate }).catch(tell)}>
            Remove them
          </Press>
        </p>
      )}
    </Fold>
  );
}
