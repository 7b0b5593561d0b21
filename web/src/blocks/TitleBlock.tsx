import type { SizeChain, BodySurvey, KitSurvey, JobView } from "../api/types";
import type { Subject } from "../job/subject";
import { useSettings } from "../house/settings";
import { factor, fileNumber, inches, mm, UNIT_WORDS, volume } from "./numbers";
import css from "./TitleBlock.module.css";

/** The corner block that always shows what is selected and how big it is. */
export function TitleBlock({
  view,
  subject,
  selected,
}: {
  view: JobView;
  subject: Subject | null;
  selected: string[];
}) {
  if (!subject) return <Several view={view} selected={selected} />;
  const { body, facts } = subject;
  const source = view.job.sources.find((one) => one.id === body.source);
  const chain = facts.chain;
  const release = view.releases[0];
  // A whole that was divided stands aside: its pieces are counted.
  const divided = new Set(view.survey.bodies.filter((one) => one.divided).map((one) => one.id));
  const many = subject.bodies.filter((one) => !divided.has(one.id)).length;
  const uneven = chain && new Set(chain.factor.map((one) => one.toPrecision(8))).size > 1;
  return (
    <section className={css.block} aria-label="Title block">
      <Cell span={4} says={subject.bodies.length > 1 ? `kit of ${many} ${many === 1 ? "body" : "bodies"}` : "body"}>
        <b title={subject.name}>{subject.name}</b>
      </Cell>
      <Cell span={2} last>
        <Stamp view={view} />
      </Cell>
      <OverallCell chain={chain} facts={facts} />
      <Cell span={2} says="volume" last>
        <p className="number">{facts.volume_mm3 == null ? "–" : volume(facts.volume_mm3)}</p>
      </Cell>
      <Cell span={2} says="machine" foot>
        <p title={view.survey.machine.name}>{view.survey.machine.name}</p>
        <p className={css.small}>{view.survey.machine.room.join("×")}</p>
      </Cell>
      <Cell span={2} says="unit of the file" foot>
        {source?.unit ? (
          <>
            <p className="settled">{UNIT_WORDS[source.unit]}</p>
            <p className={css.small}>{source.how}</p>
          </>
        ) : (
          <p className="stop">not settled</p>
        )}
      </Cell>
      <Cell span={2} says="correction" foot last>
        <p className="number">{!chain ? "–" : uneven ? "per axis" : factor(chain.factor[0])}</p>
        <p className={css.small}>{release ? `release ${release.number}` : "not released"}</p>
      </Cell>
    </section>
  );
}

/** The overall size in mm and inch, or the numbers of the file. */
function OverallCell({ chain, facts }: { chain: SizeChain | null; facts: BodySurvey | KitSurvey }) {
  const { first } = useSettings();
  return (
    <Cell
      span={4}
      says={chain ? (first === "mm" ? "overall, mm and inch" : "overall, inch and mm") : "overall, numbers in the file"}
    >
      {chain ? (
        <>
          {first === "in" && <p className={css.mm}>{chain.size_in.map(inches).join(" × ")}</p>}
          <p className={first === "mm" ? css.mm : css.in} data-testid="overall">
            {chain.size_mm.map(mm).join(" × ")}
            {first === "in" && " mm"}
          </p>
          {first === "mm" && <p className={css.in}>{chain.size_in.map(inches).join(" × ")} in</p>}
        </>
      ) : (
        <>
          <p className={css.mm}>{facts.numbers?.map(fileNumber).join(" × ") ?? "–"}</p>
          <p className={`${css.small} stop`}>in which unit is not settled</p>
        </>
      )}
    </Cell>
  );
}

/** Several bodies without a common size: how many, of how many files. */
function Several({ view, selected }: { view: JobView; selected: string[] }) {
  const bodies = view.job.bodies.filter((body) => !selected.length || selected.includes(body.id));
  const files = new Set(bodies.map((body) => body.source)).size;
  return (
    <section className={css.block} aria-label="Title block">
      <Cell span={4} says={selected.length ? "selected" : "job"}>
        <b>
          {bodies.length === 0 ? "no body" : `${bodies.length} bodies of ${files} ${files === 1 ? "file" : "files"}`}
        </b>
      </Cell>
      <Cell span={2} last>
        <Stamp view={view} />
      </Cell>
      <Cell span={6} says="overall" foot last>
        <p className="soft">choose one body or one kit to see its size</p>
      </Cell>
    </section>
  );
}

/** The ruled block in the corner of the bench. */
export function TitleGrid({ children }: { children: React.ReactNode }) {
  return (
    <section className={css.block} aria-label="Title block">
      {children}
    </section>
  );
}

interface CellProps {
  span: number;
  says?: string;
  last?: boolean;
  foot?: boolean;
  children: React.ReactNode;
}

export function Cell({ span, says, last, foot, children }: CellProps) {
  const name = [css.cell, last && css.last, foot && css.foot].filter(Boolean).join(" ");
  return (
    <div className={name} style={{ gridColumn: `span ${span}`, ...(says ? {} : { display: "grid", padding: 0 }) }}>
      {says && <small>{says}</small>}
      {children}
    </div>
  );
}

export function Stamp({ view }: { view: JobView }) {
  const release = view.releases[0];
  if (!view.survey.settled) return <span className={`${css.stamp} stop`}>NO UNIT</span>;
  if (release?.current) return <span className={`${css.stamp} settled`}>PROVEN</span>;
  return <span className={`${css.stamp} look`}>{release ? "CHANGED" : "DRAFT"}</span>;
}
