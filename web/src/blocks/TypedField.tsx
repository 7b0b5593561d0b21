import { useEffect, useId, useRef, useState, type RefObject } from "react";
import { Problem } from "../api/client";
import css from "./TypedField.module.css";

interface Props {
  /** What the field shows while nobody types. */
  value: string;
  /** What typing starts from, when that has more digits than the field shows. */
  full?: string;
  label: string;
  /** Takes the text; a thrown Problem is shown at the field and the text stays for mending. */
  commit: (typed: string) => Promise<unknown>;
  disabled?: boolean;
  width?: number;
  words?: boolean;
  placeholder?: string;
  /** Told after a commit was taken, or when Esc reverted. */
  done?: () => void;
  startTyping?: boolean;
  className?: string;
  inputRef?: RefObject<HTMLInputElement | null>;
}

/** A value that is typed: Enter commits, Esc reverts, leaving commits what was changed. */
export function TypedField(props: Props) {
  const { value, label, commit, disabled, width, words, placeholder, done, startTyping } = props;
  const [text, setText] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const own = useRef<HTMLInputElement>(null);
  const input = props.inputRef ?? own;
  const working = useRef(false);
  const id = useId();

  useEffect(() => {
    if (startTyping) input.current?.focus();
  }, [startTyping, input]);

  const revert = () => {
    setText(null);
    setProblem(null);
  };

  const take = async (): Promise<boolean> => {
    if (text === null || text === (props.full ?? value)) {
      revert();
      return true;
    }
    if (working.current) return false;
    working.current = true;
    try {
      await commit(text);
      revert();
      return true;
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem(0, "unknown", "this did not work", "", "try again"));
      return false;
    } finally {
      working.current = false;
    }
  };

  return (
    <span className={css.wrap} style={{ width }}>
      <input
        ref={input}
        className={[css.field, words && css.words, problem && css.refused, props.className].filter(Boolean).join(" ")}
        aria-label={label}
        aria-invalid={problem ? true : undefined}
        aria-describedby={problem ? id : undefined}
        title={props.full}
        value={text ?? value}
        placeholder={placeholder}
        disabled={disabled}
        data-typed={text !== null && text !== (props.full ?? value) ? "yes" : undefined}
        autoComplete="off"
        spellCheck={false}
        onFocus={(event) => {
          if (text === null) setText(props.full ?? value);
          const field = event.currentTarget;
          requestAnimationFrame(() => field.select());
        }}
        onChange={(event) => {
          setText(event.target.value);
          setProblem(null);
        }}
        onBlur={() => {
          if (problem) revert();
          else void take().then((taken) => taken && done?.());
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            void take().then((taken) => {
              if (!taken) return;
              requestAnimationFrame(() => input.current?.select());
              done?.();
            });
          } else if (event.key === "Escape") {
            event.stopPropagation();
            revert();
            requestAnimationFrame(() => input.current?.blur());
            done?.();
          }
        }}
      />
      {problem && (
        <span className={`${css.why} ${nearLeft(input.current) ? css.rightward : ""}`} id={id} role="alert">
          {problem.says}
          {(problem.where || problem.remedy) && <small>{[problem.where, problem.remedy].filter(Boolean).join("; ")}</small>}
        </span>
      )}
    </span>
  );
}

/** Whether a message as wide as ours would leave the sheet at its left. */
function nearLeft(field: HTMLElement | null): boolean {
  return (field?.getBoundingClientRect().right ?? 0) < 310;
}
