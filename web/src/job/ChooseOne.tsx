import type { ReactNode } from "react";
import type { JobView } from "../api/types";
import { mm } from "../blocks/numbers";
import { Press } from "../blocks/Press";
import { Head, Sheet, sheetCss } from "../blocks/Sheet";
import { Term } from "../house/Term";
import type { Selection } from "./useSelection";

/** As large as a body is released, so that what is decided of several is seen to take hold. */
function sizeOf(view: JobView, body: string): string {
  const chain = view.survey.bodies.find((facts) => facts.id === body)?.chain;
  return chain ? `${chain.released_mm.map(mm).join(" × ")} mm` : "";
}

interface Props {
  title: string;
  view: JobView;
  selection: Selection;
  /** What can be decided of all that are selected. */
  children?: ReactNode;
}

/** Shown where a sheet is about one body or one kit, and several that have no common size are selected. */
export function ChooseOne({ title, view, selection, children }: Props) {
  const lone = view.job.bodies.filter((body) => !body.kit);
  return (
    <Sheet label={title}>
      <Head title="Which one?" />
      <p className={sheetCss.text}>
        A size belongs to one body, or to a <Term of="kit" /> whose bodies share one origin. Choose it here or in the{" "}
        <Term of="bench" />.
      </p>
      <ul className={sheetCss.choices}>
        {view.survey.kits.map((kit) => (
          <li key={kit.id}>
            <Press onClick={() => selection.selectAll(kit.bodies)}>
              {view.job.kits?.find((one) => one.id === kit.id)?.name} <small>kit of {kit.bodies.length}</small>
            </Press>
          </li>
        ))}
        {lone.map((body) => (
          <li key={body.id}>
            <Press onClick={() => selection.selectAll([body.id])}>
              {body.name} <small className="number">{sizeOf(view, body.id)}</small>
            </Press>
          </li>
        ))}
      </ul>
      {children}
    </Sheet>
  );
}
