import { useMemo } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Body, JobView, UserAction, Work } from "../../api/types";
import { fillsOf } from "../../bench/colours";
import { count, mm, volume } from "../../blocks/numbers";
import { Head } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import type { Selection } from "../../job/useSelection";
import css from "./Bodies.module.css";

interface Props {
  handle: JobHandle;
  selection: Selection;
  act: (action: UserAction) => void;
  work: (work: Work) => void;
}

/** The bodies: named, coloured, counted; selected one by one, several or all. */
export function Bodies({ handle, selection, act, work }: Props) {
  const { view } = handle;
  const { bodies } = view.job;
  const fills = useMemo(() => fillsOf(bodies), [bodies]);
  const alike = (body: Body) => (body.alike ? bodies.filter((one) => one.alike === body.alike).length : 1);
  const { selected, hidden } = selection;
  return (
    <section aria-label="Bodies">
      <Head title={bodies.length === 1 ? "Body" : `Bodies (${bodies.length})`}>
        {bodies.length > 1 && (
          <button type="button" className="link" onClick={() => selection.selectAll(selected.length === bodies.length ? [] : bodies.map((body) => body.id))}>
            {selected.length === bodies.length ? "Select none" : "Select all"}
          </button>
        )}
        {hidden.length > 0 && (
          <button type="button" className="link" onClick={selection.showAll}>
            Show all
          </button>
        )}
      </Head>
      <ul className={css.list}>
        {bodies.map((body) => (
          <li key={body.id} className={[css.row, selected.includes(body.id) && css.on, hidden.includes(body.id) && css.away].filter(Boolean).join(" ")} data-testid={`body-${body.name}`}>
            <input type="checkbox" aria-label={`Select ${body.name}`} checked={selected.includes(body.id)} onChange={() => selection.select(body.id, true)} />
            <input
              type="color"
              className={css.colour}
              aria-label={`Colour of ${body.name}`}
              value={fills.get(body.id)}
              onChange={(event) => act({ do: "paint", bodies: selected.includes(body.id) ? selected : [body.id], colour: event.target.value })}
            />
            <span className={css.what}>
              <TypedField words label={bodies.length === 1 ? "Name of the body" : `Name of ${body.name}`} value={body.name} width={176} commit={(name) => handle.act({ do: "rename", body: body.id, name })} />
              <small>{factsOf(view, body)}</small>
            </span>
            <span className={css.state}>
              {alike(body) > 1 && <b title="bodies of the same shape">×{alike(body)}</b>}
              {body.health.closed ? <span className="settled">closed</span> : <span className="stop">open</span>}
            </span>
          </li>
        ))}
      </ul>
      {bodies.length > 0 && <Doings handle={handle} selection={selection} act={act} work={work} />}
    </section>
  );
}

function factsOf(view: JobView, body: Body): string {
  const facts = view.survey.bodies.find((one) => one.id === body.id);
  const kit = view.job.kits?.find((one) => one.id === body.kit)?.name;
  return [
    facts?.chain ? `${facts.chain.map((row) => mm(row.size_mm)).join(" × ")}` : `${count(body.triangles)} triangles`,
    facts?.volume_mm3 != null && volume(facts.volume_mm3),
    body.voids! > 0 && `${body.voids} void${body.voids! > 1 ? "s" : ""}`,
    body.material,
    facts?.chain && `${count(body.triangles)} tri`,
    kit && view.job.kits!.length > 1 && `kit ${kit}`,
  ]
    .filter(Boolean)
    .join(", ");
}

/** What can be done with the selected bodies, or with the only one. */
function Doings({ handle, selection, act, work }: Props) {
  const { view } = handle;
  const { bodies } = view.job;
  const chosen = bodies.length === 1 ? bodies : bodies.filter((body) => selection.selected.includes(body.id));
  const ids = chosen.map((body) => body.id);
  if (!chosen.length) return <p className={css.hint}>Click a body in the bench or tick it here; Shift-click adds one. Bodies of one file keep their common origin.</p>;
  const [first] = chosen;
  const several = chosen.length > 1;
  const kits = new Set(chosen.map((body) => body.kit));
  const oneKit = kits.size === 1 && first!.kit;
  const wholeKit = oneKit && bodies.filter((body) => body.kit === first!.kit).length === chosen.length;
  return (
    <div className={css.doings} role="toolbar" aria-label="Selected bodies">
      {bodies.length > 1 && (
        <>
          <Do says="Show alone" go={() => { selection.showAll(); selection.hide(bodies.filter((body) => !ids.includes(body.id)).map((body) => body.id)); }} />
          <Do says="Hide" go={() => selection.hide(ids)} />
        </>
      )}
      <Do says="Duplicate" go={() => act({ do: "duplicate", bodies: ids })} />
      <Do says="Delete" go={() => act({ do: "delete", bodies: ids })} />
      {several && <Do says="Join into one solid" go={() => work({ do: "join", bodies: ids })} />}
      {several && <Do says="Take as one" go={() => work({ do: "take-as-one", bodies: ids })} />}
      {!several && first!.health.shells! - first!.voids! > 1 && <Do says="Separate" go={() => work({ do: "separate", body: first!.id })} />}
      {several && !wholeKit && <Do says="Make a kit" go={() => void handle.act({ do: "make-kit", bodies: ids, name: first!.name }).catch(tell)} />}
      {oneKit && <Do says="Take out of the kit" go={() => act({ do: "leave-kit", bodies: ids })} />}
      {chosen.some((body) => body.colour) && <Do says="No colour" go={() => act({ do: "paint", bodies: ids, colour: null })} />}
    </div>
  );
}

function Do({ says, go }: { says: string; go: () => void }) {
  return (
    <button type="button" onClick={go}>
      {says}
    </button>
  );
}
