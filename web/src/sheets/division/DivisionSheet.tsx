import { busyOr } from "./ways/parts";
import { Checkbox } from "@mantine/core";
import type { Body, Division, JobView, Machine } from "../../api/types";
import { type JobHandle, tell } from "../../api/useJob";
import { api } from "../../api/client";
import { Choice, Segments } from "../../blocks/Choice";
import { Press } from "../../blocks/Press";
import type { Selection } from "../../job/useSelection";
import { mm, rounded } from "../../blocks/numbers";
import { Head, Sheet, UnitFirst } from "../../blocks/Sheet";
import { GoOn } from "../../blocks/GoOn";
import { Working } from "../../blocks/Working";
import css from "./Division.module.css";
import { OtherWays } from "./OtherWays";
import { PieceTable } from "./PieceTable";
import { PinFields } from "./PinFields";
import { PlaneTable } from "./PlaneTable";
import { SectionCurve } from "./SectionCurve";
import type { Dividing } from "./useDivision";

/** Tasks of sheet 5 make no bodies. */
const OF_SEATING = ["arrange-seats", "estimate-plate"];

/** Sheet 4: a body cut to fit, split, hollowed or joined; the whole stays, and is asked for again. */
export function DivisionSheet({
  handle,
  dividing,
  selection,
}: {
  handle: JobHandle;
  dividing: Dividing | null;
  selection: Selection;
}) {
  const { view } = handle;
  if (!dividing?.facts.chain) {
    return (
      <Sheet label="Division">
        <UnitFirst job={view.id} doing="any size in mm" />
      </Sheet>
    );
  }
  const making = view.tasks.filter((one) => one.kind === "remake" && !OF_SEATING.includes(one.does));
  const task = making.find((one) => one.state === "waiting" || one.state === "doing");
  // What failed is told until something newer was made.
  const failed = making[0]?.state === "failed" ? making[0] : undefined;
  return (
    <Sheet label="Division">
      <Which view={view} dividing={dividing} selection={selection} />
      {/* Stays in sight wherever the sheet is scrolled to: the button that began it may be far down. */}
      <div className={css.now}>
        {task && (
          <>
            <Working task={task} />
            <div className={css.line}>
              <Press className="link" onClick={() => void api.stop(view.id, task.id)}>
                Stop
              </Press>
            </div>
          </>
        )}
        {!task && failed?.error && (
          <p className={css.problem} role="alert">
            {[failed.error.says, failed.error.remedy].filter(Boolean).join("; ")}
          </p>
        )}
      </div>
      {!dividing.body.health.closed && !dividing.division && <Open dividing={dividing} />}
      {(dividing.body.health.closed || dividing.draft.open || dividing.division) && (
        <Work handle={handle} dividing={dividing} busy={!!task} />
      )}
      <GoOn view={view} from="division" says={whatComesNext(dividing)} />
    </Sheet>
  );
}

/** What is left to do here before the next sheet, or why there is nothing. */
function whatComesNext({ division, draft, facts }: Dividing): string {
  if (division)
    return division.together ? "What it was split into is seated as one." : "Its pieces are seated one by one.";
  if (draft.planes.length) return "The planes are laid out; nothing is divided yet.";
  return facts.fits_as_it_lies === false
    ? "It does not go into the machine as it lies."
    : "A body that fits need not be divided.";
}

const SIDES = [
  ["all", "keep all"],
  ["above", "above"],
  ["below", "below"],
] as const;
const FATES = [
  ["keep", "slivers stay pieces"],
  ["drop", "slivers are dropped"],
  ["give", "slivers go to a neighbour"],
] as const;

/** Which of the pieces are kept, and what becomes of slivers, where there are some. */
function Kept({ dividing: { draft, edit, prospect } }: { dividing: Dividing }) {
  return (
    <div className={css.line}>
      <Segments
        label="Pieces that are kept"
        value={draft.keep}
        options={SIDES}
        choose={(keep) => edit({ keep })}
        width={210}
      />
      {(prospect?.pieces.some((piece) => piece.sliver) || draft.slivers !== "keep") && (
        <Choice
          label="Slivers"
          value={draft.slivers}
          options={FATES}
          choose={(slivers) => edit({ slivers })}
          width={190}
        />
      )}
    </div>
  );
}

/** A body that is not closed: its remedy is elsewhere; it can be cut all the same, on purpose. */
function Open({ dividing: { body, draft, edit } }: { dividing: Dividing }) {
  return (
    <>
      <p className={css.problem}>
        {body.name} is not a closed solid, so it bounds nothing to cut; close its holes on Intake.
      </p>
      <div className={css.line}>
        <Checkbox
          label="cut it open all the same: what is open stays open"
          checked={draft.open}
          onChange={(event) => edit({ open: event.currentTarget.checked, pins: null })}
        />
      </div>
    </>
  );
}

