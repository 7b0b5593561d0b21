import { useQuery } from "@tanstack/react-query";
import { Slider } from "@mantine/core";
import { useDeferredValue, useEffect, useState, type ReactNode } from "react";
import { api } from "../../api/client";
import type { JobHandle } from "../../api/useJob";
import type { PairDetail, PairState } from "../../api/types";
import { Press } from "../../blocks/Press";
import { rounded } from "../../blocks/numbers";
import { InspectionSheet } from "./inspection/InspectionSheet";
import { lookAt, pairsOf, useChosenPair, useLookedAt } from "./lookedAt";
import { DetailDrawing, type SectionNotes } from "./DetailDrawing";
import css from "./Fit.module.css";
import { PairBlock } from "./PairBlock";
import { clearance, MARKS, printedOf } from "./words";

/** The section that is looked at, drawn in place of the bench; nothing where none is. */
export function DetailSheet({ handle, cover }: { handle: JobHandle; cover: (covered: boolean) => void }) {
  const at = useLookedAt();
  const pair = useChosenPair(handle.view);
  const there = !!pair?.states.length || (!!at && !("pair" in at));
  useEffect(() => {
    cover(there);
    return () => cover(false);
  }, [cover, there]);
  if (!at || !there) return null;
  if ("pair" in at) return <PairSection handle={handle} pair={pair!} />;
  if ("sheet" in at) return <InspectionSheet view={handle.view} />;
  return <NearestSection handle={handle} {...at} />;
}

/** The detail of a pair that is kept. */
function PairSection({ handle: { view }, pair }: { handle: JobHandle; pair: PairState }) {
  const number = pairsOf(view).indexOf(pair) + 1;
  const now = pair.states.at(-1)!;
  // What is outside is to the right of the gap; of facing planes the first is to the left of it.
  const [right, left] = now.sizes_mm.length ? pair.names : ([...pair.names].reverse() as [string, string]);
  return (
    <Section
      key={pair.id}
      title={`Detail ${number}`}
      says={`${seenAs(pair)}, as released`}
      notes={{
        names: [right!, left!],
        unit: now.sizes_mm.length ? " a side" : "",
        bad: pair.verdict === "does not hold",
      }}
      about={["detail", view.id, view.number, pair.id]}
      fetch={(depth) => api.detail(view.id, pair.id, depth)}
    >
      <Equation pair={pair} />
      <PairBlock view={view} pair={pair} number={number} />
    </Section>
  );
}

/** The section where two bodies are nearest, the second where it is tried. */
function NearestSection({ handle: { view }, one, other, place }: { handle: JobHandle } & Tried) {
  const name = (id: string) => view.job.bodies.find((body) => body.id === id)?.name ?? "";
  return (
    <Section
      key={[one, other, place].join()}
      title="Nearest places"
      says={`section where they are nearest, ${place ? `the second at ${place}` : "as in their file"}`}
      notes={{ names: [name(other), name(one)], unit: " apart", bad: false }}
      about={["nearest", view.id, view.number, one, other, place]}
      fetch={(depth) => api.nearest(view.id, one, other, place, depth)}
    />
  );
}

type Tried = { one: string; other: string; place: string };

interface SectionProps {
  title: string;
  says: string;
  notes: SectionNotes;
  /** What it is a section of: another one is fetched when this changes. */
  about: readonly (string | number)[];
  fetch: (depth: number) => Promise<PairDetail>;
  children?: ReactNode;
}

/** A section that can be moved through what it cuts. */
function Section({ title, says, notes, about, fetch, children }: SectionProps) {
  const [depth, move] = useState(0);
  const wanted = useDeferredValue(depth);
  const { data } = useQuery({
    queryKey: [...about, wanted],
    queryFn: () => fetch(wanted),
    placeholderData: (before) => before,
  });
  return (
    <section className={css.detail} aria-label={title}>
      {data && <DetailDrawing detail={data} notes={notes} />}
      <div className={css.title}>
        <h2>{title}</h2>
        <span className="soft">{says}</span>
      </div>
      {data && (
        <div className={css.depth}>
          <span>section at</span>
          <Slider
            min={-data.reach_mm}
            max={data.reach_mm}
            step={data.reach_mm / 40}
            value={depth}
            onChange={move}
            label={null}
            thumbLabel="Where the section is"
          />
          <span className="number">{rounded(depth, 2).replace("-", "−")} mm</span>
        </div>
      )}
      <Press className={`link ${css.back}`} onClick={() => lookAt(null)}>
        Back to the bench
      </Press>
      {children}
    </section>
  );
}

const seenAs = ({ kind }: PairState) =>
  kind === "bore and shaft" || kind === "thread and thread" ? "section along the axis" : "section across the gap";

/** How the clearance comes about: the outer size, less the inner one. */
function Equation({ pair }: { pair: PairState }) {
  const now = pair.states.at(-1)!;
  const [outer, inner] = now.sizes_mm;
  return (
    <div className={css.equation} data-testid="clearance-equation">
      <p>how the clearance comes about, mm{outer === undefined ? "" : " in diameter or width"}</p>
      <div className={css.sum}>
        {outer !== undefined && (
          <>
            <span>
              <small>{pair.names[0]}</small>
              {rounded(outer, 3)}
            </span>
            <span>−</span>
            <span>
              <small>{pair.names[1]}</small>
              {rounded(inner!, 3)}
            </span>
            <span>=</span>
          </>
        )}
        <span className={pair.printed ? "" : MARKS[pair.verdict]}>
          <small>clearance</small>
          {clearance(now.clearance_mm)}
        </span>
        {pair.printed && (
          <span className={MARKS[pair.verdict]}>
            <small>printed</small>
            {printedOf(pair.printed)}
          </span>
        )}
        <span>
          <small>is to be</small>
          {pair.band_says.replace(" mm", "")}
        </span>
      </div>
    </div>
  );
}
