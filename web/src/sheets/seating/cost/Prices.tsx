import type { JobHandle } from "../../../api/useJob";
import type { UserAction } from "../../../api/types";
import { Fold } from "../../../blocks/Fold";
import { sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import { sentence } from "../../../blocks/words";
import css from "./cost.module.css";
import { useCost } from "./costOf";

type Of = Extract<UserAction, { do: "set-price" }>["of"];

/** What is paid for material, the machine and electricity, in the user's own money. */
export function Prices({ handle }: { handle: JobHandle }) {
  const { job } = handle.view;
  const rows: readonly (readonly [Of, string, string, number | null | undefined])[] = [
    ["material", job.material?.name ?? "material", "a kg", job.material?.price],
    ["hour", "machine", "an hour", job.rates?.hour || null],
    ["kwh", "electricity", "a kWh", job.rates?.kwh || null],
    ["spool", "spool in use", "g left", job.rates?.spool_g],
  ];
  const spool = useCost(handle.view)?.spool;
  const known = rows.filter(([, , , price]) => price !== null && price !== undefined);
  return (
    <Fold
      title="Prices and spool"
      name="seating-prices"
      says={known.length ? known.map(([, name, , price]) => `${name} ${price}`).join(", ") : "none typed"}
    >
      <dl className={css.settings}>
        {rows.map(([of, name, per, price]) => (
          <div key={of} className={css.pair}>
            <dt>{name}</dt>
            <dd>
              <TypedField
                label={of === "spool" ? "Grams left on the spool" : `Price of ${name} for ${per}`}
                value={price === null || price === undefined ? "" : String(price)}
                placeholder="none"
                width={58}
                commit={(typed) => handle.act({ do: "set-price", of, typed })}
              />
              <span className="soft">{per}</span>
            </dd>
          </div>
        ))}
      </dl>
      {spool && <p className={sheetCss.text}>{sentence(spool)}</p>}
    </Fold>
  );
}
