import { useQuery } from "@tanstack/react-query";
import { api, Problem } from "../../api/client";
import type { DivisionPreview, Axis, JobView } from "../../api/types";
import { tell } from "../../api/useJob";
import { Choice } from "../../blocks/Choice";
import { PickList } from "../../blocks/PickList";
import { Press } from "../../blocks/Press";
import { count } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./Division.module.css";
import { AXES, axisOf, letterOf, without, type DraftPlane, type PlaneShown } from "./planes";
import { type Draft, changed, type Changes, type Dividing } from "./useDivision";
import type { Want } from "./useTaking";

/** The planes that are thought of: where, what the section is there, and what hides it. */
export function PlaneTable({ view, dividing }: { view: JobView; dividing: Dividing }) {
  const { draft, edit, prospect, problem, facts, chosen, choose, taking } = dividing;
  const shown = problem ? [] : (prospect?.planes ?? []);
  const put = (number: number, change: Changes<DraftPlane>) =>
    edit((now) => ({ planes: now.planes.map((plane, i) => (i === number ? changed(plane, change) : plane)) }));
  const add = (axis: (typeof AXES)[number]) => {
    const [low, high] = prospect ? [prospect.low, prospect.high] : [[0, 0, 0], facts.chain!.size_mm];
    const i = AXES.indexOf(axis);
    edit({
      planes: [
        ...draft.planes,
        { place: `${axis}=${Number(((low[i]! + high[i]!) / 2).toFixed(2))}`, tilts: {}, where: "" },
      ],
    });
    choose(draft.planes.length);
  };
  const typed = (number: number) => async (text: string) => {
    const axis = axisOf(draft.planes[number]!);
    // What names no axis stays across the one that the plane is across now.
    const plain = /^[^=@]+$/.test(text) && axis ? `${axis}=${text.trim()}` : text.trim();
    if (!plain) throw new Problem(422, "plane", "a plane needs a place", "", "type for example 120, or z=120");
    put(number, { place: plain });
  };
  const now = chosen === null ? undefined : shown[chosen];
  return (
    <>
      {draft.planes.length > 0 && (
        <TypedPlanes draft={draft} shown={shown} chosen={chosen} choose={choose} typed={typed} edit={edit} />
      )}
      {chosen !== null && (
        <Closer number={chosen} plane={draft.planes[chosen]!} shown={now} put={(change) => put(chosen, change)} />
      )}
      <AddPlaneLine add={add} dividing={dividing} draft={draft} edit={edit} />
      {taking.want === "face" && (
        <Faces
          view={view}
          dividing={dividing}
          label="Faces to put a plane through"
          hint="Click a face in the bench, or choose one; then move the plane by its number."
          take={(face) => void dividing.through(face).catch(tell)}
        />
      )}
      {taking.want === "three" && (
        <p className={css.lead}>Click three places in the bench; {3 - taking.got.length} to go.</p>
      )}
    </>
  );
}

interface TypedPlanesProps {
  draft: Draft;
  shown: DivisionPreview["planes"];
  chosen: number | null;
  choose: (number: number | null) => void;
  typed: (number: number) => (text: string) => Promise<unknown>;
  edit: (change: Changes<Draft>) => void;
}

/** The planes that were typed, a row each. */
function TypedPlanes({ draft, shown, chosen, choose, typed, edit }: TypedPlanesProps) {
  return (
    <table className={`${sheetCss.table} ${css.planes}`} aria-label="Planes">
      <thead>
        <tr>
          <th>Plane</th>
          <th className={sheetCss.r}>at, mm</th>
          <th className={sheetCss.r}>section</th>
          <th className={sheetCss.r}>outlines</th>
          <th>seam</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {draft.planes.map((plane, i) => {
          const one = shown.length === draft.planes.length ? shown[i] : undefined;
          const axis = axisOf(plane);
          return (
            <PlaneRow
              key={i}
              i={i}
              chosen={chosen}
              choose={choose}
              plane={plane}
              axis={axis}
              typed={typed}
              one={one}
              edit={edit}
              draft={draft}
            />
          );
        })}
      </tbody>
    </table>
  );
}

interface AddPlaneLineProps {
  add: (axis: Axis) => void;
  dividing: Dividing;
  draft: Draft;
  edit: (change: Changes<Draft>) => void;
}

/** The ways to add a plane. */
function AddPlaneLine({ add, dividing, draft, edit }: AddPlaneLineProps) {
  return (
    <div className={css.line}>
      <span className="soft">Add a plane across</span>
      {AXES.map((axis) => (
        <Press key={axis} className="link" onClick={() => add(axis)}>
          {axis.toUpperCase()}
        </Press>
      ))}
      <Asking dividing={dividing} want="face" says="Through a face" leave="Leave the faces" />
      <Asking dividing={dividing} want="three" says="Through three places" leave="Leave the places" />
      {draft.planes.length > 0 && (
        <Press className="link" onClick={() => edit({ planes: [] })}>
          Remove all
        </Press>
      )}
    </div>
  );
}

interface PlaneRowProps {
  i: number;
  chosen: number | null;
  choose: (number: number | null) => void;
  plane: DraftPlane;
  axis: Axis | null;
  typed: (number: number) => (text: string) => Promise<unknown>;
  one: DivisionPreview["planes"][number] | undefined;
  edit: (change: Changes<Draft>) => void;
  draft: Draft;
}

