import { tell, type JobHandle } from "../../api/useJob";
import type { Source } from "../../api/types";
import { Press } from "../../blocks/Press";
import css from "./IntakeSheet.module.css";

const UPS = ["z", "y", "x"] as const;

/** Which axis of a file points up, with what its shape suggests; and bringing a lost model home. */
export function Place({ handle, source, home }: { handle: JobHandle; source: Source; home: boolean }) {
  const guess = source.up_guess;
  const many = handle.view.job.sources!.length > 1;
  const set = (up: (typeof UPS)[number], all = false) =>
    void handle.act({ do: "set-up", source: all ? null : source.id, up }).catch(tell);
  return (
    <>
      <div className={css.row}>
        <span>Up axis of the file</span>
        <span className={css.ups} role="group" aria-label="Up axis">
          {UPS.map((up) => (
            <Press key={up} aria-pressed={source.up === up} onClick={() => source.up !== up && set(up)}>
              {up.toUpperCase()}
            </Press>
          ))}
        </span>
      </div>
      {guess && guess.up !== source.up && (
        <p className={css.alike}>
          <span className="look">{guess.up.toUpperCase()} may be up:</span> {guess.reason}.
        </p>
      )}
      {(many || handle.view.job.habits?.up) && (
        <p className={css.alike}>
          {handle.view.job.habits?.up === source.up ? (
            <span className="soft">{source.up!.toUpperCase()} is up in all files of this job.</span>
          ) : (
            <Press className="link" onClick={() => set(source.up!, true)}>
              {source.up!.toUpperCase()} is up in all files, and those to come
            </Press>
          )}
        </p>
      )}
      {home && (
        <p className={css.alike}>
          Brought home to the origin.{" "}
          <Press
            className="link"
            onClick={() => void handle.act({ do: "bring-home", source: source.id, home: false }).catch(tell)}
          >
            Leave it where the file has it
          </Press>
        </p>
      )}
    </>
  );
}
