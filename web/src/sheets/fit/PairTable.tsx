import { Columns } from "../../blocks/Columns";
import { Radio } from "@mantine/core";
import { tell, type JobHandle } from "../../api/useJob";
import type { PairState } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { sheetCss } from "../../blocks/Sheet";
import { lookAt } from "./lookedAt";
import css from "./Fit.module.css";
import { clearance, INTENTS, MARKS, missOf, nameOf, printedOf, sizesOf } from "./words";

interface Props {
  handle: JobHandle;
  pairs: PairState[];
  chosen: PairState | null;
}

/** The pairs that are kept: how much play each has as drawn and as released, what it is to do, and whether it does. */
export function PairTable({ handle, pairs, chosen }: Props) {
  return (
    <table className={`${sheetCss.table} ${css.pairs}`} aria-label="Pairs">
      <Columns of={["Pair", { numbers: "drawn" }, { numbers: "now" }, "meant", { unseen: "how it goes" }]} />
      <tbody>
        {pairs.map((pair, i) => (
          <PairRow key={pair.id} handle={handle} pair={pair} number={i + 1} on={pair.id === chosen?.id} />
        ))}
      </tbody>
    </table>
  );
}

function PairRow({ handle, pair, number, on }: { handle: JobHandle; pair: PairState; number: number; on: boolean }) {
  const [drawn, now] = [pair.states[0], pair.states.at(-1)];
  return (
    <tr className={on ? sheetCss.chosen : undefined} data-body={`${pair.a} ${pair.b}`}>
      <td>
        <Radio
          name="pair"
          checked={on}
          onChange={() => lookAt({ pair: pair.id })}
          label={
            <>
              <b>{number}</b> {nameOf(pair)}
              <small>
                {now ? sizesOf({ kind: pair.kind, sizes_mm: now.sizes_mm }) : pair.says}
                {pair.printed && `; ${printedOf(pair.printed)} printed`}
              </small>
            </>
          }
        />
      </td>
      <td className={`${sheetCss.r} number`}>{drawn ? clearance(drawn.clearance_mm) : "–"}</td>
      <td className={`${sheetCss.r} number`}>{now ? clearance(now.clearance_mm) : "–"}</td>
      <td>
        {pair.typed ? (
          pair.typed
        ) : (
          <Choice
            label={`What pair ${number} is to do`}
            value={pair.intent}
            options={INTENTS}
            width={78}
            choose={(intent) =>
              void handle.act({ do: "mean-pair", pair: pair.id, intent, typed: pair.typed }).catch(tell)
            }
          />
        )}
      </td>
      <td className={now ? MARKS[pair.verdict] : "look"}>{now ? missOf(pair) : "lost"}</td>
    </tr>
  );
}