/** One plane, as it was typed, with what it leaves. */
function PlaneRow({ i, chosen, choose, plane, axis, typed, one, edit, draft }: PlaneRowProps) {
  return (
    <tr className={i === chosen ? css.chosen : undefined}>
      <td>
        <Press
          className={css.pick}
          aria-pressed={i === chosen}
          aria-label={`Plane ${letterOf(i)}`}
          onClick={() => choose(i === chosen ? null : i)}
        >
          <span className={css.letter}>{letterOf(i)}</span> {saidOf(plane)}
        </Press>
      </td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Plane ${letterOf(i)}, at`}
          value={axis ? plane.place.replace(/^\s*[xyz]\s*=\s*/i, "") : plane.place}
          width={axis ? 76 : 110}
          commit={typed(i)}
        />
      </td>
      <td className={`${sheetCss.r} number`}>{one ? `${count(Math.round(one.area_mm2))} mm²` : "–"}</td>
      <td className={`${sheetCss.r} number`}>{one?.outlines ?? "–"}</td>
      <td>{one && <span className={one.seam ? "settled" : "soft"}>{one.seam ? SEAMS[one.seam] : "plain"}</span>}</td>
      <td className={sheetCss.r}>
        <Press
          className="link"
          aria-label={`Remove plane ${letterOf(i)}`}
          onClick={() => edit({ planes: without(draft.planes, i) })}
        >
          ×
        </Press>
      </td>
    </tr>
  );
}

/** A link that asks for clicks on the body, and leaves them. */
export function Asking({
  dividing: { taking },
  want,
  says,
  leave,
}: {
  dividing: Dividing;
  want: Want;
  says: string;
  leave: string;
}) {
  const on = taking.want === want;
  return (
    <Press className="link" aria-pressed={on} onClick={() => taking.ask(on ? null : want)}>
      {on ? leave : says}
    </Press>
  );
}

interface CloserProps {
  number: number;
  plane: DraftPlane;
  shown: PlaneShown | undefined;
  put: (change: Changes<DraftPlane>) => void;
}

/** One plane closer: what it is limited to, and how it is tilted. */
function Closer({ number, plane, shown, put }: CloserProps) {
  const across = axisOf(plane);
  const limits = (shown?.limits ?? []).filter((limit) => limit.place);
  const known = limits.some((limit) => limit.typed === plane.where);
  const options = [
    ["", "everything"] as const,
    ...limits.map((limit) => [limit.typed, limit.place] as const),
    ...(plane.where && !known ? [[plane.where, plane.where] as const] : []),
  ];
  return (
    <div className={css.closer} aria-label={`Plane ${letterOf(number)} closer`} role="group">
      <span className={css.letter}>{letterOf(number)}</span>
      <span className="soft">cuts</span>
      <Choice
        label={`Plane ${letterOf(number)} cuts`}
        value={plane.where}
        options={options}
        choose={(where) => put({ where })}
        width={98}
      />
      {across && <span className="soft">tilt</span>}
      {across &&
        AXES.filter((axis) => axis !== across).map((axis) => (
          <label key={axis}>
            {axis.toUpperCase()}{" "}
            <TypedField
              label={`Plane ${letterOf(number)}, degrees about ${axis.toUpperCase()}`}
              value={plane.tilts[axis] ?? "0"}
              width={66}
              commit={async (text) => put((now) => ({ tilts: { ...now.tilts, [axis]: text.replace(/[°\s]/g, "") } }))}
            />
            °
          </label>
        ))}
    </div>
  );
}

function saidOf(plane: DraftPlane): string {
  const axis = axisOf(plane);
  const tilted = AXES.some((one) => Number(plane.tilts[one] ?? 0) !== 0);
  const lies = !axis ? "tilted" : `${tilted ? "tilted" : "across"} ${axis.toUpperCase()}`;
  return plane.where ? `${lies}, in part` : lies;
}

interface FacesProps {
  view: JobView;
  dividing: Dividing;
  label: string;
  hint: string;
  /** Triangles of faces that are chosen already. */
  pressed?: number[];
  take: (face: number) => void;
}

/** The flat faces of the body, to choose from without a pointer; a click in the bench does the same. */
export function Faces({ view, dividing, label, hint, pressed, take }: FacesProps) {
  const { body, taking } = dividing;
  const { data } = useQuery({
    queryKey: ["features", view.id, body.id, view.number],
    queryFn: () => api.features(view.id, body.id),
    placeholderData: (before) => before,
  });
  const flats = (data ?? []).filter((line) => line.kind === "flat").sort((a, b) => b.area_mm2 - a.area_mm2);
  return (
    <PickList
      label={label}
      bodies={[[body.id, body.name]]}
      body={body.id}
      choose={() => undefined}
      close={() => taking.ask(null)}
      hint={data && flats.length === 0 ? "It has no flat face." : hint}
      rows={flats.map((flat) => ({
        id: flat.id,
        says: flat.says,
        aside: `${count(Math.round(flat.area_mm2))} mm², ${flat.where}`,
        pressed: pressed?.includes(flat.face),
        take: () => take(flat.face),
      }))}
    />
  );
}

export const SEAMS: Record<string, string> = { groove: "in a groove", ledge: "on a ledge", narrow: "narrowest" };
