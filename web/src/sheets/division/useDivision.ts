import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { api, Problem } from "../../api/client";
import type {
  AskInside,
  AskPieces,
  AskPins,
  Axis,
  Body,
  BodySurvey,
  Division,
  JobView,
  Machine,
  MachineView,
  PieceDrawn,
  DivisionPreview,
  SeamsShown,
  Vec3,
} from "../../api/types";
import type { Pick } from "../../bench/picking";
import { parted, plainly, typedText, type DraftPlane } from "./planes";
import { useUndoKeys } from "../../blocks/undoKeys";
import { useTaking, type Taking } from "./useTaking";

const NO_MACHINES: MachineView[] = [];

/** What is thought of for a body: planes as typed, pins, what is kept. */
export interface Draft {
  planes: DraftPlane[];
  pins: AskPins | null;
  keep: NonNullable<AskPieces["keep"]>;
  slivers: NonNullable<AskPieces["slivers"]>;
  /** Pieces are held against the machine turned by quarters. */
  turned: boolean;
  /** So many pieces are meant. */
  sure: boolean;
  /** All bodies of its kit are cut by the same planes. */
  kit: boolean;
  /** It is cut though it is open. */
  open: boolean;
}

/** What is thought of for the other ways of a body. */
export interface Meant {
  trial: { axis: Axis; low: string; high: string; wall: string };
  /** Mouths of drains that were picked, in mm. */
  drains: Vec3[];
  /** Faces that were picked for a second colour: a triangle of each, and where it was clicked, in mm. */
  marks: { face: number; at: Vec3 | null }[];
  /** A drawing by whose outlines it is to be split. */
  outline: AskInside | null;
}

/** Fields of a value that change, or how they follow from the value as it is by then. */
export type Changes<T> = Partial<T> | ((now: T) => Partial<T>);
export const changed = <T>(now: T, change: Changes<T>): T => ({
  ...now,
  ...(typeof change === "function" ? change(now) : change),
});

const EMPTY: Draft = {
  planes: [],
  pins: null,
  keep: "all",
  slivers: "keep",
  turned: false,
  sure: false,
  kit: false,
  open: false,
};
const NONE: PieceDrawn[] = [];
const NOTHING: Meant = { trial: { axis: "z", low: "", high: "", wall: "" }, drains: [], marks: [], outline: null };

/** What of Division is looked at: a body, how it is divided, planes that are thought of. */
export interface Dividing {
  body: Body;
  facts: BodySurvey;
  /** What its pieces were made by; null while it is whole. */
  division: Division | null;
  /** The pieces, in their order, when it is divided. */
  pieces: { body: Body; facts: BodySurvey }[];
  draft: Draft;
  /** Change the draft; a function is given the draft as it is by then, since fields are typed faster than drawn. */
  edit: (change: Changes<Draft>) => void;
  /** Whether planes are thought of: always of a whole, of one that is divided while it is asked for otherwise. */
  drafting: boolean;
  /** Ask for a division otherwise: its planes become the draft. */
  rethink: (on: boolean) => void;
  machines: MachineView[];
  machine: Machine;
  fitTo: (name: string) => void;
  prospect: DivisionPreview | undefined;
  /** Why the planes that are thought of make no pieces. */
  problem: Problem | null;
  axis: Axis;
  lookAlong: (axis: Axis) => void;
  seams: SeamsShown | undefined;
  /** Pieces that would come of the planes, as the bench draws them, while they are drawn apart; else none. */
  thought: PieceDrawn[];
  /** The outline of a drawing where it would split the body. */
  placed: Vec3[][];
  /** Why it has none. */
  misplaced: Problem | null;
  /** How far pieces are drawn apart: 0 together, 1 by their own size. */
  apart: number;
  drawApart: (share: number) => void;
  /** The plane that is looked at closer, and moved by its dimension. */
  chosen: number | null;
  choose: (number: number | null) => void;
  meant: Meant;
  mean: (change: Changes<Meant>) => void;
  taking: Taking;
  /** A click on the body, while one is wanted. */
  take: (pick: Pick) => Promise<void>;
  /** Put a plane through a face of the body. */
  through: (face: number) => Promise<void>;
  /** What is asked for, as it would be made. */
  asked: AskPieces;
}

