import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Reading } from "../../api/types";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { TypedField } from "../../blocks/TypedField";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  /** The reading its data button types into. */
  target: Reading;
  /** How long that is on the model: where the jaws stand until they are set. */
  model: number;
  /** Told after a number was taken: the next row is due. */
  done: () => void;
}

/** A simulated caliper: it stands in for one that types like a keyboard. */
export function CaliperStandIn({ handle, target, model, done }: Props) {
  const [jaws, setJaws] = useState("");
  const press = async () => {
    try {
      const { types } = await api.pressCaliper(jaws || String(model));
      await handle.act({ do: "set-reading", reading: target.id, typed: types, sure: false });
      done();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <Fold title="Caliper, simulated" name="caliper">
      <div className={css.row}>
        <span>
          jaws on{" "}
          <TypedField
            label="Jaws of the simulated caliper"
            value={jaws}
            placeholder={model.toFixed(2)}
            width={84}
            commit={(typed) => {
              setJaws(typed.trim());
              return Promise.resolve();
            }}
          />{" "}
          mm
        </span>
        <Press className={css.small} onClick={() => void press()}>
          Data → {target.name}
        </Press>
      </div>
      <p className={css.hint}>
        No device is attached: this one shows hundredths and scatters by 0.015 mm. A real one types into the field by
        itself; Enter goes to the next row.
      </p>
    </Fold>
  );
}
