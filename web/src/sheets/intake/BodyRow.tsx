import { Checkbox } from "@mantine/core";
import { useState } from "react";
import type { JobHandle } from "../../api/useJob";
import type { Body, BodySurvey, JobView, UserAction } from "../../api/types";
import { Press } from "../../blocks/Press";
import { count, microns, mm, volume } from "../../blocks/numbers";
import { TypedField } from "../../blocks/TypedField";
import type { Selection } from "../../job/useSelection";
import css from "./Bodies.module.css";
import { Colour } from "./Colour";

interface Props {
  handle: JobHandle;
  selection: Selection;
  act: (action: UserAction) => unknown;
  body: Body;
  fill: string;
}

/** One body: selected, coloured, named, with its facts. */
export function BodyRow({ handle, selection, act, body, fill }: Props) {
  const { view } = handle;
  const { selected, hidden } = selection;
  const only = view.job.bodies.length === 1;
  const like = view.survey.bodies.find((facts) => facts.id === body.id)?.identical ?? [];
  return (
    <li
      className={[css.row, selected.includes(body.id) && css.on, hidden.includes(body.id) && css.away]
        .filter(Boolean)
        .join(" ")}
      data-body={body.id}
      data-testid={`body-${body.name}`}
    >
      <Checkbox
        aria-label={`Select ${body.name}`}
        checked={selected.includes(body.id)}
        onChange={() => selection.select(body.id, true)}
      />
      <Colour
        label={`Colour of ${body.name}`}
        value={fill}
        commit={(colour) => act({ do: "paint", bodies: selected.includes(body.id) ? selected : [body.id], colour })}
      />
      <span className={css.what}>
        <TypedField
          words
          label={only ? "Name of the body" : `Name of ${body.name}`}
          value={body.name}
          width={176}
          commit={(name) => handle.act({ do: "rename", body: body.id, name })}
        />
        <small>{factsOf(view, body)}</small>
      </span>
      <span className={css.state}>
        {like.length > 1 && <b title="bodies of the same shape and size">×{like.length}</b>}
        <Closed body={body} facts={view.survey.bodies.find((facts) => facts.id === body.id)} />
      </span>
    </li>
  );
}

/** Many bodies that are the same part: one row for all, and each of them when asked for. */
export function LikeRows({ like, ...props }: Props & { like: Body[] }) {
  const { handle, selection, act, body, fill } = props;
  const [open, setOpen] = useState(false);
  const ids = like.map((one) => one.id);
  const chosen = ids.filter((id) => selection.selected.includes(id)).length;
  // Some of them were picked in the bench: then it matters which.
  const shown = open || (chosen > 0 && chosen < ids.length);
  const others = selection.selected.filter((id) => !ids.includes(id));
  return (
    <>
      <li className={[css.row, chosen > 0 && css.on].filter(Boolean).join(" ")} data-testid={`like-${body.name}`}>
        <Checkbox
          aria-label={`Select all ${ids.length} like ${body.name}`}
          checked={chosen === ids.length}
          indeterminate={chosen > 0 && chosen < ids.length}
          onChange={() => selection.selectAll(chosen === ids.length ? others : [...others, ...ids])}
        />
        <Colour
          label={`Colour of all like ${body.name}`}
          value={fill}
          commit={(colour) => act({ do: "paint", bodies: ids, colour })}
        />
        <span className={css.what}>
          <Press className={css.fold} aria-expanded={shown} onClick={() => setOpen(!open)}>
            {body.name} <i>and {ids.length - 1} alike</i>
          </Press>
          <small>{factsOf(handle.view, body)}</small>
        </span>
        <span className={css.state}>
          <b title="bodies of the same shape and size">×{ids.length}</b>
          <Closed body={body} facts={handle.view.survey.bodies.find((facts) => facts.id === body.id)} />
        </span>
      </li>
      {shown && like.map((one) => <BodyRow key={one.id} {...props} body={one} />)}
    </>
  );
}

function Closed({ body, facts }: { body: Body; facts: BodySurvey | undefined }) {
  if (facts?.divided) return <span title="its pieces stand for it">divided</span>;
  if (facts?.stale) return <span className="look">made again …</span>;
  if (body.for_checking) return <span className="soft">to check</span>;
  return body.health.closed ? <span className="settled">closed</span> : <span className="stop">open</span>;
}

/** How far the facets of a CAD body are from its true surface. */
function deviation(view: JobView, body: Body): string {
  const per = view.survey.sources.find((source) => source.id === body.source)?.mm_per_unit ?? 1;
  // Never broken between a number and its unit.
  return `within ${microns(body.facets!.deviation * per)}`.replaceAll(" ", "\u00a0");
}

function factsOf(view: JobView, body: Body): string {
  const facts = view.survey.bodies.find((one) => one.id === body.id);
  const kit = view.job.kits?.find((one) => one.id === body.kit)?.name;
  return [
    facts?.chain ? `${facts.chain.size_mm.map(mm).join(" × ")}` : `${count(body.triangles)} triangles`,
    facts?.volume_mm3 != null && volume(facts.volume_mm3),
    body.voids! > 0 && `${body.voids} void${body.voids! > 1 ? "s" : ""}`,
    body.material,
    facts?.chain && `${count(body.triangles)} tri`,
    body.facets && deviation(view, body),
    kit && view.job.kits!.length > 1 && `kit ${kit}`,
  ]
    .filter(Boolean)
    .join(", ");
}