const KEPT = { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 60_000, retry: false } as const;

/** The body that Division is about: the selected one, of a piece what it was made of. */
function bodyOf(view: JobView, selected: string[]): Body | undefined {
  const bodies = view.job.bodies;
  const chosen = bodies.find((one) => selected.includes(one.id)) ?? bodies[0];
  const made = view.job.divisions?.find((one) => one.id === chosen?.division);
  const further = view.job.divisions?.some((one) => one.replaces && one.wholes.includes(chosen?.id ?? ""));
  // One piece of several is looked at with the others; one that is chosen alone may be divided further.
  if (made && !further && selected.length !== 1) return bodies.find((one) => one.id === made.wholes[0]);
  return chosen;
}

/** What is laid out for a body, what it was before each change, and what was taken back. */
interface Layout {
  now: Draft;
  past: Draft[];
  next: Draft[];
}

const BLANK: Layout = { now: EMPTY, past: [], next: [] };

const laidOut = ({ now, past }: Layout, change: Changes<Draft>): Layout => ({
  now: changed(now, change),
  past: [...past, now],
  next: [],
});

function takenBack({ now, past, next }: Layout): Layout {
  const before = past.at(-1);
  return before ? { now: before, past: past.slice(0, -1), next: [now, ...next] } : { now, past, next };
}

function putBack({ now, past, next }: Layout): Layout {
  const [after, ...rest] = next;
  return after ? { now: after, past: [...past, now], next: rest } : { now, past, next };
}

