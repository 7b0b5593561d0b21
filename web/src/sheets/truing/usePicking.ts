import { useCallback, useEffect, useState } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Axis, Reading, PickedSpot, Vec3 } from "../../api/types";
import type { Pick } from "../../bench/picking";
import { keyOfKind, wayOf, type Way } from "./gauges";

/** Picking the places of a gauge. */
export interface Picking {
  on: boolean;
  way: Way;
  axis: Axis;
  /** The first of two places, and whether the centre of what is there is meant. */
  first: (Pick & { centre: boolean }) | null;
  second: Pick | null;
  /** Between the first place and the one under the pointer, in mm. */
  distance: number | null;
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
  hover: (pick: Pick | null) => void;
  /** Make the gauge of spots that were chosen, by pointer or from the list. */
  make: (body: string, spots: PickedSpot[], more?: { kit?: boolean; at?: string }) => Promise<void>;
}

export function usePicking(handle: JobHandle | null): Picking {
  const [on, setOn] = useState(false);
  const [key, choose] = useState("points");
  const [axis, along] = useState<Axis>("z");
  const [moves, setMoves] = useState<string | null>(null);
  const [first, setFirst] = useState<(Pick & { centre: boolean }) | null>(null);
  const [centre, toCentre] = useState(false);
  const [second, hover] = useState<Pick | null>(null);
  const [wanted, setWanted] = useState(false);
  const way = wayOf(key);

  const stop = useCallback(() => {
    setOn(false);
    setFirst(null);
    setMoves(null);
    hover(null);
    toCentre(false);
  }, []);

  useEffect(() => {
    if (!on) return;
    const pressed = (event: KeyboardEvent) => {
      if (event.key === "Escape") stop();
      if (event.key.toLowerCase() === "c" && !(event.target as HTMLElement).matches("input, textarea, select"))
        toCentre((now) => !now);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [on, stop]);

  const make = async (body: string, spots: PickedSpot[], { kit = false, at = "" } = {}) => {
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
    if (way.picks > 1 && !first) {
      setFirst(here);
      return;
    }
    const places = first ? [first, here] : [here];
    // When it is refused the first place stands; only the second is picked again.
    make(
      places[0]!.body,
      places.map((one) => ({
        body: one.body,
        anchor: one.anchor,
        feature: null,
        centre: one.centre,
        share: null,
        point: null,
      })),
    ).catch(tell);
  };

  return {
    on,
    way,
    axis,
    first,
    second,
    distance: first && second && !first.centre && !centre ? apart(first.point, second.point) : null,
    wanted,
    served: useCallback(() => setWanted(false), []),
    choose: (next) => {
      stop();
      choose(next);
    },
    along,
    start: (reading) => {
      setMoves(reading ?? null);
      setOn(true);
    },
    again: (reading) => {
      stop();
      choose(keyOfKind(reading.gauge.kind));
      setMoves(reading.id);
      setOn(true);
    },
    stop,
    centre,
    toCentre,
    pick,
    hover,
    make,
  };
}

function apart(a: Vec3, b: Vec3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
