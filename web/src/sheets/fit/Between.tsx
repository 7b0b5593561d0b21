import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { FitAnswer } from "../../api/types";
import { drawStrokes } from "../../bench/strokes";
import { Choice } from "../../blocks/Choice";
import { rounded } from "../../blocks/numbers";
import { Press } from "../../blocks/Press";
import { Head } from "../../blocks/Sheet";
import { TypedField } from "../../blocks/TypedField";
import { sentence } from "../../blocks/words";
import css from "./Fit.module.css";
import { lookAt } from "./lookedAt";
import { clearance } from "./words";

/** Two bodies: how near they are, what they share, how they would go together elsewhere; or one beside itself. */
export function Between({ handle }: { handle: JobHandle }) {
  const { view } = handle;
  const divided = new Set(view.survey.bodies.filter((facts) => facts.divided).map((facts) => facts.id));
  const bodies = view.job.bodies.filter((body) => !divided.has(body.id) && !body.stray);
  const [chosen, choose] = useState<[string, string] | null>(null);
  const [place, put] = useState("");
  const known = (id: string | undefined) => bodies.some((body) => body.id === id);
  const [one, other] =
    chosen && chosen.every(known) ? chosen : [bodies[0]?.id ?? "", bodies[1]?.id ?? bodies[0]?.id ?? ""];
  const [asked, ask] = useState(false);
  const { data, isFetching, error } = useQuery({
    queryKey: ["between", view.id, view.number, one, other, place],
    queryFn: () => api.between(view.id, one, other, place),
    enabled: asked,
    retry: false,
  });
  if (!bodies.length) return null;
  const options = bodies.map((body) => [body.id, body.name] as const);
  const drawGap = () =>
    api.gaps(view.id, one, other, place, "").then((surface) => {
      const name = (id: string) => bodies.find((body) => body.id === id)!.name;
      drawStrokes({ body: one, title: `gap from ${name(one)} to ${name(other)}`, surface });
      lookAt(null);
    }, tell);
  return (
    <section aria-label="Two bodies">
      <Head title="Two bodies">
        {asked ? (
          isFetching && "measuring …"
        ) : (
          <Press className="link" onClick={() => ask(true)}>
            Measure between them
          </Press>
        )}
      </Head>
      <div className={css.two}>
        <Choice label="First body" value={one} options={options} width="100%" choose={(id) => choose([id, other])} />
        <Choice label="Second body" value={other} options={options} width="100%" choose={(id) => choose([one, id])} />
      </div>
      <TriedPlace place={place} put={put} ask={ask} />
      {error && (
        <p className={`${css.told} stop`} role="alert">
          {error instanceof Problem ? sentence(error.line) : "This cannot be told"}
        </p>
      )}
      {asked && data && !error && <WhatIsBetween data={data} one={one} other={other} place={place} drawGap={drawGap} />}
    </section>
  );
}

interface WhatIsBetweenProps {
  data: FitAnswer;
  one: string;
  other: string;
  place: string;
  drawGap: () => Promise<unknown>;
}

/** What was found between two bodies, and the ways to look at it. */
function WhatIsBetween({ data, one, other, place, drawGap }: WhatIsBetweenProps) {
  return (
    <>
      <Near answer={data} alone={one === other} />
      <div className={css.band}>
        <Press className="link" onClick={() => lookAt({ one, other, place })}>
          Section where they are nearest
        </Press>
        {one !== other && (
          <Press className="link" onClick={() => void drawGap()}>
            Draw the gap
          </Press>
        )}
      </div>
    </>
  );
}

/** Where the second body is tried. */
function TriedPlace({
  place,
  put,
  ask,
}: {
  place: string;
  put: (value: string) => void;
  ask: (value: boolean) => void;
}) {
  return (
    <div className={css.band}>
      <span>second tried</span>
      <TypedField
        label="Where the second is tried"
        value={place}
        placeholder="as in its file"
        width={150}
        commit={(typed) => {
          put(typed.trim());
          ask(true);
          return Promise.resolve();
        }}
      />
      <span className="soft">axis, face 2/1, or 0, 0, 5</span>
    </div>
  );
}

/** The least distance or the overlap of two bodies, and their pairs where the second is tried. */
function Near({ answer, alone }: { answer: FitAnswer; alone: boolean }) {
  return (
    <>
      <p className={css.told}>
        {answer.overlap_mm3 > 0 ? (
          <>
            <span className="stop">They fill the same</span>{" "}
            <span className="number">{rounded(answer.overlap_mm3, 3)} mm³</span>
          </>
        ) : (
          <>
            {alone ? "Narrowest gap in itself" : "Least distance"}{" "}
            <span className="number">{rounded(answer.least_mm, 4)} mm</span>
          </>
        )}
        {answer.pairs.length === 0 && ", and no place that goes together."}
      </p>
      {answer.pairs.slice(0, 6).map((pair, i) => (
        <div key={i} className={css.offer}>
          <span>
            {pair.kind}
            <small>
              {rounded(pair.engaged_mm, 2)} mm engaged{pair.says && `; ${pair.says}`}
            </small>
          </span>
          <span className="number">{clearance(pair.clearance_mm)} mm</span>
          <span>{pair.verdict}</span>
        </div>
      ))}
    </>
  );
}
