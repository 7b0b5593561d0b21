import { UnstyledButton, type ElementProps, type UnstyledButtonProps } from "@mantine/core";
import { useRef, type KeyboardEvent, type MouseEvent } from "react";
import css from "./Press.module.css";

type Props = Omit<UnstyledButtonProps & ElementProps<"button", keyof UnstyledButtonProps>, "onClick"> & {
  /** What a press does; while a promise that it returns is not settled, further presses do nothing. */
  onClick?: (event: MouseEvent<HTMLButtonElement>) => unknown;
  /** How it looks where no class says it. */
  look?: "box" | "main" | "frees";
};

/** Presses that follow the answer of the one before within this time are the tail of the same press. */
const SETTLES_MS = 350;

/**
 * A button: a box, or as its class says a link in a sentence, a place in a list, a numeral.
 *
 * One press does one thing: a key that is held down repeats nothing, and a press while the one before is on its way,
 * or right behind its answer, is not a second order.
 */
export function Press({ onClick, onKeyDown, look, className, ...rest }: Props) {
  const until = useRef(0);
  const press = (event: MouseEvent<HTMLButtonElement>) => {
    if (performance.now() < until.current) return;
    const doing = onClick?.(event);
    if (!(doing instanceof Promise)) return;
    until.current = Infinity;
    const settle = () => (until.current = performance.now() + SETTLES_MS);
    doing.then(settle, settle);
  };
  const key = (event: KeyboardEvent<HTMLButtonElement>) => {
    if (event.repeat && (event.key === "Enter" || event.key === " ")) event.preventDefault();
    onKeyDown?.(event);
  };
  const classes = [look && css[look], className].filter(Boolean).join(" ") || undefined;
  return <UnstyledButton unstyled {...rest} className={classes} onClick={onClick && press} onKeyDown={key} />;
}
