import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { api } from "../../api/client";
import type { JobView, Layer, LayerPaths, Layers, Plan, PlateState, SeatState } from "../../api/types";

const NO_PLATES: PlateState[] = [];

/** Its seat, the face that goes down, an edge to line up, or a face that is to show. */
export type Taking = "seat" | "face" | "edge" | "show";

/** What of Seating is looked at: a plate, a seat on it, from above or in the bench, up to a layer. */
export interface Seating {
  plate: PlateState;
  /** Counted from 1. */
  number: number;
  seats: SeatState[];
  off: SeatState[];
  seat: SeatState | null;
  choose: (seat: string | null) => void;
  choosePlate: (plate: string) => void;
  /** Whether the plate is seen from above, as a drawing sheet; else in the bench. */
  fromAbove: boolean;
  lookFromAbove: (on: boolean) => void;
  plan: Plan | undefined;
  /** Whether the plan is that of the job as it is now; a moment after a change it is still the one before. */
  fresh: boolean;
  /** What a click on a body takes. */
  taking: Taking;
  take: (what: Taking) => void;
  /** Whether a seat is carried by hand just now: then plates are places to drop it on. */
  carrying: boolean;
  carry: (on: boolean) => void;
  /** How far an arrow key moves, in mm. */
  step: number;
  stepBy: (mm: number) => void;
}

export function useSeating(view: JobView | undefined, on: boolean): Seating | null {
  const [chosenPlate, choosePlate] = useState("");
  const [chosen, choose] = useState<string | null>(null);
  const [fromAbove, lookFromAbove] = useState(true);
  const [step, stepBy] = useState(1);
  const [carrying, carry] = useState(false);
  const [taking, take] = useState<Taking>("seat");
  const plates = view?.survey.plates ?? NO_PLATES;
  const plate = plates.find((one) => one.id === chosenPlate) ?? plates[0];
  const plan = useQuery({
    queryKey: ["plan", view?.id, view?.number, plate?.id],
    queryFn: () => api.plan(view!.id, plate!.id),
    enabled: on && !!plate && view!.survey.seats.length > 0,
    ...KEPT,
  });
  useEffect(() => {
    if (taking === "seat") return;
    const pressed = (event: KeyboardEvent) => event.key === "Escape" && take("seat");
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [taking]);
  return useMemo(() => {
    if (!view || !plate) return null;
    const all = view.survey.seats;
    const seats = all.filter((one) => one.plate === plate.id);
    const off = all.filter((one) => one.plate === "");
    const seat = [...seats, ...off].find((one) => one.id === chosen) ?? seats[0] ?? off[0] ?? null;
    return {
      plate,
      number: plates.indexOf(plate) + 1,
      seats,
      off,
      seat,
      choose,
      choosePlate,
      fromAbove,
      lookFromAbove,
      plan: plan.data?.plate === plate.id ? plan.data : undefined,
      fresh: plan.isSuccess && !plan.isPlaceholderData,
      taking,
      take,
      carrying,
      carry,
      step,
      stepBy,
    };
  }, [
    view,
    plate,
    plates,
    chosen,
    fromAbove,
    plan.data,
    plan.isSuccess,
    plan.isPlaceholderData,
    taking,
    carrying,
    step,
  ]);
}

/** The layers of a plate; apart from the rest, since scrubbing them is no reason to draw anything else anew. */
export interface Layering {
  layers: Layers | undefined;
  /** The layer that is looked at, counted from 1; null for the whole. */
  layer: number | null;
  toLayer: (layer: number | null) => void;
  /** Outlines of that layer, while the plate is seen from above. */
  cut: Layer | undefined;
  /** Whether layers are drawn as the paths that make them. */
  asPaths: boolean;
  drawPaths: (on: boolean) => void;
  /** The paths of that layer, where they are drawn. */
  paths: LayerPaths | undefined;
  /** How far the way through the layer is looked at, as a share of its time; 1 is all of it. */
  along: number;
  goAlong: (share: number) => void;
}

export function useLayering(view: JobView, seating: Seating | null): Layering {
  const [{ plate, number }, choose] = useState<{ plate: string; number: number | null }>({ plate: "", number: null });
  const [asPaths, drawPaths] = useState(false);
  const [along, goAlong] = useState(1);
  const here = seating?.plate.id ?? "";
  const at = [view.id, view.number, here];
  const on = !!seating && view.survey.seats.length > 0;
  const { data } = useQuery({
    queryKey: ["layers", ...at],
    queryFn: () => api.layers(view.id, here),
    enabled: on,
    ...KEPT,
  });
  const layers = data?.plate === here ? data : undefined;
  const count = layers?.heights.length ?? 0;
  const layer = plate === here && number !== null && count > 0 ? Math.min(number, count) : null;
  const cut = useQuery({
    queryKey: ["layer", ...at, layer],
    queryFn: () => api.layer(view.id, here, layer!),
    enabled: on && seating.fromAbove && layer !== null,
    ...KEPT,
  });
  const paths = useQuery({
    queryKey: ["paths", ...at, layer],
    queryFn: () => api.layerPaths(view.id, here, layer!),
    enabled: on && asPaths && layer !== null,
    ...KEPT,
  });
  return {
    asPaths,
    drawPaths,
    along,
    goAlong,
    paths: asPaths && layer !== null ? paths.data : undefined,
    layers,
    layer,
    toLayer: (next) => choose({ plate: here, number: next }),
    cut: layer === null ? undefined : cut.data,
  };
}

/** The first layer of a seat, and what hangs over; worked out when it is looked at. */
export function useFirstLayer(view: JobView, seat: SeatState | null) {
  return useQuery({
    queryKey: ["first-layer", view.id, view.number, seat?.id],
    queryFn: () => api.firstLayer(view.id, seat!.subject, seat!.copy_number),
    enabled: !!seat?.plate,
    staleTime: Infinity,
    gcTime: 60_000,
  }).data;
}

const KEPT = { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 60_000 };

/** Which seat an action is for. */
export const seatOf = (seat: SeatState) => ({ body: seat.subject, copy_number: seat.copy_number });