export function useDivision(view: JobView | undefined, on: boolean, selected: string[]): Dividing | null {
  const body = on && view ? bodyOf(view, selected) : undefined;
  const facts = view?.survey.bodies.find((one) => one.id === body?.id);
  const division = view?.job.divisions?.find((one) => one.replaces && one.wholes[0] === body?.id) ?? null;
  const [layouts, keep] = useState<Record<string, Layout>>({});
  const [again, rethink] = useState("");
  const [name, fitTo] = useState("");
  const [axis, lookAlong] = useState<Axis>("z");
  const [apart, drawApart] = useState(0.35);
  const [ahead, drawAhead] = useState(0);
  const [chosen, choose] = useState<number | null>(null);
  const [meanings, keepMeant] = useState<Record<string, Meant>>({});
  const taking = useTaking();
  const shelf = useQuery({ queryKey: ["machines"], queryFn: api.machines, enabled: on });
  const machines = shelf.data ?? NO_MACHINES;
  const machine = machines.find((one) => one.machine.name === name)?.machine ?? view?.job.plates?.[0]?.machine;
  const layout = layouts[body?.id ?? ""] ?? BLANK;
  const draft = layout.now;
  const drafting = !division || again === division.id;
  const meant = meanings[body?.id ?? ""] ?? NOTHING;
  const asked = useMemo(
    (): AskPieces => ({
      by: "planes",
      planes: draft.planes.map(typedText),
      pins: draft.pins,
      keep: draft.keep,
      slivers: draft.slivers,
      seams: false,
      turned: draft.turned,
      sure: draft.sure,
      open: draft.open,
    }),
    [draft],
  );
  const possible = on && !!body && !!facts?.chain && (body.health.closed || draft.open);
  const prospect = useQuery({
    queryKey: ["division", view?.id, body?.id, body?.geometry, facts?.chain?.size_mm, asked, machine],
    queryFn: () => api.tryDivision(view!.id, body!.id, { ...asked, keep: "all", slivers: "keep" }, machine ?? null),
    enabled: possible && drafting,
    ...KEPT,
  });
  const seams = useQuery({
    queryKey: ["seams", view?.id, body?.id, body?.geometry, facts?.chain?.size_mm, axis],
    queryFn: () => api.seams(view!.id, body!.id, axis),
    enabled: possible && drafting,
    ...KEPT,
  });
  const thought = useQuery({
    queryKey: ["apart", view?.id, body?.id, body?.geometry, facts?.chain?.size_mm, asked],
    queryFn: () => api.apart(view!.id, body!.id, { ...asked, pins: null, keep: "all", slivers: "keep" }),
    enabled: possible && drafting && ahead > 0 && draft.planes.length > 0,
    ...KEPT,
  });
  const placed = useQuery({
    queryKey: ["placed", view?.id, body?.id, body?.geometry, facts?.chain?.size_mm, meant.outline],
    queryFn: () => api.placed(view!.id, body!.id, meant.outline!),
    enabled: possible && drafting && !!meant.outline,
    ...KEPT,
  });
  const step = useMemo(() => {
    if (!body || !drafting || !(layout.past.length || layout.next.length)) return null;
    const go = (to: (now: Layout) => Layout) => () => keep((all) => ({ ...all, [body.id]: to(all[body.id] ?? BLANK) }));
    return { undo: go(takenBack), redo: go(putBack) };
  }, [body, drafting, layout]);
  useUndoKeys(step, true);
  const { ask } = taking;
  useEffect(() => {
    rethink("");
    choose(null);
    ask(null);
  }, [body?.id, ask]);
  return useMemo(() => {
    if (!view || !body || !facts || !machine) return null;
    const pieces = (division?.made ?? []).flatMap((key) => {
      const one = view.job.bodies.find((each) => each.id === key);
      const told = view.survey.bodies.find((each) => each.id === key);
      return one && told ? [{ body: one, facts: told }] : [];
    });
    const edit = (change: Changes<Draft>) =>
      keep((all) => ({ ...all, [body.id]: laidOut(all[body.id] ?? BLANK, change) }));
    const mean = (change: Changes<Meant>) =>
      keepMeant((all) => ({ ...all, [body.id]: changed(all[body.id] ?? NOTHING, change) }));
    const add = (typed: string) => {
      edit((now) => ({ planes: [...now.planes, parted(typed)] }));
      choose(draft.planes.length);
    };
    const through = async (face: number) => {
      const { typed } = await api.planeOn(view.id, body.id, face);
      taking.ask(null);
      add(typed);
    };
    return {
      body,
      facts,
      division,
      pieces,
      draft,
      edit,
      drafting,
      rethink: (yes: boolean) => {
        rethink(yes && division ? division.id : "");
        const old = division?.asked;
        if (yes && old?.by === "planes")
          edit({
            planes: plainly(division!),
            pins: old.pins ?? null,
            keep: old.keep ?? "all",
            slivers: old.slivers ?? "keep",
            turned: old.turned ?? false,
            sure: old.sure ?? false,
          });
      },
      machines,
      machine,
      fitTo,
      prospect: drafting ? prospect.data : undefined,
      problem: prospect.error instanceof Problem ? prospect.error : null,
      axis,
      lookAlong,
      seams: seams.data,
      apart: drafting ? ahead : apart,
      drawApart: drafting ? drawAhead : drawApart,
      thought: drafting && ahead > 0 && draft.planes.length > 0 ? (thought.data ?? NONE) : NONE,
      misplaced: meant.outline && placed.error instanceof Problem ? placed.error : null,
      placed: meant.outline && !placed.error ? ((placed.data ?? []) as Vec3[][]) : [],
      chosen: chosen !== null && chosen < draft.planes.length ? chosen : null,
      choose,
      meant,
      mean,
      taking,
      take: async (pick: Pick) => {
        const middle = prospect.data
          ? prospect.data.low.map((one, i) => (one + prospect.data!.high[i]!) / 2)
          : [0, 0, 0];
        if (taking.want === "face") return through(pick.anchor.face);
        const at = pick.point.map((one, i) => Number((one + middle[i]!).toFixed(3))) as Vec3;
        if (taking.want === "marks")
          return mean((now) => ({
            marks: [...now.marks.filter((one) => one.face !== pick.anchor.face), { face: pick.anchor.face, at }],
          }));
        if (taking.want === "drain") return mean((now) => ({ drains: [...now.drains, at] }));
        const got = [...taking.got, pick];
        if (got.length < 3) return taking.keep(got);
        taking.ask(null);
        add(
          (
            await api.planeBy(
              view.id,
              body.id,
              got.map((one) => one.anchor),
            )
          ).typed,
        );
      },
      through,
      asked,
    };
  }, [
    view,
    body,
    facts,
    division,
    draft,
    drafting,
    machines,
    machine,
    prospect.data,
    prospect.error,
    axis,
    seams.data,
    apart,
    ahead,
    thought.data,
    placed.data,
    placed.error,
    chosen,
    meant,
    taking,
    asked,
  ]);
}
