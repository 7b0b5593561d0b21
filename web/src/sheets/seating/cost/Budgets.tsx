import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../../api/client";
import { tell, type JobHandle } from "../../../api/useJob";
import type { UserAction, WayUnder } from "../../../api/types";
import { Choice } from "../../../blocks/Choice";
import { Fold } from "../../../blocks/Fold";
import { Press } from "../../../blocks/Press";
import { sheetCss } from "../../../blocks/Sheet";
import { TypedField } from "../../../blocks/TypedField";
import { sentence } from "../../../blocks/words";
import type { Seating } from "../useSeating";
import css from "./cost.module.css";
import { useCost } from "./costOf";

interface Props {
  handle: JobHandle;
  seating: Seating;
}

/** At most so much, and, where that is exceeded, ways under it, each worked out and one press to try. */
export function Budgets({ handle, seating }: Props) {
  const { view } = handle;
  const budgets = useCost(view)?.budgets ?? [];
  const over = budgets.filter((state) => state.over > 0);
  const says = budgets.length
    ? over.length
      ? `${over.length} of ${budgets.length} exceeded`
      : `${budgets.length} kept`
    : "none";
  return (
    <Fold title="Budgets" name="seating-budgets" says={says} open={over.length > 0}>
      {budgets.map((state) => (
        <div key={`${state.budget.of} ${state.budget.kind}`} className={css.budget}>
          <span className={state.over > 0 ? "look" : "settled"}>{sentence(state.says)}</span>
          <Press
            className="link"
            onClick={() =>
              void handle
                .act({ do: "set-budget", of: state.budget.of ?? "", kind: state.budget.kind, typed: "" })
                .catch(tell)
            }
          >
            Remove
          </Press>
        </div>
      ))}
      <AddBudget handle={handle} seating={seating} />
      {over.length > 0 && <Ways handle={handle} plate={seating.plate.id} />}
    </Fold>
  );
}

/** A budget is typed with its unit, for this plate, all plates, or one body. */
function AddBudget({ handle, seating }: Props) {
  const { view } = handle;
  const [of, choose] = useState<string>(seating.plate.id);
  const options = [
    [seating.plate.id, `plate ${seating.number}`] as const,
    ["", "all plates"] as const,
    ...view.job.bodies.slice(0, 200).map((body) => [body.id as string, body.name] as const),
  ];
  return (
    <div className={css.line}>
      <span>at most</span>
      <TypedField
        label="Budget, with its unit"
        value=""
        placeholder="40 g, 3 h"
        width={92}
        commit={(typed) => handle.act({ do: "set-budget", of, kind: "", typed })}
      />
      <span>for</span>
      <Choice label="What the budget is for" value={of} options={options} choose={choose} width={130} />
    </div>
  );
}

/** Ways under the budgets that are exceeded. */
function Ways({ handle, plate }: { handle: JobHandle; plate: string }) {
  const { view } = handle;
  const { data, isFetching } = useQuery({
    queryKey: ["budget-ways", view.id, view.number, plate],
    queryFn: () => api.budgetWays(view.id, plate),
    placeholderData: (before) => before,
  });
  if (!data) return <p className={sheetCss.text}>{isFetching ? "looking for ways …" : ""}</p>;
  return (
    <>
      {data.map((row) => (
        <section
          key={`${row.state.budget.of} ${row.state.budget.kind}`}
          aria-label={`Ways under ${row.state.budget.typed}`}
        >
          <ul className={css.ways}>
            {row.ways.map((way) => (
              <WayRow key={way.says} handle={handle} plate={plate} way={way} />
            ))}
          </ul>
          {row.least && <p className={sheetCss.text}>{sentence(row.least)}</p>}
        </section>
      ))}
    </>
  );
}

function WayRow({ handle, plate, way }: { handle: JobHandle; plate: string; way: WayUnder }) {
  return (
    <li>
      <span>
        {sentence(way.says)}
        <small className="number">
          {way.saves}
          {way.meets ? "" : "; not enough"}
        </small>
      </span>
      <Press look="box" onClick={() => void tried(handle, way, plate).catch(tell)}>
        Try
      </Press>
    </li>
  );
}

/** Pieces by planes alone, as Division asks for them. */
const PIECES = {
  by: "planes",
  planes: [] as string[],
  fit: null,
  turned: false,
  seams: false,
  sure: false,
  open: false,
  keep: "all",
  slivers: "keep",
  pins: null,
} as const;

/** One press tries a way: an action, or a task where a body is made anew. */
function tried(handle: JobHandle, way: WayUnder, plate: string): Promise<unknown> {
  const { hollow, wall, divide, planes } = way;
  if (divide) {
    return handle.change((on) =>
      api.task(handle.view.id, on, {
        do: "shape",
        bodies: [divide],
        instead: "",
        asked: { ...PIECES, planes: [...planes!] },
      }),
    );
  }
  if (!hollow) return handle.act(actionOf(way, plate));
  return handle.change((on) =>
    api.task(handle.view.id, on, {
      do: "shape",
      bodies: [hollow],
      instead: "",
      asked: { by: "hollow", wall: wall!, drains: [], places: [], down: [0, 0, -1] },
    }),
  );
}

/** What one press does for a way that is an action. */
function actionOf(way: WayUnder, plate: string): UserAction {
  if (way.settings) return { do: "use-print-settings", settings: way.settings };
  if (way.subject && way.down) return { do: "rest-on", body: way.subject, copy_number: 1, down: way.down };
  return { do: "scale-plate", plate, factor: way.factor! };
}
