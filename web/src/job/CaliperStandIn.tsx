import { useState } from "react";
import { api } from "../api/client";
import { tell } from "../api/useJob";
import { Fold } from "../blocks/Fold";
import { Press } from "../blocks/Press";
import { TypedField } from "../blocks/TypedField";
import css from "./CaliperStandIn.module.css";

interface Props {
  /** Where its data button types. */
  target: string;
  /** Where the jaws stand until they are set, in mm. */
  model: number;
  /** Takes what it types. */
  take: (typed: string) => Promise<unknown>;
  /** Told after a number was taken: the next row is due. */
  done: () => void;
}

/** A simulated caliper: it stands in for one that types like a keyboard. */
export function CaliperStandIn({ target, model, take, done }: Props) {
  const [jaws, setJaws] = useState("");
  const press = async () => {
    try {
      await take((await api.pressCaliper(jaws || String(model))).types);
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
        <Press look="box" onClick={() => void press()}>
          Data → {target}
        </Press>
      </div>
      <p className={css.hint}>
        No device is attached: this one shows hundredths and scatters by 0.015 mm. A real one types into the field by
        itself; Enter goes to the next row.
      </p>
    </Fold>
  );
}
