import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { SeatState } from "../../api/types";
import { count } from "../../blocks/numbers";
import { PickList } from "../../blocks/PickList";

interface Props {
  handle: JobHandle;
  seat: SeatState;
  label: string;
  take: (body: string, face: number) => Promise<unknown>;
}

export const SHOWS = "Faces that show";

/** The flat faces of a seat, the largest first, to choose from by keyboard. */
export function FaceList({ handle, seat, label, take }: Props) {
  const { view } = handle;
  const [chosen, choose] = useState("");
  const bodies = seat.bodies.map(
    (one) => [one.body, view.job.bodies.find((body) => body.id === one.body)?.name ?? ""] as const,
  );
  const body = bodies.some(([key]) => key === chosen) ? chosen : bodies[0]![0];
  const { data } = useQuery({
    queryKey: ["features", view.id, body, view.number],
    queryFn: () => api.features(view.id, body),
    placeholderData: (before) => before,
  });
  const flats = (data ?? []).filter((line) => line.kind === "flat").sort((a, b) => b.area_mm2 - a.area_mm2);
  return (
    <PickList
      label={label}
      bodies={bodies}
      body={body}
      choose={choose}
      hint={
        data && flats.length === 0
          ? "It has no flat face: it is curved all over. Turn it by an angle instead."
          : undefined
      }
      rows={flats.map((flat) => ({
        id: flat.id,
        pressed: flat.shows && label === SHOWS,
        says: flat.says,
        aside: `${count(Math.round(flat.area_mm2))} mm², ${flat.where}`,
        take: () => void take(body, flat.face).catch(tell),
      }))}
    />
  );
}
