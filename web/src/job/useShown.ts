import { useCallback, useMemo } from "react";
import type { Body, BodySurvey, JobView } from "../api/types";
import type { Shown } from "../bench/Bench";
import { useFills, paler } from "../bench/colours";
import { meshesOf, useBenchMeshes } from "../bench/mesh";
import type { thoughtApart } from "../sheets/division/apart";
import { spread } from "../sheets/division/spread";
import type { Dividing } from "../sheets/division/useDivision";
import type { Seating } from "../sheets/seating/useSeating";
import { movedWith, scaled } from "./dragging";
import type { Subject } from "./subject";

export interface ShownProps {
  view: JobView;
  /** The bodies that the sheet draws. */
  bodies: Body[];
  subject: Subject | null;
  selected: string[];
  hidden: string[];
  /** Places are picked, on every triangle. */
  picked: boolean;
  /** The plate that is looked at, and the division that is made. */
  onPlate: Seating | null;
  dividing: Dividing | null;
  /** Pieces that are only thought of, drawn apart. */
  ahead: ReturnType<typeof thoughtApart>;
  seated: boolean;
  settled: boolean;
  /** The factor is dragged: how many times its value. */
  ratio: number | null;
}

/** Every triangle of a body, however large. */
const fullOf = (body: Body) => `bench/${body.geometry}/full`;

type MeshOf = (body: Body, facts: BodySurvey) => Shown["mesh"];

/** The meshes of what is drawn: reduced ones first, and all triangles of those on which places are picked. */
function useMeshes({ view, bodies, ahead, picked }: ShownProps) {
  const factsOf = (body: Body) => view.survey.bodies.find((one) => one.id === body.id);
  const first = useBenchMeshes(
    ahead.length
      ? ahead.map(({ body }) => `bench/${body.bench}`)
      : bodies.flatMap((body) => meshesOf(view.id, body, factsOf(body))),
  );
  const exact = (body: Body) =>
    picked && (first.meshes.get(`bench/${body.bench}`)?.triangles ?? body.triangles) < body.triangles;
  const full = useBenchMeshes(bodies.filter(exact).map(fullOf));
  const meshOf = useCallback<MeshOf>(
    (body, facts) =>
      (picked && full.meshes.get(fullOf(body))) ||
      meshesOf(view.id, body, facts)
        .map((name) => first.meshes.get(name))
        .find(Boolean),
    [view.id, picked, first, full],
  );
  return {
    meshOf,
    meshes: first.meshes,
    failed: first.failed,
    waiting: first.waiting,
    exacting: picked && full.waiting,
  };
}

/** What the bench draws, each body with its mesh, its place and its colour. */
export function useShown(props: ShownProps) {
  const { view, bodies, ahead, subject, selected, hidden, onPlate, dividing, seated, settled, ratio } = props;
  const { meshOf, meshes, ...state } = useMeshes(props);
  const moving = useMemo(() => (subject ? movedWith(view, subject) : []), [view, subject]);
  const fills = useFills(view.job.bodies);
  const shown = useMemo((): Shown[] => {
    if (onPlate && settled) return onThePlate(view, onPlate, hidden, fills, meshOf);
    if (ahead.length) {
      const colour = fills.get(dividing!.body.id)!;
      const meshNow = (body: Body) => meshes.get(`bench/${body.bench}`);
      return ahead.map(({ body, facts }) => ({ id: body.id, body, facts, mesh: meshNow(body), colour }));
    }
    const apart = dividing && !dividing.drafting ? spread(dividing) : null;
    return bodies.flatMap((body) => {
      const surveyed = view.survey.bodies.find((one) => one.id === body.id);
      if (!surveyed || (seated && !surveyed.room)) return [];
      const facts = apart?.get(body.id) ?? surveyed;
      const fill = fills.get(body.id)!;
      const aside = facts.stale || (selected.length > 0 && !selected.includes(body.id) && !dividing);
      const drawn = ratio && moving.includes(body.id) ? scaled(subject!.decided, facts, ratio) : facts;
      const beside = view.job.sources!.find((source) => source.id === body.source)?.made?.at;
      const colour = aside ? paler(fill) : fill;
      return [{ id: body.id, body, facts: drawn, mesh: meshOf(body, facts), colour, beside }];
    });
  }, [
    view,
    bodies,
    meshOf,
    meshes,
    selected,
    hidden,
    onPlate,
    settled,
    seated,
    ratio,
    moving,
    subject,
    dividing,
    ahead,
    fills,
  ]);
  return { shown, ...state };
}

/** The bodies of every seat of a plate; those of other seats than the chosen one are paler. */
function onThePlate(
  view: JobView,
  onPlate: Seating,
  hidden: string[],
  fills: Map<string, string>,
  meshOf: MeshOf,
): Shown[] {
  const known = new Map(view.job.bodies.map((body) => [body.id, body]));
  const surveyed = new Map(view.survey.bodies.map((facts) => [facts.id, facts]));
  return onPlate.seats.flatMap((seat) =>
    seat.bodies.flatMap((one) => {
      const body = known.get(one.body);
      const facts = surveyed.get(one.body);
      if (!body || !facts || hidden.includes(body.id)) return [];
      const fill = fills.get(body.id)!;
      const placement = { ...facts.placement, seated: one.matrix, seated_shift: one.shift };
      return [
        {
          id: `${seat.id}|${body.id}`,
          body,
          facts: { ...facts, placement, room: seat.room ?? null },
          mesh: meshOf(body, facts),
          colour: seat.id !== onPlate.seat?.id ? paler(fill) : fill,
        },
      ];
    }),
  );
}
