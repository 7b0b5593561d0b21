import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { BoreInJob, StockSpot, ThroughAnswer } from "../../api/types";
import { Choice } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { mm, rounded } from "../../blocks/numbers";
import { Press } from "../../blocks/Press";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import { sentence } from "../../blocks/words";
import css from "./Stock.module.css";

/** Does it go through? A bolt in a bore: clearance, room for head, nut and spanner, engagement, and the right length. */
export function GoesThrough({ handle }: { handle: JobHandle }) {
  const { view } = handle;
  const [open, look] = useState(false);
  return (
    <Fold title="Does it go through?" name="through" says="a bolt in a bore, its head, nut and length">
      {open ? (
        <TriedBolt handle={handle} />
      ) : (
        <div className={css.make}>
          <Press
            look="box"
            onClick={() => look(true)}
            why={!view.survey.settled && "settle the unit on Intake first: lengths cannot be told before"}
          >
            List the bores
          </Press>
        </div>
      )}
    </Fold>
  );
}

const keyOf = (bore: BoreInJob) => `${bore.id}|${bore.feature}`;
const boreSays = (bore: BoreInJob) =>
  `ø ${mm(bore.diameter_mm)} in ${bore.body} at ${bore.at.map((value) => Math.round(value!) + 0).join(", ")}`;

function TriedBolt({ handle }: { handle: JobHandle }) {
  const { view } = handle;
  const [chosen, choose] = useState("");
  const [text, type] = useState("");
  const [washers, wash] = useState(false);
  const [flipped, flip] = useState(false);
  const { data: bores } = useQuery({
    queryKey: ["bores", view.id, view.number],
    queryFn: () => api.bores(view.id),
    placeholderData: (known) => known,
  });
  const bore = bores?.find((one) => keyOf(one) === chosen) ?? bores?.[0];
  const spot: StockSpot = { body: bore?.id ?? "", feature: bore?.feature ?? 0, flipped, washers };
  // Until a bolt is typed it is that which the hole suits, in the length that is right.
  const bolt = text || bore?.bolt || "";
  const { data, error } = useQuery({
    queryKey: ["through", view.id, view.number, bolt, spot],
    queryFn: () => api.through(view.id, bolt, spot),
    enabled: !!bore && !!bolt,
    retry: false,
    placeholderData: (known) => known,
  });
  if (!bores) return <p className={css.options}>looking for bores …</p>;
  if (!bore) return <p className={css.options}>There is no bore up to the size of M24 in this job.</p>;
  const options = bores.map((one) => [keyOf(one), boreSays(one)] as const);
  return (
    <>
      <div className={css.options}>
        <Choice label="Bore" value={keyOf(bore)} options={options} width={240} choose={choose} />
        <TypedField
          label="Bolt"
          value={bolt}
          placeholder="M5x20 socket"
          width={130}
          commit={async (typed) => {
            await api.through(view.id, typed, spot);
            type(typed.trim());
          }}
          words
        />
      </div>
      <div className={css.options}>
        <Checkbox label="washers" checked={washers} onChange={() => wash(!washers)} />
        <Checkbox label="head at the other end" checked={flipped} onChange={() => flip(!flipped)} />
      </div>
      {error && (
        <p className={`${css.options} stop`}>{error instanceof Problem ? sentence(error.line) : "It cannot be told"}</p>
      )}
      {data && !error && <Told handle={handle} answer={data} spot={spot} take={type} />}
    </>
  );
}

interface ToldProps {
  handle: JobHandle;
  answer: ThroughAnswer;
  spot: StockSpot;
  take: (bolt: string) => void;
}

const ROLES = { passes: "passes", tapped: "tapped", narrow: "too narrow" } as const;

/** Whether it goes through, bore by bore and room by room, and what to do. */
function Told({ handle, answer, spot, take }: ToldProps) {
  const named = answer.length_mm !== answer.right_mm && answer.right;
  return (
    <section aria-label="Whether it goes through">
      <p className={css.name}>
        <b className={answer.goes ? "settled" : "stop"}>{answer.goes ? "It goes through" : "It does not go through"}</b>
        <small>
          holds {mm(answer.grip_mm)} mm, thread {rounded(answer.engaged_d, 1)} d
        </small>
      </p>
      <table className={`${sheetCss.table} ${css.rooms}`}>
        <tbody>
          {answer.bores.map((bore) => (
            <tr key={`${bore.id}${bore.feature}`}>
              <td>
                bore of {bore.body}
                <small>
                  ø {mm(bore.diameter_mm)} mm, {ROLES[bore.role]}
                  {bore.series && `, ${bore.series} hole`}
                </small>
              </td>
              <td className={`${sheetCss.r} number`}>{bore.role === "tapped" ? "" : `${mm(bore.clearance_mm)} mm`}</td>
              <Holds good={bore.role !== "narrow" && bore.clearance_mm >= 0} />
            </tr>
          ))}
          {answer.rooms.map((room) => (
            <tr key={room.what}>
              <td>
                {room.what}
                <small>{room.says}</small>
              </td>
              <td className={`${sheetCss.r} number`}>
                {room.free_mm == null ? "free" : `${mm(room.free_mm - room.needed_mm)} mm`}
              </td>
              <Holds good={room.holds} />
            </tr>
          ))}
        </tbody>
      </table>
      <ul className={css.notes}>
        {answer.says.map((says) => (
          <li key={says}>{sentence(says)}</li>
        ))}
      </ul>
      <div className={css.make}>
        {named && (
          <Press onClick={() => take(answer.right)} look="frees">
            Take {answer.right}
          </Press>
        )}
        <MakeHere handle={handle} answer={answer} spot={spot} />
      </div>
    </section>
  );
}

function Holds({ good }: { good: boolean }) {
  return <td className={good ? "settled" : "stop"}>{good ? "holds" : "not"}</td>;
}

/** Make the bolt at the bore, and its nut and washer, to check against. */
function MakeHere({ handle, answer, spot }: Omit<ToldProps, "take">) {
  const size = answer.bolt.split(" ")[1]!.replace(/x[^x]*$/, "");
  const made = (text: string) => () =>
    handle
      .change((on) =>
        api.task(handle.view.id, on, {
          do: "make-stock",
          text,
          threaded: false,
          clearance: "",
          for_checking: true,
          spot,
        }),
      )
      .catch(tell);
  return (
    <>
      {spot.washers && (
        <Press look="box" onClick={made(`washer ${size.split("x")[0]}`)}>
          Washer here
        </Press>
      )}
      {answer.ending === "nut" && (
        <Press look="box" onClick={made(`nut ${size}`)}>
          Nut here
        </Press>
      )}
      <Press look="main" onClick={made(answer.bolt)}>
        Make the bolt here
      </Press>
    </>
  );
}
