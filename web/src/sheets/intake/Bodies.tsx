import { useMemo } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Body, JobView, UserAction, Task } from "../../api/types";
import { useFills } from "../../bench/colours";
import { Press } from "../../blocks/Press";
import { Head } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import type { Selection } from "../../job/useSelection";
import css from "./Bodies.module.css";
import { BodyRow, LikeRows } from "./BodyRow";

/** So many bodies of the same part are one row until they are asked for. */
const FOLDED_FROM = 3;

interface Props {
  handle: JobHandle;
  selection: Selection;
  act: (action: UserAction) => Promise<unknown>;
  begin: (task: Task) => Promise<unknown>;
}

/** The bodies: named, coloured, counted; selected one by one, several or all. */
export function Bodies({ handle, selection, act, begin }: Props) {
  const { view } = handle;
  const { bodies } = view.job;
  const fills = useFills(bodies);
  const { selected, hidden } = selection;
  const parts = useMemo(() => partsOf(view), [view]);
  const row = (body: Body) => ({ handle, selection, act, body, fill: fills.get(body.id)! });
  return (
    <section aria-label="Bodies">
      <Head title={bodies.length === 1 ? "Body" : `Bodies (${bodies.length})`}>
        {bodies.length > 1 && (
          <Press
            className="link"
            onClick={() => selection.selectAll(selected.length === bodies.length ? [] : bodies.map((body) => body.id))}
          >
            {selected.length === bodies.length ? "Select none" : "Select all"}
          </Press>
        )}
        {hidden.length > 0 && (
          <Press className="link" onClick={selection.showAll}>
            Show all
          </Press>
        )}
      </Head>
      <ul className={css.list}>
        {parts.map(({ body, like }) =>
          like.length < FOLDED_FROM ? (
            <BodyRow key={body.id} {...row(body)} />
          ) : (
            <LikeRows key={body.id} {...row(body)} like={like} />
          ),
        )}
      </ul>
      {bodies.length > 0 && <Doings handle={handle} selection={selection} act={act} begin={begin} />}
    </section>
  );
}

/** The bodies, each with those that are the same part; of many only the first is listed by itself. */
function partsOf(view: JobView): { body: Body; like: Body[] }[] {
  const listed = new Set<string>();
  return view.job.bodies.flatMap((body) => {
    if (listed.has(body.id)) return [];
    const same = view.survey.bodies.find((facts) => facts.id === body.id)?.identical ?? [];
    const like = view.job.bodies.filter((one) => same.includes(one.id));
    if (like.length >= FOLDED_FROM) like.forEach((one) => listed.add(one.id));
    return [{ body, like }];
  });
}

/** What can be done with the selected bodies, or with the only one. */
function Doings({ handle, selection, act, begin }: Props) {
  const { view } = handle;
  const { bodies } = view.job;
  const chosen = bodies.length === 1 ? bodies : bodies.filter((body) => selection.selected.includes(body.id));
  const ids = chosen.map((body) => body.id);
  if (!chosen.length)
    return (
      <p className={css.hint}>
        Click a body in the bench or tick it here; Shift-click adds one. Bodies of one file keep their common origin.
      </p>
    );
  const [first] = chosen;
  const several = chosen.length > 1;
  const kits = new Set(chosen.map((body) => body.kit));
  const oneKit = kits.size === 1 && first!.kit;
  const wholeKit = oneKit && bodies.filter((body) => body.kit === first!.kit).length === chosen.length;
  return (
    <div className={css.doings} role="toolbar" aria-label="Selected bodies">
      {bodies.length > 1 && (
        <>
          <Do
            says="Show alone"
            go={() => {
              selection.showAll();
              selection.hide(bodies.filter((body) => !ids.includes(body.id)).map((body) => body.id));
            }}
          />
          <Do says="Hide" go={() => selection.hide(ids)} />
        </>
      )}
      <Do says="Duplicate" go={() => act({ do: "duplicate", bodies: ids })} />
      <Do says="Remove" go={() => act({ do: "delete", bodies: ids })} />
      {several && <Do says="Join into one solid" go={() => begin({ do: "join", bodies: ids })} />}
      {several && <Do says="Take as one" go={() => begin({ do: "take-as-one", bodies: ids })} />}
      {!several && first!.health.shells! - first!.voids! > 1 && (
        <Do says="Separate" go={() => begin({ do: "separate", body: first!.id })} />
      )}
      {several && !wholeKit && (
        <Do says="Make a kit" go={() => handle.act({ do: "make-kit", bodies: ids, name: first!.name }).catch(tell)} />
      )}
      {oneKit && <Do says="Take out of the kit" go={() => act({ do: "leave-kit", bodies: ids })} />}
      <Purpose chosen={chosen} act={act} />
      {chosen.some((body) => body.colour) && (
        <Do says="No colour" go={() => act({ do: "paint", bodies: ids, colour: null })} />
      )}
      {several && <NameAll handle={handle} ids={ids} />}
    </div>
  );
}

/** One name for all that are selected, numbered. */
function NameAll({ handle, ids }: { handle: JobHandle; ids: string[] }) {
  const named = (pattern: string) => handle.act({ do: "rename-all", bodies: ids as [string, ...string[]], pattern });
  return (
    <span className={css.nameAll}>
      <span>name all</span>
      <TypedField words label="Name of all selected" value="" placeholder="a name" width={130} commit={named} />
      <span className="soft">
        numbered, or where {"{n}"} stands; {"{name}"} is the name of each
      </span>
    </span>
  );
}

/** Whether bodies are printed, or only there to check others against. */
function Purpose({ chosen, act }: { chosen: Body[]; act: Props["act"] }) {
  const set = (for_checking: boolean) =>
    act({ do: "set-purpose", bodies: chosen.map((body) => body.id) as [string, ...string[]], for_checking });
  return (
    <>
      {chosen.some((body) => !body.for_checking) && <Do says="Only to check against" go={() => set(true)} />}
      {chosen.some((body) => body.for_checking) && <Do says="To print" go={() => set(false)} />}
    </>
  );
}

function Do({ says, go }: { says: string; go: () => unknown }) {
  return <Press onClick={go}>{says}</Press>;
}
