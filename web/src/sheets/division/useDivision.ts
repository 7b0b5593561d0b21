import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
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
  PlaneEdit,
  TypedPlane,
  SeamsShown,
  Vec3,
} from "../../api/types";
import type { Pick } from "../../bench/picking";
import { tell } from "../../api/useJob";
import { useSame } from "../../blocks/useSame";
import { useUndoKeys } from "../../blocks/undoKeys";
import { useDrafts } from "../../job/useDrafts";
import { useTaking, type Taking } from "./useTaking";

const NO_MACHINES: MachineView[] = [];

/** What is thought of for a body: planes as typed, pins, what is kept. */
export interface Draft {
  planes: TypedPlane[];
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
const NOWHERE: Vec3[][] = [];
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
  /** Change planes of the draft, which the core reads and writes; told when the draft is so. */
  plan: (edit: PlaneEdit) => Promise<void>;
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
  const chosen = bodies.find((body) => selected.includes(body.id)) ?? bodies[0];
  const ofChosen = view.job.divisions?.find((division) => division.id === chosen?.division);
  const further = view.job.divisions?.some(
    (division) => division.replaces && division.wholes.includes(chosen?.id ?? ""),
  );
  // One piece of several is looked at with the others; one that is chosen alone may be divided further.
  if (ofChosen && !further && selected.length !== 1) return bodies.find((body) => body.id === ofChosen.wholes[0]);
  return chosen;
}

/** What is laid out for a body, what it was before each change, and what was taken back. */
interface Layout {
  now: Draft;
  past: Draft[];
  next: Draft[];
}

/** Steps of laying out that can be taken back. */
const MOST_STEPS = 60;
const BLANK: Layout = { now: EMPTY, past: [], next: [] };

