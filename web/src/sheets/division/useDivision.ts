import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { api, Problem } from "../../api/client";
import type { AskPieces, AskPins, Axis, Body, BodySurvey, Division, JobView, Machine, MachineView, Prospect, SeamsShown } from "../../api/types";

/** Planes that are thought of for a body: as typed, or as many as a machine asks for. */
export interface Draft {
  planes: string[];
  pins: AskPins | null;
  keep: NonNullable<AskPieces["keep"]>;
  slivers: NonNullable<AskPieces["slivers"]>;
}

const EMPTY: Draft = { planes: [], pins: null, keep: "all", slivers: "keep" };

/** What of Division is looked at: a body, how it is divided, planes that are thought of. */
export interface Dividing {
  body: Body;
  facts: BodySurvey;
  /** What its pieces were made by; null while it is whole. */
  division: Division | null;
  /** The pieces, in their order, when it is divided. */
  pieces: { body: Body; facts: BodySurvey }[];
  draft: Draft;
  edit: (change: Partial<Draft>) => void;
  /** Whether planes are thought of: always of a whole, of one that is divided while it is asked for otherwise. */
  drafting: boolean;
  /** Ask for a division otherwise: its planes become the draft. */
  rethink: (on: boolean) => void;
  machines: MachineView[];
  machine: Machine;
  fitTo: (name: string) => void;
  prospect: Prospect | undefined;
  /** Why the planes that are thought of make no pieces. */
  problem: Problem | null;
  axis: Axis;
  lookAlong: (axis: Axis) => void;
  seams: SeamsShown | undefined;
  /** How far pieces are drawn apart: 0 together, 1 by their own size. */
  apart: number;
  drawApart: (share: number) => void;
  /** Whether a click on a face puts a plane through it. */
  picking: boolean;
  pick: (on: boolean) => void;
  /** Put a plane through a face of the body. */
  through: (face: number) => Promise<void>;
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

export function useDivision(view: JobView | undefined, on: boolean, selected: string[]): Dividing | null {
  const body = on && view ? bodyOf(view, selected) : undefined;
  const facts = view?.survey.bodies.find((one) => one.id === body?.id);
  const division = view?.job.divisions?.find((one) => one.replaces && one.wholes[0] === body?.id) ?? null;
  const [drafts, keep] = useState<Record<string, Draft>>({});
  const [again, rethink] = useState("");
  const [name, fitTo] = useState("");
  const [axis, lookAlong] = useState<Axis>("z");
  const [apart, drawApart] = useState(0.35);
  const [picking, pick] = useState(false);
  const shelf = useQuery({ queryKey: ["machines"], queryFn: api.machines, enabled: on });
  const machines = shelf.data ?? [];
  const machine = machines.find((one) => one.machine.name === name)?.machine ?? view?.job.plates?.[0]?.machine;
  const draft = drafts[body?.id ?? ""] ?? EMPTY;
  const drafting = !division || again === division.id;
  const asked: AskPieces = { by: "planes", planes: draft.planes, keep: "all", slivers: "keep", seams: false };
  const possible = on && !!body && !!facts?.chain && body.health.closed;
  const prospect = useQuery({
    queryKey: ["division", view?.id, body?.id, body?.geometry, facts?.chain?.size_mm, draft.planes, machine],
    queryFn: () => api.tryDivision(view!.id, body!.id, asked, machine ?? null),
    enabled: possible && drafting,
    ...KEPT,
  });
  const seams = useQuery({
    queryKey: ["seams", view?.id, body?.id, body?.geometry, facts?.chain?.size_mm, axis],
    queryFn: () => api.seams(view!.id, body!.id, axis),
    enabled: possible && drafting,
    ...KEPT,
  });
  useEffect(() => rethink(""), [body?.id]);
  return useMemo(() => {
    if (!view || !body || !facts || !machine) return null;
    const pieces = (division?.made ?? []).flatMap((key) => {
      const one = view.job.bodies.find((each) => each.id === key);
      const told = view.survey.bodies.find((each) => each.id === key);
      return one && told ? [{ body: one, facts: told }] : [];
    });
    const edit = (change: Partial<Draft>) => keep((all) => ({ ...all, [body.id]: { ...(all[body.id] ?? EMPTY), ...change } }));
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
        if (yes && old?.by === "planes") edit({ planes: plainly(division!), pins: old.pins ?? null, keep: old.keep ?? "all", slivers: old.slivers ?? "keep" });
      },
      machines,
      machine,
      fitTo,
      prospect: drafting ? prospect.data : undefined,
      problem: prospect.error instanceof Problem ? prospect.error : null,
      axis,
      lookAlong,
      seams: seams.data,
      apart,
      drawApart,
      picking: picking && drafting,
      pick,
      through: async (face: number) => {
        const { typed } = await api.planeOn(view.id, body.id, face);
        pick(false);
        edit({ planes: [...draft.planes, typed] });
      },
    };
  }, [view, body, facts, division, draft, drafting, machines, machine, prospect.data, prospect.error, axis, seams.data, apart, picking]);
}

/** The planes of a division, each as it would be typed. */
function plainly(division: Division): string[] {
  return division.shaping.by === "planes" ? division.shaping.planes.map((one) => typedPlane(one.normal as number[], one.at)) : [];
}

/** A plane as it would be typed. */
export function typedPlane(normal: readonly number[], at: number): string {
  const axis = (["x", "y", "z"] as const).find((_, i) => normal.every((one, k) => one === (k === i ? 1 : 0)));
  return axis ? `${axis}=${Number(at.toFixed(6))}` : `${normal.join(",")} @ ${at}`;
}