/** Which body the sheet is about, where there are several: the wholes, and pieces that may be divided further. */
function Which({ view, dividing, selection }: { view: JobView; dividing: Dividing; selection: Selection }) {
  const loose = (body: Body) => body.recipe?.step === "shaped" && body.recipe.shaping.by === "dowel";
  const bodies = view.job.bodies.filter((one) => !loose(one));
  if (bodies.length < 2) return <Head title={dividing.body.name} />;
  return (
    <div className={css.which}>
      <Choice
        label="Body"
        value={dividing.body.id}
        options={bodies.map((one) => [one.id, one.name] as const)}
        choose={(id) => selection.selectAll([id])}
        width="100%"
      />
    </div>
  );
}

interface WorkProps {
  handle: JobHandle;
  dividing: Dividing;
  busy: boolean;
}

/** The division of one body: planes that are thought of, or the pieces that were made. */
function Work({ handle, dividing, busy }: WorkProps) {
  const { view } = handle;
  const { division, drafting, prospect, draft, body } = dividing;
  const mates = body.kit && !division ? view.job.bodies.filter((one) => one.kit === body.kit && !one.division) : [];
  const pieces = prospect?.pieces.length ?? 0;
  return (
    <>
      {drafting && (
        <>
          <PiecesNeeded dividing={dividing} />
          <MachineToFit handle={handle} dividing={dividing} />
          <PlaneTable view={view} dividing={dividing} />
          {dividing.problem && draft.planes.length > 0 && (
            <p className={css.problem} role="alert">
              {dividing.problem.line}
            </p>
          )}
          <Meanings dividing={dividing} mates={mates.length} />
          <SectionCurve dividing={dividing} />
          {body.health.closed && <PinFields dividing={dividing} />}
          {prospect && pieces > 0 && <PieceTable view={view} dividing={dividing} />}
          {prospect && pieces > 0 && <Kept dividing={dividing} />}
          <DivideLine handle={handle} dividing={dividing} busy={busy} mates={mates} />
        </>
      )}
      {!drafting && division && (
        <MadePieces dividing={dividing} view={view} division={division} busy={busy} handle={handle} />
      )}
      {drafting && !division && body.health.closed && <OtherWays handle={handle} dividing={dividing} busy={busy} />}
    </>
  );
}

/** How many pieces the machine asks for, as the body lies and turned. */
function PiecesNeeded({ dividing }: { dividing: Dividing }) {
  const { prospect, draft, machine, edit } = dividing;
  const size = dividing.facts.chain!.size_mm.map((one) => Math.round(one)).join(" × ");
  const counts = (draft.turned ? prospect?.turned_counts : prospect?.counts) ?? [1];
  const product = (numbers: readonly number[]) => numbers.reduce((all, each) => all * each, 1);
  const [needed, turned] = [product(counts), product(prospect?.turned_counts ?? [1])];
  return (
    <p className={css.lead}>
      {prospect &&
        (needed > 1 ? (
          <>
            {size} goes into {machine.name} in {counts.join(" × ")} = <b>{needed} pieces</b>
            {turned < needed && (
              <>
                ; turned,{" "}
                <Press className="link" onClick={() => edit({ turned: true })}>
                  in {turned}
                </Press>
              </>
            )}
          </>
        ) : (
          <>
            {size} goes into {machine.name} <b>as it lies</b>
          </>
        ))}
    </p>
  );
}

/** The machine that pieces are to go into; one that is chosen says at once where to cut, unless planes are there. */
function MachineToFit({ handle, dividing }: Pick<WorkProps, "handle" | "dividing">) {
  const fitTo = async (name: string) => {
    dividing.fitTo(name);
    const chosen = dividing.machines.find((machine) => machine.machine.name === name)?.machine;
    if (chosen && !dividing.draft.planes.length) await fit(handle.view.id, dividing, chosen, false);
  };
  return (
    <div className={css.line}>
      <Choice
        label="Machine to fit"
        value={dividing.machine.name!}
        options={dividing.machines.map((machine) => [machine.machine.name!, machine.machine.name!] as const)}
        choose={(name) => void fitTo(name)}
        width={168}
      />
      <Fitting handle={handle} dividing={dividing} />
    </div>
  );
}

