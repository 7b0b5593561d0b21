import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { PairState } from "../../api/types";
import { Press } from "../../blocks/Press";
import { Head } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import { lookAt } from "./lookedAt";
import css from "./Fit.module.css";

/** The pair that is looked at: the band that it is to have, and what would bring it there. */
export function Ways({ handle, pair }: { handle: JobHandle; pair: PairState }) {
  const move = (way: PairState["ways"][number]) =>
    handle.change((on, view) =>
      api.task(view.id, on, { do: "shape", bodies: [way.body], asked: way.asked, instead: way.instead }),
    );
  return (
    <section aria-label="Ways to make it hold">
      <div className={css.band}>
        <span>wanted</span>
        <TypedField
          label="Band of the pair"
          value={pair.typed}
          placeholder={pair.band_says.replace(" mm", "")}
          width={124}
          commit={(typed) => handle.act({ do: "mean-pair", pair: pair.id, intent: pair.intent, typed })}
        />
        <span className="soft">mm, or H7/g6</span>
        <Press
          className="link"
          onClick={() => {
            lookAt(null);
            void handle.act({ do: "unpair", pair: pair.id }).catch(tell);
          }}
        >
          Take it away
        </Press>
      </div>
      {pair.ways.length > 0 && <Head title="Ways to make it hold" />}
      {pair.ways.map((way, i) => (
        <div key={way.says} className={css.way}>
          <b>{"ab"[i]}</b>
          <span>{way.says}</span>
          <Press look="frees" onClick={() => void move(way).catch(tell)} aria-label={way.says}>
            Do
          </Press>
        </div>
      ))}
    </section>
  );
}
