import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { FeatureLine } from "../../api/types";
import { PickList } from "../../blocks/PickList";
import type { Subject } from "../../job/subject";
import type { Picking } from "./usePicking";

interface Props {
  handle: JobHandle;
  subject: Subject;
  picking: Picking;
  close: () => void;
}

/** The bores, bosses and flat faces of a body, to make gauges of without a pointer. */
export function FeatureList({ handle, subject, picking, close }: Props) {
  const [body, setBody] = useState(subject.bodies[0]!.id);
  const [chosen, choose] = useState<{ body: string; feature: number }[]>([]);
  const known = subject.bodies.some((one) => one.id === body) ? body : subject.bodies[0]!.id;
  const { data } = useQuery({
    queryKey: ["features", handle.view.id, known, handle.view.number],
    queryFn: () => api.features(handle.view.id, known),
    placeholderData: (before) => before,
  });
  const { way } = picking;
  const fits = (line: FeatureLine) =>
    way.kind === "faces" || way.kind === "angle"
      ? line.kind === "flat"
      : way.kind === "points"
        ? !way.centre || line.kind !== "flat"
        : way.kind === "perimeter" || line.gauges.includes(way.kind);
  const take = (line: FeatureLine) => {
    const picked = [...chosen, { body: known, feature: line.id }];
    if (picked.length < way.picks) return choose(picked);
    choose([]);
    picking
      .make(
        picked[0]!.body,
        picked.map((each) => ({ ...each, anchor: null, centre: false, share: null, point: null })),
      )
      .then(close)
      .catch(tell);
  };
  const lines = (data ?? []).filter(fits);
  return (
    <PickList
      label="Features"
      bodies={subject.bodies.map((one) => [one.id, one.name] as const)}
      body={known}
      choose={setBody}
      hint={`${way.picks > 1 ? (chosen.length ? "Now the second, on this body or another of its kit." : "Choose two.") : "Choose one."} ${lines.length === 0 && data ? "There is none of this kind here." : ""}`}
      rows={lines.map((line) => ({
        id: line.id,
        pressed: chosen.some((each) => each.body === known && each.feature === line.id),
        says: (
          <>
            {line.says}
            {line.bolt && <em> for {line.bolt}</em>}
            {line.kept && <em> kept</em>}
          </>
        ),
        aside: line.where,
        take: () => take(line),
      }))}
      close={close}
    />
  );
}
