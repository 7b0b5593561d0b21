import { Input } from "@mantine/core";
import { useEffect, useId, useLayoutEffect, useRef, useState, type RefObject } from "react";
import { Problem } from "../api/client";
import { changesElsewhere } from "../api/elsewhere";
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

/** What a user typed, and what the field showed and what had happened elsewhere when the typing began. */
interface Draft {
  text: string;
  base: string;
  elsewhere: number;
}

/**
 * A value that is typed: Enter commits, Esc reverts, leaving commits what was changed.
 *
 * A field that was entered and not typed into follows the value and never commits: the value may have changed
 * since the field was entered, by the answer to an earlier field, by undo or on another page.
 */
export function TypedField(props: Props) {
  const { value, label, commit, disabled, width, words, placeholder, done, startTyping } = props;
  const current = props.full ?? value;
  const [draft, showDraft] = useState<Draft | null>(null);
  const [inside, setInside] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const own = useRef<HTMLInputElement>(null);
  const input = props.inputRef ?? own;
  // Typing can be faster than rendering and than the server (a caliper types like a keyboard): what was
  // typed last is held here, and nothing that arrives late may overwrite it.
  const typed = useRef<Draft | null>(null);
  const selecting = useRef(false);
  const sent = useRef<string | null>(null);
  const asked = useRef<string | null>(null);
  const id = useId();

  const setDraft = (next: Draft | null) => {
    typed.current = next;
    showDraft(next);
  };

  const type = (text: string) => {
    const begun = typed.current ?? { base: inside ? current : value, elsewhere: changesElsewhere() };
    setDraft({ ...begun, text });
    setProblem(null);
  };

  useEffect(() => {
    if (startTyping) input.current?.focus();
  }, [startTyping, input]);

  // The whole value stays selected while it follows a change, so that what is typed next replaces it.
  const shown = draft?.text ?? (inside ? current : value);
  const before = useRef(shown);
  useLayoutEffect(() => {
    const followed = !typed.current && inside && before.current !== shown;
    before.current = shown;
    if (!selecting.current && !followed) return;
    selecting.current = false;
    if (document.activeElement === input.current) input.current?.select();
  });

  const revert = () => {
    setDraft(null);
    setProblem(null);
  };

  const take = async (): Promise<boolean> => {
    const now = typed.current;
    if (now === null || now.text === now.base || now.text === current) {
      revert();
      return true;
    }
    if (sent.current === now.text) return false; // Enter and then leaving is one commit
    if (now.base !== current && now.elsewhere !== changesElsewhere()) {
      // Told once; the same text entered again is meant.
      setDraft({ ...now, base: current, elsewhere: changesElsewhere() });
      setProblem(
        new Problem(
          409,
          "changed-meanwhile",
          `this was changed to ${current || "nothing"} while you typed`,
          "",
          "Enter takes yours, Esc leaves it",
        ),
      );
      return false;
    }
    sent.current = now.text;
    try {
      await commit(now.text, asked.current === now.text);
      asked.current = null;
      if (typed.current?.text === now.text) {
        selecting.current = document.activeElement === input.current;
        revert();
      }
      return true;
    } catch (error) {
      asked.current = error instanceof Problem && error.code === "ask-first" ? now.text : null;
      setProblem(error instanceof Problem ? error : new Problem(0, "unknown", "this did not work", "", "try again"));
      return false;
    } finally {
      if (sent.current === now.text) sent.current = null;
    }
  };

  return (
    <span className={css.wrap} style={{ width }}>
      <Input
        unstyled
        wrapperProps={CONTENTS}
        ref={input}
        classNames={{
          input: [css.field, words && css.words, problem && css.refused, props.className].filter(Boolean).join(" "),
        }}
        attributes={{ input: { "aria-describedby": problem ? id : undefined } }}
        error={problem !== null}
        aria-label={label}
        title={props.full}
        value={shown}
        placeholder={placeholder}
        disabled={disabled}
        data-typed={draft !== null && draft.text !== draft.base ? "yes" : "no"}
        autoComplete="off"
        spellCheck={false}
        onFocus={(event) => {
          props.focused?.();
          setInside(true);
          if (typed.current !== null) return event.currentTarget.select();
          selecting.current = true;
        }}
        onChange={(event) => type(event.target.value)}
        onBlur={() => {
          setInside(false);
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
          {(problem.where || problem.remedy) && (
            <small>{sentence([problem.where, problem.remedy].filter(Boolean).join("; "))}</small>
          )}
        </span>
      )}
    </span>
  );
}

/** Whether a message as wide as ours would leave the sheet at its left. */
function nearLeft(field: HTMLElement | null): boolean {
  return (field?.getBoundingClientRect().right ?? 0) < 310;
}
