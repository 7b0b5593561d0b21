import { Columns } from "../../blocks/Columns";
import { Press } from "../../blocks/Press";
import { type ChainRow, chainRows } from "../../blocks/chainRows";
import { Checkbox } from "@mantine/core";
import { tell, type JobHandle } from "../../api/useJob";
import type { Body, Axis, UserAction } from "../../api/types";
import { factor, inches, mm } from "../../blocks/numbers";
import { Head, sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import type { Subject } from "../../job/subject";
import { Term } from "../../house/Term";
import css from "./TruingSheet.module.css";

interface Props {
  handle: JobHandle;
  subject: Subject;
}

/** Overall size and factor per axis, typed; and the ways that take one step. */
export function OverallSize({ handle, subject }: Props) {
  const { body, facts, key, decided } = subject;
  const chain = chainRows(facts.chain!);
  const { free, held } = decided.correction;
  const act = (action: UserAction) => void handle.act(action).catch(tell);
  const linked = free!.some((each) => !each);
  const single = subject.bodies.length === 1;
  return (
    <section aria-label="Overall size">
      <Head title="Overall size">
        <Press
          className="link"
          why={chain.every((row) => row.factor === 1) && "it has the size in the file"}
          onClick={() => act({ do: "reset-correction", body: key })}
        >
          Back to 100 %
        </Press>
      </Head>
      <table className={sheetCss.table}>
        <Columns
          of={["Axis", { numbers: "size, mm" }, { numbers: "inch" }, { numbers: "factor" }, { numbers: "follows" }]}
        />
        <tbody>
          {chain.map((row, i) => (
            <SizeRow key={row.axis} row={row} handle={handle} owner={key} free={free} i={i} held={held} act={act} />
          ))}
        </tbody>
      </table>
      <p className={css.hint}>
        <Term of="correction">{decided.correction.set_by ? "Corrected" : "Not corrected"}</Term>
        {decided.correction.set_by ? `: ${decided.correction.set_by}.` : ": as the file has it."}
      </p>
      <p className={css.hint}>
        Type <code>171.5</code>, <code>17.15cm</code>, <code>6 3/4 in</code>, <code>2 ft 5</code> or <code>98 %</code>,
        then Enter. Esc puts the old one back.
      </p>
      <CommonFactorRow common={facts.chain!.common} linked={linked} handle={handle} owner={key} />
      <LongestSideRow chain={chain} handle={handle} owner={key} />
      <LeastWallRow handle={handle} />
      <FitMachineRow act={act} owner={key} handle={handle} single={single} body={body} />
      {facts.oval && (
        <p className={css.hint}>
          <span className="look">The factors differ: round bores and bosses become oval.</span>
        </p>
      )}
      {body.kit && !body.alone && (
        <p className={css.hint}>
          The whole <Term of="kit" /> follows: its bodies keep fitting together.
        </p>
      )}
    </section>
  );
}

interface CommonFactorRowProps {
  common: number | null;
  linked: boolean;
  handle: JobHandle;
  owner: string;
}

/** One factor for all axes that are linked. */
function CommonFactorRow({ common, linked, handle, owner }: CommonFactorRowProps) {
  return (
    <div className={css.row}>
      <span>Common factor or percentage</span>
      <TypedField
        label="Common factor"
        value={common === null ? "" : factor(common)}
        full={common === null ? "" : digits(common)}
        placeholder="per axis"
        width={110}
        disabled={!linked}
        commit={(typed) => handle.act({ do: "set-factor", body: owner, axis: null, typed })}
      />
    </div>
  );
}

/** A size for whichever side is the longest. */
function LongestSideRow({ chain, handle, owner }: { chain: ChainRow[]; handle: JobHandle; owner: string }) {
  return (
    <div className={css.row}>
      <span>Longest side</span>
      <TypedField
        label="Longest side"
        value={mm(Math.max(...chain.map((row) => row.size_mm)))}
        width={110}
        commit={(typed) => handle.act({ do: "size-longest", body: owner, typed })}
      />
    </div>
  );
}

/** The thinnest wall that will do. */
function LeastWallRow({ handle }: { handle: JobHandle }) {
  return (
    <div className={css.row}>
      <span>Least wall that will do</span>
      <TypedField
        label="Least wall"
        value={handle.view.job.least_wall_mm == null ? "" : String(handle.view.job.least_wall_mm)}
        placeholder={`two beads, ${mm(2 * handle.view.survey.machine.bead_mm)}`}
        width={130}
        commit={(typed) => handle.act({ do: "set-least-wall", typed })}
      />
    </div>
  );
}

interface SizeRowProps {
  row: ChainRow;
  handle: JobHandle;
  owner: string;
  free: [boolean, boolean, boolean];
  i: number;
  held: [boolean, boolean, boolean];
  act: (action: UserAction) => void;
}

/** The overall size along one axis, typed as a length or a factor. */
function SizeRow({ row, handle, owner, free, i, held, act }: SizeRowProps) {
  return (
    <tr>
      <td className={css.axis}>{row.axis.toUpperCase()}</td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Size along ${row.axis.toUpperCase()}`}
          value={mm(row.size_mm)}
          full={digits(row.size_mm)}
          width={96}
          commit={(typed) => handle.act({ do: "size-axis", body: owner, axis: row.axis, typed })}
        />
      </td>
      <td className={`${sheetCss.r} number soft`}>{inches(row.size_in)}</td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Factor along ${row.axis.toUpperCase()}`}
          value={factor(row.factor)}
          full={digits(row.factor)}
          width={76}
          commit={(typed) => handle.act({ do: "set-factor", body: owner, axis: row.axis, typed })}
        />
      </td>
      <td className={sheetCss.r}>
        <Follows axis={row.axis} free={free![i]!} held={held![i]!} subject={owner} act={act} />
      </td>
    </tr>
  );
}

