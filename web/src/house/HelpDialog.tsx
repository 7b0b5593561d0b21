import { Dialog } from "../blocks/Dialog";
import { ExampleJobs } from "../jobs/ExampleJobs";
import css from "./House.module.css";
import { WORDS } from "./words";

const KEYS: readonly (readonly [title: string, keys: readonly (readonly [string, string])[]])[] = [
  [
    "Everywhere",
    [
      ["Ctrl K", "find a control, a sheet, a job, a body, a setting by words"],
      ["?", "this page"],
      ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
      ["Enter, Esc", "take what is typed, leave it"],
    ],
  ],
  [
    "On the list of jobs",
    [
      ["/", "search"],
      ["↑ ↓ on a job's name", "the job above, below"],
      ["Enter, Delete", "open it, put it into the bin"],
    ],
  ],
  [
    "In the bench",
    [
      ["F T R O", "look from the front, from the top, from the right, from a corner"],
      ["E", "everything in sight"],
      ["← → ↑ ↓", "turn the view, while the bench has the keys"],
      ["Shift and an arrow", "shift the view"],
      ["+ −", "nearer, farther"],
      ["N", "choose the next body"],
      ["C while picking", "the centre of what is picked next"],
      ["P on Seating", "the plate from above"],
    ],
  ],
];

/** The keys at hand, what our words mean, and examples to try. */
export function HelpDialog({ close }: { close: () => void }) {
  return (
    <Dialog close={close} title="Help" size={760}>
      <div className={css.help}>
        <section aria-label="Keys">
          <h3>Keys</h3>
          {KEYS.map(([title, keys]) => (
            <div key={title}>
              <h4>{title}</h4>
              <dl className={css.keys}>
                {keys.map(([key, says]) => (
                  <div key={key}>
                    <dt>{key}</dt>
                    <dd>{says}</dd>
                  </div>
                ))}
              </dl>
            </div>
          ))}
          <ExampleJobs opened={close} />
        </section>
        <section aria-label="Words">
          <h3>Our words</h3>
          <dl className={css.words}>
            {Object.entries(WORDS).map(([word, meaning]) => (
              <div key={word}>
                <dt>{word}</dt>
                <dd>{meaning}</dd>
              </div>
            ))}
          </dl>
        </section>
      </div>
    </Dialog>
  );
}