const laidOut = ({ now, past }: Layout, change: Changes<Draft>): Layout => ({
  now: changed(now, change),
  past: [...past, now].slice(-MOST_STEPS),
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

/** What is laid out for each body, with what it was before each change; Ctrl Z takes a change back while it is thought of. */
function useLayouts(job: string | undefined, body: Body | undefined, drafting: boolean) {
  const [layouts, keep] = useDrafts<Layout>(job, "division", body?.id);
  const layout = layouts[body?.id ?? ""] ?? BLANK;
  const step = useMemo(() => {
    if (!body || !drafting || !(layout.past.length || layout.next.length)) return null;
    const go = (to: (now: Layout) => Layout) => () => keep(body.id, (now) => to(now ?? BLANK));
    return { undo: go(takenBack), redo: go(putBack) };
  }, [body, drafting, layout, keep]);
  useUndoKeys(step, true);
  const edit = useCallback(
    (change: Changes<Draft>) => body && keep(body.id, (now) => laidOut(now ?? BLANK, change)),
    [body, keep],
  );
  return [layout.now, edit] as const;
}

/** Changes of planes one after the other, each of what the one before it left: fields are typed faster than answers come. */
function usePlanning(job: string | undefined, body: string | undefined, draft: Draft, edit: Dividing["edit"]) {
  const newest = useRef({ body, planes: draft.planes });
  const last = useRef<Promise<number>>(Promise.resolve(0));
  useEffect(() => {
    newest.current = { body, planes: draft.planes };
  }, [body, draft.planes]);
  return useCallback(
    (change: PlaneEdit) => {
      const done = last.current.then(async () => {
        // What was asked for of a body that is no longer looked at has nothing left to change.
        if (!job || !body || newest.current.body !== body) return 0;
        const texts = newest.current.planes.map((plane) => plane.text);
        const planes = await api.editPlanes(job, body, texts, change);
        if (newest.current.body === body) newest.current = { body, planes };
        edit({ planes });
        return planes.length;
      });
      last.current = done.catch(() => 0);
      return done;
    },
    [job, body, edit],
  );
}

/** What is meant for the other ways of each body. */
function useMeanings(job: string | undefined, body: Body | undefined) {
  const [meanings, keep] = useDrafts<Meant>(job, "ways", body?.id);
  const mean = useCallback(
    (change: Changes<Meant>) =>
      body &&
      keep(body.id, (known) => {
        const now = known ?? NOTHING;
        const next = changed(now, change);
        const same = Object.entries(next).every(([name, value]) => Object.is(value, now[name as keyof Meant]));
        return same ? known : next;
      }),
    [body, keep],
  );
  return [meanings[body?.id ?? ""] ?? NOTHING, mean] as const;
}

/** A draft as it is asked for. */
const askedBy = (draft: Draft): AskPieces => ({
  by: "planes",
  planes: draft.planes.map((plane) => plane.text),
  pins: draft.pins,
  keep: draft.keep,
  slivers: draft.slivers,
  seams: false,
  turned: draft.turned,
  sure: draft.sure,
  open: draft.open,
});

/** What a division that was made was asked for with, as a draft. */
async function draftOf(job: string, division: Division): Promise<Partial<Draft>> {
  const old = division.asked;
  if (old.by !== "planes") return {};
  return {
    planes: await api.planesMade(job, division.id),
    pins: old.pins ?? null,
    keep: old.keep ?? "all",
    slivers: old.slivers ?? "keep",
    turned: old.turned ?? false,
    sure: old.sure ?? false,
  };
}

interface Wanted {
  view: JobView | undefined;
  body: Body | undefined;
  facts: BodySurvey | undefined;
  /** Whether planes can be thought of at all. */
  possible: boolean;
  asked: AskPieces;
  machine: Machine | undefined;
  axis: Axis;
  /** Whether pieces are drawn apart before they are made. */
  apart: boolean;
  outline: AskInside | null;
}

/** What the core says to planes that are thought of: pieces, seams, where drawings lie. */
function useProspects({ view, body, facts, possible, asked, machine, axis, apart, outline }: Wanted) {
  const of = [view?.id, body?.id, body?.geometry, facts?.chain?.size_mm];
  const prospect = useQuery({
    queryKey: ["division", ...of, asked, machine],
    queryFn: () => api.tryDivision(view!.id, body!.id, { ...asked, keep: "all", slivers: "keep" }, machine ?? null),
    enabled: possible,
    ...KEPT,
  });
  const seams = useQuery({
    queryKey: ["seams", ...of, axis],
    queryFn: () => api.seams(view!.id, body!.id, axis),
    enabled: possible,
    ...KEPT,
  });
  const thought = useQuery({
    queryKey: ["apart", ...of, asked],
    queryFn: () => api.apart(view!.id, body!.id, { ...asked, pins: null, keep: "all", slivers: "keep" }),
    enabled: possible && apart && asked.planes.length > 0,
    ...KEPT,
  });
  const placed = useQuery({
    queryKey: ["placed", ...of, outline],
    queryFn: () => api.placed(view!.id, body!.id, outline!),
    enabled: possible && !!outline,
    ...KEPT,
  });
  return {
    prospect: prospect.data,
    problem: prospect.error instanceof Problem ? prospect.error : null,
    seams: seams.data,
    thought: apart && asked.planes.length > 0 ? (thought.data ?? NONE) : NONE,
    misplaced: outline && placed.error instanceof Problem ? placed.error : null,
    placed: outline && !placed.error ? ((placed.data ?? []) as Vec3[][]) : NOWHERE,
  };
}

/** The pieces of a division, in their order. */
const piecesOf = (view: JobView, division: Division | null): Dividing["pieces"] =>
  (division?.made ?? []).flatMap((key) => {
    const body = view.job.bodies.find((each) => each.id === key);
    const facts = view.survey.bodies.find((each) => each.id === key);
    return body && facts ? [{ body, facts }] : [];
  });

interface Clicks {
  job: string;
  body: string;
  taking: Taking;
  prospect: DivisionPreview | undefined;
  plan: Dividing["plan"];
  mean: Dividing["mean"];
}

/** Put a plane through a face of the body. */
async function throughFace({ job, body, taking, plan }: Clicks, face: number): Promise<void> {
  const { typed } = await api.planeOn(job, body, face);
  taking.ask(null);
  await plan({ do: "add", text: typed });
}

/** Take a click on the body for what is wanted: a face, a mark, a drain, or one of three places. */
async function takeClick(clicks: Clicks, pick: Pick): Promise<void> {
  const { job, body, taking, prospect, plan, mean } = clicks;
  const middle = prospect ? prospect.low.map((one, i) => (one + prospect.high[i]!) / 2) : [0, 0, 0];
  const face = pick.anchor.face;
  if (taking.want === "face") return throughFace(clicks, face);
  const at = pick.point.map((one, i) => Number((one + middle[i]!).toFixed(3))) as Vec3;
  if (taking.want === "marks")
    return mean((now) => ({ marks: [...now.marks.filter((mark) => mark.face !== face), { face, at }] }));
  if (taking.want === "drain") return mean((now) => ({ drains: [...now.drains, at] }));
  const got = [...taking.got, pick];
  if (got.length < 3) return taking.keep(got);
  taking.ask(null);
  const places = got.map((one) => one.anchor);
  await plan({ do: "add", text: (await api.planeBy(job, body, places)).typed });
}

/** The machine that pieces are to go into: the one that is chosen on the sheet, else that of the first plate. */
function useMachineToFit(view: JobView | undefined, on: boolean) {
  const [name, fitTo] = useState("");
  const shelf = useQuery({ queryKey: ["machines"], queryFn: api.machines, enabled: on });
  const machines = shelf.data ?? NO_MACHINES;
  const machine = machines.find((one) => one.machine.name === name)?.machine ?? view?.job.plates?.[0]?.machine;
  return { machines, machine, fitTo };
}

/** How far pieces are drawn apart: those that were made, and those that are only thought of. */
function useApart(drafting: boolean) {
  const [made, drawMade] = useState(0.35);
  const [ahead, drawAhead] = useState(0);
  return drafting ? ([ahead, drawAhead] as const) : ([made, drawMade] as const);
}

export function useDivision(view: JobView | undefined, on: boolean, selected: string[]): Dividing | null {
  const body = on && view ? bodyOf(view, selected) : undefined;
  const facts = view?.survey.bodies.find((one) => one.id === body?.id);
  const division = view?.job.divisions?.find((one) => one.replaces && one.wholes[0] === body?.id) ?? null;
  const [again, rethink] = useState("");
  const [axis, lookAlong] = useState<Axis>("z");
  const [chosen, choose] = useState<number | null>(null);
  const drafting = !division || again === division.id;
  const [draft, edit] = useLayouts(view?.id, body, drafting);
  const planned = usePlanning(view?.id, body?.id, draft, edit);
  // A plane that is added is the one that is looked at closer.
  const plan = useCallback(
    (change: PlaneEdit) =>
      planned(change).then((count) => (change.do.startsWith("add") && count ? choose(count - 1) : undefined)),
    [planned],
  );
  const [meant, mean] = useMeanings(view?.id, body);
  const [apart, drawApart] = useApart(drafting);
  const taking = useTaking();
  const shelf = useMachineToFit(view, on);
  const asked = useMemo(() => askedBy(draft), [draft]);
  const prospects = useProspects({
    view,
    body,
    facts,
    possible: on && drafting && !!body && !!facts?.chain && (body.health.closed || draft.open),
    asked,
    machine: shelf.machine,
    axis,
    apart: drafting && apart > 0,
    outline: meant.outline,
  });
  const { ask } = taking;
  useEffect(() => {
    rethink("");
    choose(null);
    ask(null);
  }, [body?.id, ask]);
  // What the sheet and the bench are given stays the same object while nothing of it changed.
  const known = useSame(
    view && body && facts && shelf.machine
      ? {
          ...{ view, body, facts, division, draft, edit, plan, drafting, axis, lookAlong, apart, drawApart },
          ...{ choose, meant, mean, taking, asked, rethink },
          ...{ machines: shelf.machines, machine: shelf.machine, fitTo: shelf.fitTo },
          ...prospects,
          chosen: chosen !== null && chosen < draft.planes.length ? chosen : null,
          prospect: drafting ? prospects.prospect : undefined,
        }
      : null,
  );
  return useMemo(() => known && withClicks(known), [known]);
}

type Known = Omit<Dividing, "pieces" | "take" | "through" | "rethink"> & {
  view: JobView;
  rethink: (division: string) => void;
};

/** Add what is done by a click or a press to what is known of a division. */
function withClicks(known: Known): Dividing {
  const { view, body, division, edit, rethink } = known;
  const clicks: Clicks = { ...known, job: view.id, body: body.id };
  return {
    ...known,
    pieces: piecesOf(view, division),
    through: (face) => throughFace(clicks, face),
    take: (pick) => takeClick(clicks, pick),
    rethink: (on) => {
      rethink(on && division ? division.id : "");
      if (on && division?.asked.by === "planes") void draftOf(view.id, division).then(edit, tell);
    },
  };
}
