import { letterKey } from "../../house/letterKey";
import { useCallback, useEffect, useState } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Axis, Reading, PickedSpot, Vec3 } from "../../api/types";
import { hoverAt, useHovered } from "../../bench/hovered";
import type { Pick } from "../../bench/picking";
import { keyOfKind, wayOf, type Way } from "./gauges";

/** Picking the places of a gauge. */
export interface Picking {
  on: boolean;
  way: Way;
  axis: Axis;
  /** The first of two places, and whether the centre of what is there is meant. */
  first: (Pick & { centre: boolean }) | null;
  /** A reading was just made, and its real length should be typed next. */
  wanted: boolean;
  served: () => void;
  choose: (way: string) => void;
  along: (axis: Axis) => void;
  /** Start picking; with a reading, its gauge is picked anew. */
  start: (moves?: string) => void;
  /** Pick the gauge of a reading anew, by the kind it has. */
  again: (reading: Reading) => void;
  /** Of what is picked next the centre is meant: of a bore, a boss, or a flat face. */
  centre: boolean;
  toCentre: (on: boolean) => void;
  stop: () => void;
  pick: (pick: Pick) => void;
  /** Make the gauge of spots that were chosen, by pointer or from the list. */
  make: (body: string, spots: PickedSpot[], more?: { kit?: boolean; at?: string }) => Promise<void>;
}

/** While places are picked Esc stops, and C means the centre of what is picked next. */
function usePickKeys(on: boolean, stop: () => void, toCentre: (change: (now: boolean) => boolean) => void) {
  useEffect(() => {
    if (!on) return;
    const pressed = (event: KeyboardEvent) => {
      if (event.key === "Escape") stop();
      if (letterKey(event) === "C") toCentre((now) => !now);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [on, stop, toCentre]);
}

type Place = Pick & { centre: boolean };

const spotOf = ({ body, anchor, centre }: Place): PickedSpot => ({
  body,
  anchor,
  feature: null,
  centre,
  share: null,
  point: null,
});

export function usePicking(handle: JobHandle | null): Picking {
  const [on, setOn] = useState(false);
  const [key, choose] = useState("points");
  const [axis, along] = useState<Axis>("z");
  const [moves, setMoves] = useState<string | null>(null);
  const [first, setFirst] = useState<Place | null>(null);
  const [centre, toCentre] = useState(false);
  const [wanted, setWanted] = useState(false);
  const way = wayOf(key);
  const stop = useCallback(() => {
    setOn(false);
    setFirst(null);
    setMoves(null);
    hoverAt(null);
    toCentre(false);
  }, []);
  usePickKeys(on, stop, toCentre);
  const begin = (reading: string | null) => {
    setMoves(reading);
    setOn(true);
  };
  const make: Picking["make"] = async (body, spots, { kit = false, at = "" } = {}) => {
    if (!handle) return;
    const gauge = { body, kind: way.kind, spots, axis: way.axis ? axis : null, kit, at };
    await handle.act(
      moves
        ? { do: "move-reading", reading: moves, ...gauge }
        : { do: "add-reading", typed: "", sure: false, ...gauge },
    );
    stop();
    setWanted(!moves && way.kind !== "angle");
  };
  const pick = (place: Pick) => {
    const here = { ...place, centre: way.centre ?? (way.key === "points" && centre) };
    if (way.picks > 1 && !first) return setFirst(here);
    const places = first ? [first, here] : [here];
    // When it is refused the first place stands; only the second is picked again.
    make(places[0]!.body, places.map(spotOf)).catch(tell);
  };
  return {
    ...{ on, way, axis, first, wanted, centre, along, stop, toCentre, pick, make },
    served: useCallback(() => setWanted(false), []),
    choose: (next) => {
      stop();
      choose(next);
    },
    start: (reading) => begin(reading ?? null),
    again: (reading) => {
      stop();
      choose(keyOfKind(reading.gauge.kind));
      begin(reading.id);
    },
  };
}

/** Between the first place and the one under the pointer, in mm; null where there are no two, or a centre is meant. */
export function useDistance({ first, centre }: Picking): number | null {
  const second = useHovered();
  if (!first || !second || first.centre || centre) return null;
  return apart(first.point, second.point);
}

function apart(a: Vec3, b: Vec3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
