import { useQuery } from "@tanstack/react-query";
import { api, Problem } from "../../api/client";
import type { JobView } from "../../api/types";
import { tell } from "../../api/useJob";
import { PickList } from "../../blocks/PickList";
import { count } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import css from "./Division.module.css";
import type { Dividing } from "./useDivision";

const AXES = ["x", "y", "z"] as const;

/** The planes that are thought of: where, what the section is there, and what hides it. */
export function PlaneTable({ view, dividing }: { view: JobView; dividing: Dividing }) {
  const { draft, edit, prospect, problem, facts } = dividing;
  const shown = problem ? [] : (prospect?.planes ?? []);
  const put = (number: number, text: string) => edit({ planes: draft.planes.map((one, i) => (i === number ? text : one)) });
  const add = (axis: (typeof AXES)[number]) => {
    const [low, high] = prospect ? [prospect.low, prospect.high] : [[0, 0, 0], facts.chain!.size_mm];
    const i = AXES.indexOf(axis);
    edit({ planes: [...draft.planes, `${axis}=${Number(((low[i]! + high[i]!) / 2).toFixed(2))}`] });
  };
  const typed = (number: number) => async (text: string) => {
    const now = draft.planes[number]!;
    // A bare number stays across the axis that the plane is across now.
    const plain = /^[^=@]+$/.test(text) && /^[xyz]=/.test(now) ? `${now[0]}=${text.trim()}` : text.trim();
    if (!plain) throw new Problem(422, "plane", "a plane needs a place", "", "type for example 120, or z=120");
    put(number, plain);
  };
  return (
    <>
      {draft.planes.length > 0 && (
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
            {draft.planes.map((text, i) => {
              const one = shown.length === draft.planes.length ? shown[i] : undefined;
              const axis = /^[xyz]=/.test(text) ? text[0]! : "";
              return (
                <tr key={i}>
                  <td>
                    <span className={css.letter}>{letterOf(i)}</span> {axis ? `across ${axis.toUpperCase()}` : "tilted"}
                  </td>
                  <td className={sheetCss.r}>
                    <TypedField label={`Plane ${letterOf(i)}, at`} value={axis ? text.slice(2) : text} width={axis ? 76 : 110} commit={typed(i)} />
                  </td>
                  <td className={`${sheetCss.r} number`}>{one ? `${count(Math.round(one.area_mm2))} mm²` : "–"}</td>
                  <td className={`${sheetCss.r} number`}>{one?.outlines ?? "–"}</td>
                  <td>{one && <span className={one.seam ? "settled" : "soft"}>{one.seam ? SEAMS[one.seam] : "plain"}</span>}</td>
                  <td className={sheetCss.r}>
                    <button type="button" className="link" aria-label={`Remove plane ${letterOf(i)}`} onClick={() => edit({ planes: draft.planes.filter((_, k) => k !== i) })}>
                      ×
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <div className={css.line}>
        <span className="soft">Add a plane across</span>
        {AXES.map((axis) => (
          <button key={axis} type="button" className="link" onClick={() => add(axis)}>
            {axis.toUpperCase()}
          </button>
        ))}
        <button type="button" className="link" aria-pressed={dividing.picking} onClick={() => dividing.pick(!dividing.picking)}>
          {dividing.picking ? "Leave the faces" : "Through a face"}
        </button>
        {draft.planes.length > 0 && (
          <button type="button" className="link" onClick={() => edit({ planes: [] })}>
            Remove all
          </button>
        )}
      </div>
      {dividing.picking && <Faces view={view} dividing={dividing} />}
    </>
  );
}

/** The flat faces of the body, to put a plane through; a click in the bench does the same. */
function Faces({ view, dividing }: { view: JobView; dividing: Dividing }) {
  const { body, through, pick } = dividing;
  const { data } = useQuery({ queryKey: ["features", view.id, body.id, view.number], queryFn: () => api.features(view.id, body.id), placeholderData: (before) => before });
  const flats = (data ?? []).filter((one) => one.kind === "flat").sort((a, b) => b.area_mm2 - a.area_mm2);
  return (
    <PickList
      label="Faces to put a plane through"
      bodies={[[body.id, body.name]]}
      body={body.id}
      choose={() => undefined}
      close={() => pick(false)}
      hint={data && flats.length === 0 ? "It has no flat face." : "Click a face in the bench, or choose one; then move the plane by its number."}
      rows={flats.map((one) => ({ id: one.id, says: one.says, aside: `${count(Math.round(one.area_mm2))} mm², ${one.where}`, take: () => void through(one.face).catch(tell) }))}
    />
  );
}

export const SEAMS: Record<string, string> = { groove: "in a groove", ledge: "on a ledge", narrow: "narrowest" };

/** The letter of a plane, as the core names it: A to Z, then AA and on. */
function letterOf(number: number): string {
  return (number >= 26 ? letterOf(Math.floor(number / 26) - 1) : "") + String.fromCharCode(65 + (number % 26));
}
