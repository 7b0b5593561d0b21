import type { Body, Division, JobView } from "../../api/types";
import type { JobHandle } from "../../api/useJob";
import { tell } from "../../api/useJob";
import { api } from "../../api/client";
import { Choice } from "../../blocks/Choice";
import type { Selection } from "../../job/useSelection";
import { mm, rounded } from "../../blocks/numbers";
import { Head, Sheet, UnitFirst } from "../../blocks/Sheet";
import { NextStep } from "../../blocks/NextStep";
import { Working } from "../../blocks/Working";
import css from "./Division.module.css";
import { OtherWays } from "./OtherWays";
import { PieceTable } from "./PieceTable";
import { PinFields } from "./PinFields";
import { PlaneTable } from "./PlaneTable";
import { SectionCurve } from "./SectionCurve";
import type { Dividing } from "./useDivision";

/** Sheet 4: a body cut to fit, split, hollowed or joined; the whole stays, and is asked for again. */
export function DivisionSheet({ handle, dividing, selection }: { handle: JobHandle; dividing: Dividing | null; selection: Selection }) {
  const { view } = handle;
  if (!dividing?.facts.chain) {
    return (
      <Sheet label="Division">
        <UnitFirst job={view.id} doing="any size in mm" />
      </Sheet>
    );
  }
  const errand = view.errands.find((one) => one.kind === "remake" && (one.state === "waiting" || one.state === "doing"));
  const failed = view.errands.find((one) => one.kind === "remake" && one.state === "failed");
  return (
    <Sheet label="Division">
      <Head title={dividing.body.name}>
        <Which view={view} dividing={dividing} selection={selection} />
      </Head>
      {errand && (
        <>
          <Working errand={errand} />
          <div className={css.line}>
            <button type="button" className="link" onClick={() => void api.stop(view.id, errand.id)}>
              Stop
            </button>
          </div>
        </>
      )}
      {!errand && failed?.error && <p className={css.problem}>{[failed.error.says, failed.error.remedy].filter(Boolean).join("; ")}</p>}
      {dividing.body.health.closed ? <Work handle={handle} dividing={dividing} busy={!!errand} /> : <p className={css.problem}>{dividing.body.name} is not a closed solid, so it bounds nothing to cut; close its holes on Intake.</p>}
      <NextStep to={`/jobs/${view.id}/seating`} says={dividing.division ? "Its pieces are seated one by one." : "A body that fits need not be divided."}>
        Go on to Seating
      </NextStep>
    </Sheet>
  );
}

/** Which body the sheet is about, where there are several: the wholes, and pieces that may be divided further. */
function Which({ view, dividing, selection }: { view: JobView; dividing: Dividing; selection: Selection }) {
  const loose = (body: Body) => body.recipe?.step === "shaped" && body.recipe.shaping.by === "dowel";
  const bodies = view.job.bodies.filter((one) => !loose(one));
  if (bodies.length < 2) return null;
  return <Choice label="Body" value={dividing.body.id} options={bodies.map((one) => [one.id, one.name] as const)} choose={(id) => selection.selectAll([id])} width={168} />;
}

function Work({ handle, dividing, busy }: { handle: JobHandle; dividing: Dividing; busy: boolean }) {
  const { view } = handle;
  const { division, drafting, prospect, draft, body, machine } = dividing;
  const size = dividing.facts.chain!.size_mm.map((one) => Math.round(one)).join(" × ");
  const pieces = prospect?.pieces.length ?? 0;
  const needed = (prospect?.counts ?? [1]).reduce((all, one) => all * one!, 1)!;
  const make = () =>
    void handle
      .change((on) => api.work(view.id, on, { do: "shape", bodies: [body.id], instead: division?.id ?? "", asked: { by: "planes", planes: draft.planes, pins: draft.pins, keep: draft.keep, slivers: draft.slivers, seams: false } }))
      .then(() => dividing.rethink(false))
      .catch(tell);
  return (
    <>
      {drafting && (
        <>
          <p className={css.lead}>
            {prospect &&
              (needed > 1 ? (
                <>
                  {size} goes into {machine.name} in {prospect.counts.join(" × ")} = <b>{needed} pieces</b>
                </>
              ) : (
                <>
                  {size} goes into {machine.name} <b>as it lies</b>
                </>
              ))}
          </p>
          <div className={css.line}>
            <Choice label="Machine to fit" value={machine.name!} options={dividing.machines.map((one) => [one.machine.name!, one.machine.name!] as const)} choose={dividing.fitTo} width={168} />
            <Fitting handle={handle} dividing={dividing} />
          </div>
          <PlaneTable view={view} dividing={dividing} />
          {dividing.problem && draft.planes.length > 0 && <p className={css.problem}>{dividing.problem.line}</p>}
          <SectionCurve dividing={dividing} />
          <PinFields dividing={dividing} />
          {prospect && pieces > 0 && <PieceTable view={view} dividing={dividing} />}
          <div className={css.line}>
            <button type="button" className={css.main} disabled={busy || pieces < 2} onClick={make}>
              {pieces > 1 ? `Divide into ${pieces} pieces` : "Divide"}
            </button>
            {division && (
              <button type="button" className="link" onClick={() => dividing.rethink(false)}>
                Leave it as it is
              </button>
            )}
          </div>
        </>
      )}
      {!drafting && division && (
        <>
          {dividing.pieces.some((one) => one.facts.stale) && <p className={css.told}>Its whole has changed; what was made of it is made again.</p>}
          <PieceTable view={view} dividing={dividing} />
          <Measured division={division} />
          {(division.without ?? []).map((says) => (
            <p key={says} className={css.told}>
              {says}
            </p>
          ))}
          <div className={css.line}>
            {division.asked.by === "planes" && (
              <button type="button" className={css.button} disabled={busy} onClick={() => dividing.rethink(true)}>
                Divide it otherwise
              </button>
            )}
            <button type="button" className="link" disabled={busy} onClick={() => void handle.act({ do: "undivide", division: division.id }).catch(tell)}>
              Put it back together
            </button>
          </div>
        </>
      )}
      {drafting && !division && <OtherWays handle={handle} dividing={dividing} busy={busy} />}
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

const span = (least: number, greatest: number) => (rounded(least, 2) === rounded(greatest, 2) ? rounded(least, 2) : `${rounded(least, 2)} to ${rounded(greatest, 2)}`);

/** Planes that a machine asks for, even or at seams. */
function Fitting({ handle, dividing }: { handle: JobHandle; dividing: Dividing }) {
  const take = async (seams: boolean) => {
    const found = await api.tryDivision(handle.view.id, dividing.body.id, { by: "planes", planes: [], fit: dividing.machine, seams, keep: "all", slivers: "keep" }, dividing.machine).catch(tell);
    if (found) dividing.edit({ planes: found.planes.map((one) => (one.axis ? `${one.axis}=${Number(one.at_mm.toFixed(3))}` : "")) });
  };
  return (
    <>
      <button type="button" className={css.button} onClick={() => void take(true)}>
        At seams
      </button>
      <button type="button" className={css.button} onClick={() => void take(false)}>
        Even
      </button>
    </>
  );
}