/** What has to be meant: so many pieces, pieces that stand turned, all bodies of the kit. */
function Meanings({ dividing, mates }: { dividing: Dividing; mates: number }) {
  const { draft, edit } = dividing;
  return (
    <div className={css.line}>
      {(dividing.problem?.code === "pieces-many" || draft.sure) && (
        <Checkbox
          label="so many are meant"
          checked={draft.sure}
          onChange={(event) => edit({ sure: event.currentTarget.checked })}
        />
      )}
      {draft.turned && (
        <Checkbox label="pieces may stand turned by quarters" checked onChange={() => edit({ turned: false })} />
      )}
      {mates > 1 && draft.planes.length > 0 && (
        <Checkbox
          label={`cut all ${mates} bodies of its kit so`}
          checked={draft.kit}
          onChange={(event) => edit({ kit: event.currentTarget.checked })}
        />
      )}
    </div>
  );
}

/** The press that divides, and the way back from asking otherwise. */
function DivideLine({ handle, dividing, busy, mates }: WorkProps & { mates: Body[] }) {
  const { body, division, draft, asked, prospect } = dividing;
  const pieces = prospect?.pieces.length ?? 0;
  const others = draft.kit ? mates.filter((mate) => mate.id !== body.id) : [];
  const make = () =>
    void handle
      .change((on) =>
        api.task(handle.view.id, on, {
          do: "shape",
          bodies: [body, ...others].map((one) => one.id),
          instead: division?.id ?? "",
          asked,
        }),
      )
      .then(() => dividing.rethink(false))
      .catch(tell);
  return (
    <div className={css.line}>
      <Press look="main" why={busyOr(busy, pieces < 2 && "add a plane that cuts the body first")} onClick={make}>
        {pieces < 2
          ? "Divide"
          : draft.keep === "all"
            ? `Divide into ${pieces} pieces`
            : `Divide, and keep what is ${draft.keep}`}
      </Press>
      {division && (
        <Press className="link" onClick={() => dividing.rethink(false)}>
          Leave it as it is
        </Press>
      )}
    </div>
  );
}

interface MadePiecesProps {
  dividing: Dividing;
  view: JobView;
  division: Division;
  busy: boolean;
  handle: JobHandle;
}

/** What is done with pieces that were made. */
function MadePieces({ dividing, view, division, busy, handle }: MadePiecesProps) {
  return (
    <>
      {dividing.pieces.some((piece) => piece.facts.stale) && (
        <p className={css.told}>Its whole has changed; what was made of it is made again.</p>
      )}
      <PieceTable view={view} dividing={dividing} />
      <Measured division={division} />
      {(division.stays_open ?? []).map((says) => (
        <p key={says} className={css.told}>
          {says}
        </p>
      ))}
      {(division.without ?? []).map((says) => (
        <p key={says} className={css.told}>
          {says}
        </p>
      ))}
      <div className={css.line}>
        {division.asked.by === "planes" && (
          <Press look="box" why={busyOr(busy)} onClick={() => dividing.rethink(true)}>
            Divide it otherwise
          </Press>
        )}
        <Press
          className="link"
          why={busyOr(busy)}
          onClick={() => void handle.act({ do: "undivide", division: division.id }).catch(tell)}
        >
          Put it back together
        </Press>
      </div>
    </>
  );
}

/** What was measured on what was made: the clearance of pins, the wall of a hollow. */
function Measured({ division }: { division: Division }) {
  const { clearance_mm: clearance, wall_mm: wall } = division;
  return (
    <>
      {clearance && (
        <p className={css.lead}>
          clearance across the pins, as made: <b className="number">{span(clearance[0]!, clearance[1]!)}</b> mm
        </p>
      )}
      {wall && (
        <p className={css.lead}>
          wall, as made: <b className="number">{span(wall[1]!, wall[2]!)}</b> mm, asked {mm(wall[0]!)}
        </p>
      )}
    </>
  );
}

const span = (least: number, greatest: number) =>
  rounded(least, 2) === rounded(greatest, 2) ? rounded(least, 2) : `${rounded(least, 2)} to ${rounded(greatest, 2)}`;

/** Take the planes that a machine asks for. */
async function fit(job: string, { asked, body, edit }: Dividing, machine: Machine, seams: boolean) {
  const planned = await api
    .tryDivision(
      job,
      body.id,
      { ...asked, planes: [], pins: null, fit: machine, seams, keep: "all", slivers: "keep" },
      machine,
    )
    .catch(tell);
  if (planned) edit({ planes: planned.planes.map((plane) => plane.typed) });
}

/** Planes that a machine asks for, even or at seams. */
function Fitting({ handle, dividing }: { handle: JobHandle; dividing: Dividing }) {
  const take = (seams: boolean) => fit(handle.view.id, dividing, dividing.machine, seams);
  return (
    <>
      <Press look="box" onClick={() => take(true)}>
        At seams
      </Press>
      <Press look="box" onClick={() => take(false)}>
        Even
      </Press>
    </>
  );
}
