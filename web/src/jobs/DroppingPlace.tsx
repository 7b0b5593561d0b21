import { sentence } from "../blocks/words";
import { FilePicker } from "./FilePicker";
import css from "./Jobs.module.css";
import type { NotTaken } from "./useSendFile";

const STEPS = [
  ["Intake", "files, their true unit, bodies, health"],
  ["Truing", "a real measurement sets the size"],
  ["Fit", "what goes together, and walls"],
  ["Division", "too big for the machine, in pieces that fit"],
  ["Seating", "down on the plate, inside the machine"],
  ["Release", "written, read back, compared, then yours"],
] as const;

interface Props {
  over: boolean;
  problems: NotTaken[];
  take: (files: File[]) => void;
}

/** Where files are dropped, what was not taken, and what the six sheets are for. */
export function DroppingPlace({ over, problems, take }: Props) {
  return (
    <aside className={css.left} aria-label="New job">
      <section className={`${css.drop} ${over ? css.over : ""}`} data-testid="drop" aria-label="Files">
        <h2>{over ? "Let go" : "Drop files here"}</h2>
        <p>
          STEP, IGES, BREP, STL, 3MF, OBJ or PLY, one or many, packed or in folders. They are kept as they are and never
          changed.
        </p>
        <span className={css.picks}>
          <FilePicker into={null} label="Pick files" take={take} />
          <FilePicker into={null} label="Pick a folder" folder take={take} />
        </span>
      </section>
      {problems.map(({ name, problem }) => (
        <div key={name} className={css.problem} role="alert">
          <strong>{name} was not taken</strong>
          <p>{sentence(problem.says)}</p>
          {problem.remedy && <p className="soft">{sentence(problem.remedy)}</p>}
        </div>
      ))}
      <ol className={css.steps} aria-label="The six sheets">
        {STEPS.map(([name, says], i) => (
          <li key={name}>
            <i>{i + 1}</i>
            <b>{name}</b>
            <span>{says}</span>
          </li>
        ))}
      </ol>
    </aside>
  );
}
