import { letterKey } from "../../house/letterKey";
import { useEffect } from "react";
import { tell, type JobHandle } from "../../api/useJob";
import type { Pick } from "../../bench/picking";
import { seatOf, type Seating } from "./useSeating";

/** What a click on a face or an edge does; undefined while clicks only choose a seat. P leads to the plan. */
export function useSeatPicks(handle: JobHandle, seating: Seating | null): ((pick: Pick) => void) | undefined {
  useEffect(() => {
    if (!seating) return;
    const pressed = (event: KeyboardEvent) => {
      if (letterKey(event) === "P") seating.lookFromAbove(true);
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [seating]);
  if (!seating || seating.taking === "seat") return undefined;
  return (pick) => {
    const [key, on] = pick.body.split("|") as [string, string];
    const seat = seating.seats.find((one) => one.id === key);
    if (!seat) return;
    seating.choose(seat.id);
    const act = (action: Parameters<JobHandle["act"]>[0]) =>
      void handle.act(action).then(() => seating.take("seat"), tell);
    if (seating.taking === "show")
      void handle.act({ do: "mark-showing", body: on, face: pick.anchor.face }).catch(tell);
    else if (seating.taking === "face") act({ do: "face-down", ...seatOf(seat), on, face: pick.anchor.face });
    else
      act({ do: "line-up", ...seatOf(seat), on, face: pick.anchor.face, weights: pick.anchor.weights, axis: "near" });
  };
}
