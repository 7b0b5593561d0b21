import { Input } from "@mantine/core";
import { useEffect, useId, useLayoutEffect, useRef, useState, type KeyboardEvent, type RefObject } from "react";
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

/** What is typed into a field while it is not taken yet, and what is wrong with it. */
function useTyped({ value, full, inputRef }: Props) {
  const current = full ?? value;
  const [draft, showDraft] = useState<Draft | null>(null);
  const [inside, setInside] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const own = useRef<HTMLInputElement>(null);
  const input = inputRef ?? own;
  // Typing can be faster than rendering and than the server (a caliper types like a keyboard): what was
  // typed last is held here, and nothing that arrives late may overwrite it.
  const typed = useRef<Draft | null>(null);
  const selecting = useRef(false);
  const setDraft = (next: Draft | null) => {
    typed.current = next;
    showDraft(next);
  };
  const type = (text: string) => {
    const begun = typed.current ?? { base: inside ? current : value, elsewhere: changesElsewhere() };
    setDraft({ ...begun, text });
    setProblem(null);
  };
  const revert = () => {
    setDraft(null);
    setProblem(null);
  };
  const enter = () => {
    setInside(true);
    if (typed.current !== null) return input.current?.select();
    selecting.current = true;
  };
  const leave = () => setInside(false);
  const shown = draft?.text ?? (inside ? current : value);
  useSelected(shown, inside && !draft, input, selecting);
  return { current, input, draft, typed, selecting, problem, setProblem, shown, setDraft, type, revert, enter, leave };
}

/** Take what is typed: each text once, unless the value was changed by others since typing began. */
function useTake({ commit }: Props, typing: ReturnType<typeof useTyped>) {
  const { current, input, typed, selecting, setProblem, setDraft, revert } = typing;
  const sent = useRef<string | null>(null);
  const asked = useRef<string | null>(null);
  /** Whether the value was changed meanwhile; told once, the same text entered again is meant. */
  const overtaken = (now: Draft): boolean => {
    if (now.base === current || now.elsewhere === changesElsewhere()) return false;
    setDraft({ ...now, base: current, elsewhere: changesElsewhere() });
    const says = `this was changed to ${current || "nothing"} while you typed`;
    setProblem(new Problem(409, "changed-meanwhile", says, "", "Enter takes yours, Esc leaves it"));
    return true;
  };
  return async (): Promise<boolean> => {
    const now = typed.current;
    if (now === null || now.text === now.base || now.text === current) {
      revert();
      return true;
    }
    if (sent.current === now.text || overtaken(now)) return false; // Enter and then leaving is one commit
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
}

/** The whole value stays selected while it follows a change, so that what is typed next replaces it. */
function useSelected(
  shown: string,
  follows: boolean,
  input: RefObject<HTMLInputElement | null>,
  selecting: RefObject<boolean>,
) {
  const before = useRef(shown);
  useLayoutEffect(() => {
    const followed = follows && before.current !== shown;
    before.current = shown;
    if (!selecting.current && !followed) return;
    selecting.current = false;
    if (document.activeElement === input.current) input.current?.select();
  });
}

/**
 * A value that is typed: Enter commits, Esc reverts, leaving commits what was changed.
 *
 * A field that was entered and not typed into follows the value and never commits: the value may have changed
 * since the field was entered, by the answer to an earlier field, by undo or on another page.
 */
export function TypedField(props: Props) {
  const { label, disabled, width, words, placeholder, done, startTyping } = props;
  const typing = useTyped(props);
  const { input, draft, problem, shown, type, revert, enter, leave } = typing;
  const take = useTake(props, typing);
  const id = useId();
  const classes = [css.field, words && css.words, problem && css.refused, props.className].filter(Boolean).join(" ");
  useEffect(() => {
    if (startTyping) input.current?.focus();
  }, [startTyping, input]);
  const pressed = (event: KeyboardEvent<HTMLInputElement>) => {
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
      // The focus stays, so that a keyboard goes on from here; a field that was only there for this goes away.
      done?.();
    }
  };
  const left = () => {
    leave();
    if (!problem) return void take().then((taken) => taken && done?.());
    revert();
    done?.();
  };
  return (
    <span className={css.wrap} style={{ width }}>
      <Input
        unstyled
        wrapperProps={CONTENTS}
        ref={input}
        classNames={{ input: classes }}
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
        onFocus={() => {
          props.focused?.();
          enter();
        }}
        onChange={(event) => type(event.target.value)}
        onBlur={left}
        onKeyDown={pressed}
      />
      {problem && <Why problem={problem} id={id} input={input} />}
    </span>
  );
}

/** What is wrong with what was typed, at its field. */
function Why({ problem, id, input }: { problem: Problem; id: string; input: RefObject<HTMLInputElement | null> }) {
  return (
    <span className={`${css.why} ${nearLeft(input.current) ? css.rightward : ""}`} id={id} role="alert">
      {sentence(problem.says)}
      {(problem.where || problem.remedy) && (
        <small>{sentence([problem.where, problem.remedy].filter(Boolean).join("; "))}</small>
      )}
    </span>
  );
}

/** Whether a message as wide as ours would leave the sheet at its left. */
function nearLeft(field: HTMLElement | null): boolean {
  return (field?.getBoundingClientRect().right ?? 0) < 310;
}
