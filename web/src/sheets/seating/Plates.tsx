import type { TaskView, JobView } from "../../api/types";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import { Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { Term } from "../../house/Term";
import { Press } from "../../blocks/Press";
import { typedNumber } from "../../blocks/typed";
import { TypedField } from "../../blocks/TypedField";
import { Working } from "../../blocks/Working";
import css from "./Seating.module.css";
import type { Seating } from "./useSeating";

const TURNS = [
  ["any", "any turn"],
  ["quarters", "quarter turns"],
  ["none", "no turn"],
] as const;

const KITS = [
  ["one", "as drawn, together"],
  ["apart", "each body by itself"],
] as const;

/** The plates of a job, and the arrangement of what stands on them. */
export function Plates({ handle, seating }: { handle: JobHandle; seating: Seating }) {
  const { view } = handle;
  const { plate, choosePlate } = seating;
  const plates = view.survey.plates;
  const follower = plates.find((one) => one.follows === plate.id);
  return (
    <div className={css.plates} role="group" aria-label="Plates">
      {plates.map((one, i) => (
        <Press
          key={one.id}
          data-plate={one.id}
          look="box"
          className={seating.carrying && one.id !== plate.id ? css.target : undefined}
          aria-pressed={one.id === plate.id}
          onClick={() => choosePlate(one.id)}
        >
          plate {i + 1}
          {one.follows ? ` on ${plates.findIndex((other) => other.id === one.follows) + 1}` : ""}
        </Press>
      ))}
      <Press className="link" onClick={() => handle.act({ do: "add-plate" }).catch(tell)}>
        Add a plate
      </Press>
      {!follower && (
        <Press
          className="link"
          title="printed on top of this one, in the same origin"
          onClick={() => handle.act({ do: "add-plate", follows: plate.id }).catch(tell)}
        >
          Second pass
        </Press>
      )}
      <Term of="second pass">?</Term>
      {plates.length > 1 && (
        <Press className="link" onClick={() => handle.act({ do: "remove-plate", plate: plate.id }).catch(tell)}>
          Remove
        </Press>
      )}
    </div>
  );
}

export function Arranging({ handle, seating }: { handle: JobHandle; seating: Seating }) {
  const { view } = handle;
  const [gap, setGap] = useState("3");
  const [turns, setTurns] = useState<(typeof TURNS)[number][0]>("quarters");
  const [seconds, setSeconds] = useState("6");
  const task = view.tasks.find(
    (one) => one.does === "arrange-seats" && (one.state === "waiting" || one.state === "doing"),
  );
  // Bodies that may stand as one: those of a kit, and what a split made of one body. Of each, whether they stand apart.
  const groups = [
    ...view.job.kits.map((kit) => kit.free),
    ...(view.job.divisions ?? [])
      .filter((division) => division.replaces && division.shaping.by !== "planes" && division.made.length > 1)
      .map((division) => !division.together),
  ];
  const arrange = () =>
    handle
      .change((on) =>
        api.task(view.id, on, {
          do: "arrange-seats",
          plate: seating.plate.id,
          gap,
          turns,
          seconds: Number(seconds) || 0,
        }),
      )
      .catch(tell);
  const keep = (set: (text: string) => void) => async (typed: string) => set(typed);
  const keepSeconds = async (typed: string) => setSeconds(String(typedNumber(typed, "s")));
  return (
    <Fold
      title="Arrange"
      name="seating-arrange"
      says={seating.plan ? `plate ${seating.number} is ${Math.round(100 * seating.plan.fill)} % full` : ""}
      open={!!task}
    >
      {task ? (
        <ArrangingNow task={task} view={view} />
      ) : (
        <ArrangeFields
          gap={gap}
          keep={keep}
          setGap={setGap}
          seconds={seconds}
          keepSeconds={keepSeconds}
          groups={groups}
          handle={handle}
          turns={turns}
          setTurns={setTurns}
          arrange={arrange}
          seating={seating}
        />
      )}
    </Fold>
  );
}

/** What is being arranged, and the press that stops it. */
function ArrangingNow({ task, view }: { task: TaskView; view: JobView }) {
  return (
    <>
      <Working task={task} />
      <div className={css.line}>
        <Press look="box" onClick={() => void api.stop(view.id, task.id)}>
          Stop, and keep the best so far
        </Press>
      </div>
    </>
  );
}

interface ArrangeFieldsProps {
  gap: string;
  keep: (set: (text: string) => void) => (typed: string) => Promise<unknown>;
  setGap: (value: string) => void;
  seconds: string;
  keepSeconds: (typed: string) => Promise<unknown>;
  groups: boolean[];
  handle: JobHandle;
  turns: "any" | "quarters" | "none";
  setTurns: (value: "any" | "quarters" | "none") => void;
  arrange: () => Promise<unknown>;
  seating: Seating;
}

/** How plates are arranged. */
function ArrangeFields({
  gap,
  keep,
  setGap,
  seconds,
  keepSeconds,
  groups,
  handle,
  turns,
  setTurns,
  arrange,
  seating,
}: ArrangeFieldsProps) {
  return (
    <>
      <dl className={css.fields}>
        <dt>gap between parts</dt>
        <dd>
          <TypedField label="Gap" value={gap} width={84} commit={keep(setGap)} /> mm
        </dd>
        <dt>try for</dt>
        <dd>
          <TypedField label="Seconds to try" value={seconds} width={84} commit={keepSeconds} /> s
        </dd>
      </dl>
      {groups.length > 0 && (
        <div className={css.line}>
          <Segments
            label="Kits"
            acts
            value={groups.every((apart) => apart) ? "apart" : groups.some((apart) => apart) ? "" : "one"}
            options={KITS}
            choose={(how) => void handle.act({ do: "stand-apart", apart: how === "apart" }).catch(tell)}
            width="100%"
          />
        </div>
      )}
      <div className={css.line}>
        <Segments label="Turns allowed" value={turns} options={TURNS} choose={setTurns} width="100%" />
      </div>
      <div className={css.line}>
        <Press look="box" onClick={arrange}>
          Arrange all plates of {seating.plate.machine.name}
        </Press>
      </div>
    </>
  );
}