interface FitMachineRowProps {
  act: (action: UserAction) => void;
  owner: string;
  handle: JobHandle;
  single: boolean;
  body: Body;
}

/** The machine that the body may be made to fit. */
function FitMachineRow({ act, owner, handle, single, body }: FitMachineRowProps) {
  return (
    <div className={css.row}>
      <Press look="box" onClick={() => act({ do: "fit-machine", body: owner })}>
        Fit into {handle.view.survey.machine.name}
      </Press>
      {single && (
        <Checkbox
          label="keep as drawn"
          checked={body.as_drawn}
          onChange={(event) => act({ do: "keep-as-drawn", bodies: [body.id], on: event.target.checked })}
        />
      )}
      {single && body.kit && (
        <Checkbox
          label="correct alone"
          checked={body.alone}
          onChange={(event) => act({ do: "correct-alone", body: body.id, on: event.target.checked })}
        />
      )}
    </div>
  );
}

/** Full precision without the noise of binary fractions. */
export function digits(value: number): string {
  return String(Number(value.toPrecision(12)));
}

interface FollowsProps {
  axis: Axis;
  free: boolean;
  held: boolean;
  subject: string;
  act: (action: UserAction) => void;
}

/** Whether an axis goes with the others, is set alone, or keeps its factor whatever readings say. */
function Follows({ axis, free, held, subject, act }: FollowsProps) {
  const name = axis.toUpperCase();
  const state = held ? "held" : free ? "free" : "linked";
  const next: UserAction = held
    ? { do: "hold-axis", body: subject, axis, held: false }
    : { do: "free-axis", body: subject, axis, free: !free };
  return (
    <span className={css.follows}>
      <Press
        className={`${css.lock} ${state === "free" ? css.free : ""}`}
        aria-pressed={state === "linked"}
        aria-label={free ? `${name} is free; link it to the others` : `${name} is linked to the others; free it`}
        disabled={held}
        onClick={() => act(next)}
      >
        {state === "held" ? "–" : state}
      </Press>
      <Press
        className={`${css.lock} ${held ? css.held : ""}`}
        aria-pressed={held}
        aria-label={held ? `${name} is held; let it go` : `${name} may change; hold it`}
        title={held ? "held: readings do not change it" : "hold: readings shall not change it"}
        onClick={() => act({ do: "hold-axis", body: subject, axis, held: !held })}
      >
        hold
      </Press>
    </span>
  );
}
