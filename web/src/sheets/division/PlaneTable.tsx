import { Columns } from "../../blocks/Columns";
import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";
import type { DivisionPreview, JobView, PlaneEdit, TypedPlane } from "../../api/types";
import { tell } from "../../api/useJob";
import { Choice } from "../../blocks/Choice";
import { PickList } from "../../blocks/PickList";
import { Press } from "../../blocks/Press";
import { count } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./Division.module.css";
import { AXES } from "./places";
import type { Changes, Dividing, Draft } from "./useDivision";
import type { Want } from "./useTaking";

/** The planes that are thought of: where, what the section is there, and what hides it. */
export function PlaneTable({ view, dividing }: { view: JobView; dividing: Dividing }) {
  const { draft, edit, plan, prospect, problem, chosen, choose, taking } = dividing;
  const shown = problem ? [] : (prospect?.planes ?? []);
  return (
    <>
      {draft.planes.length > 0 && (
        <TypedPlanes draft={draft} shown={shown} chosen={chosen} choose={choose} plan={plan} />
      )}
      {chosen !== null && <Closer number={chosen} plane={draft.planes[chosen]!} shown={shown[chosen]} plan={plan} />}
      <AddPlaneLine dividing={dividing} draft={draft} edit={edit} />
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

type PlaneShown = DivisionPreview["planes"][number];
type Plan = (edit: PlaneEdit) => Promise<void>;

interface TypedPlanesProps {
  draft: Draft;
  shown: DivisionPreview["planes"];
  chosen: number | null;
  choose: (number: number | null) => void;
  plan: Plan;
}

/** The planes that were typed, a row each. */
function TypedPlanes({ draft, shown, chosen, choose, plan }: TypedPlanesProps) {
  return (
    <table className={`${sheetCss.table} ${css.planes}`} aria-label="Planes">
      <Columns
        of={[
          "Plane",
          { numbers: "at, mm" },
          { numbers: "section" },
          { numbers: "outlines" },
          "seam",
          { unseen: "what can be done" },
        ]}
      />
      <tbody>
        {draft.planes.map((plane, i) => (
          <PlaneRow
            key={i}
            i={i}
            chosen={i === chosen}
            choose={choose}
            plane={plane}
            shown={shown.length === draft.planes.length ? shown[i] : undefined}
            plan={plan}
          />
        ))}
      </tbody>
    </table>
  );
}

interface AddPlaneLineProps {
  dividing: Dividing;
  draft: Draft;
  edit: (change: Changes<Draft>) => void;
}

/** The ways to add a plane. */
function AddPlaneLine({ dividing, draft, edit }: AddPlaneLineProps) {
  return (
    <div className={css.line}>
      <span className="soft">Add a plane across</span>
      {AXES.map((axis) => (
        <Press key={axis} className="link" onClick={() => void dividing.plan({ do: "add-middle", axis }).catch(tell)}>
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
  chosen: boolean;
  choose: (number: number | null) => void;
  plane: TypedPlane;
  shown: PlaneShown | undefined;
  plan: Plan;
}

/** One plane, as it was typed, with what it leaves. */
function PlaneRow({ i, chosen, choose, plane, shown, plan }: PlaneRowProps) {
  const { letter, axis, place, says } = plane;
  return (
    <tr className={chosen ? css.chosen : undefined}>
      <td>
        <Press
          className={css.pick}
          aria-pressed={chosen}
          aria-label={`Plane ${letter}`}
          onClick={() => choose(chosen ? null : i)}
        >
          <span className={css.letter}>{letter}</span> {says}
        </Press>
      </td>
      <td className={sheetCss.r}>
        <TypedField
          label={`Plane ${letter}, at`}
          value={place}
          width={axis ? 76 : 110}
          commit={(text) => plan({ do: "place", number: i, text })}
        />
      </td>
      <td className={`${sheetCss.r} number`}>{shown ? `${count(Math.round(shown.area_mm2))} mm²` : "–"}</td>
      <td className={`${sheetCss.r} number`}>{shown?.outlines ?? "–"}</td>
      <td>
        {shown && <span className={shown.seam ? "settled" : "soft"}>{shown.seam ? SEAMS[shown.seam] : "plain"}</span>}
      </td>
      <td className={sheetCss.r}>
        <Press
          className="link"
          aria-label={`Remove plane ${letter}`}
          onClick={() => void plan({ do: "remove", number: i }).catch(tell)}
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
  plane: TypedPlane;
  shown: PlaneShown | undefined;
  plan: Plan;
}

/** One plane closer: what it is limited to, and how it is tilted. */
function Closer({ number, plane, shown, plan }: CloserProps) {
  const { axis: across, letter } = plane;
  const limits = (shown?.limits ?? []).filter((limit) => limit.place);
  const known = limits.some((limit) => limit.typed === plane.where);
  const options = [
    ["", "everything"] as const,
    ...limits.map((limit) => [limit.typed, limit.place] as const),
    ...(plane.where && !known ? [[plane.where, plane.where] as const] : []),
  ];
  return (
    <div className={css.closer} aria-label={`Plane ${letter} closer`} role="group">
      <span className={css.letter}>{letter}</span>
      <span className="soft">cuts</span>
      <Choice
        label={`Plane ${letter} cuts`}
        value={plane.where}
        options={options}
        choose={(where) => void plan({ do: "limit", number, where }).catch(tell)}
        width={98}
      />
      {across && <span className="soft">tilt</span>}
      {across &&
        AXES.filter((axis) => axis !== across).map((axis) => (
          <label key={axis}>
            {axis.toUpperCase()}{" "}
            <TypedField
              label={`Plane ${letter}, degrees about ${axis.toUpperCase()}`}
              value={plane.tilts[axis] ?? "0"}
              width={66}
              commit={(degrees) => plan({ do: "tilt", number, axis, degrees })}
            />
            °
          </label>
        ))}
    </div>
  );
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
      hint={
        data && flats.length === 0
          ? "It has no flat face to cut along: it is curved all over. Type where the plane is instead."
          : hint
      }
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
