import { Input } from "@mantine/core";
import { useEffect, useId, useLayoutEffect, useRef, useState, type RefObject } from "react";
import { Problem } from "../api/client";
import css from "./TypedField.module.css";
import { sentence } from "./words";

/** The library's frame about a field takes no place: ours is the span that carries the message. */
const CONTENTS = { style: { display: "contents" } };

interface Props {
  /** What the field shows while nobody types. */
  value: string;
  /** What typing starts from, when that has more digits than the field shows. */
  full?: string;
  label: string;
  /**
   * Takes the text; a thrown Problem is shown at the field and the text stays for mending. `again` tells that
   * the very same text is sent once more after a Problem that asks first.
   */
  commit: (typed: string, again: boolean) => Promise<unknown>;
  /** Told after Enter was taken: where a keyboard, or a caliper that types like one, goes next. */
  entered?: () => void;
  /** Told when the field is entered. */
  focused?: () => void;
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
  const [text, showText] = useState<string | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const own = useRef<HTMLInputElement>(null);
  const input = props.inputRef ?? own;
  // Typing can be faster than rendering and than the server (a caliper types like a keyboard): what was
  // typed last is held here, and nothing that arrives late may overwrite it.
  const typed = useRef<string | null>(null);
  const selecting = useRef(false);
  const sent = useRef<string | null>(null);
  const asked = useRef<string | null>(null);
  const id = useId();

  const setText = (next: string | null) => {
    typed.current = next;
    showText(next);
  };

  useEffect(() => {
    if (startTyping) input.current?.focus();
  }, [startTyping, input]);

  useLayoutEffect(() => {
    if (!selecting.current) return;
    selecting.current = false;
    input.current?.select();
  });

  const revert = () => {
    setText(null);
    setProblem(null);
  };

  const take = async (): Promise<boolean> => {
    const now = typed.current;
    if (now === null || now === (props.full ?? value)) {
      revert();
      return true;
    }
    if (sent.current === now) return false; // Enter and then leaving is one commit
    sent.current = now;
    try {
      await commit(now, asked.current === now);
      asked.current = null;
      if (typed.current === now) {
        selecting.current = document.activeElement === input.current;
        revert();
      }
      return true;
    } catch (error) {
      asked.current = error instanceof Problem && error.code === "ask-first" ? now : null;
      setProblem(error instanceof Problem ? error : new Problem(0, "unknown", "this did not work", "", "try again"));
      return false;
    } finally {
      if (sent.current === now) sent.current = null;
    }
  };

  return (
    <span className={css.wrap} style={{ width }}>
      <Input
        unstyled
        wrapperProps={CONTENTS}
        ref={input}
        classNames={{ input: [css.field, words && css.words, problem && css.refused, props.className].filter(Boolean).join(" ") }}
        attributes={{ input: { "aria-describedby": problem ? id : undefined } }}
        error={problem !== null}
        aria-label={label}
        title={props.full}
        value={text ?? value}
        placeholder={placeholder}
        disabled={disabled}
        data-typed={text !== null && text !== (props.full ?? value) ? "yes" : undefined}
        autoComplete="off"
        spellCheck={false}
        onFocus={(event) => {
          props.focused?.();
          if (typed.current !== null) return event.currentTarget.select();
          selecting.current = true;
          setText(props.full ?? value);
        }}
        onChange={(event) => {
          setText(event.target.value);
          setProblem(null);
        }}
        onBlur={() => {
          if (problem) {
            revert();
            done?.();
          } else void take().then((taken) => taken && done?.());
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            event.currentTarget.select(); // what is typed next replaces this, however soon it comes
            void take().then((taken) => {
              if (!taken) return;
              done?.();
              props.entered?.();
            });
          } else if (event.key === "Escape") {
            event.stopPropagation();
            revert();
            event.currentTarget.blur();
          }
        }}
      />
      {problem && (
        <span className={`${css.why} ${nearLeft(input.current) ? css.rightward : ""}`} id={id} role="alert">
          {sentence(problem.says)}
          {(problem.where || problem.remedy) && <small>{sentence([problem.where, problem.remedy].filter(Boolean).join("; "))}</small>}
        </span>
      )}
    </span>
  );
}

/** Whether a message as wide as ours would leave the sheet at its left. */
function nearLeft(field: HTMLElement | null): boolean {
  return (field?.getBoundingClientRect().right ?? 0) < 310;
}
