import { UnstyledButton, type ElementProps, type UnstyledButtonProps } from "@mantine/core";
import { useRef, type KeyboardEvent, type MouseEvent } from "react";
import css from "./Press.module.css";

type Props = Omit<UnstyledButtonProps & ElementProps<"button", keyof UnstyledButtonProps>, "onClick"> & {
  /** What a press does; while a promise that it returns is not settled, further presses do nothing. */
  onClick?: (event: MouseEvent<HTMLButtonElement>) => unknown;
  /** How it looks where no class says it. */
  look?: "box" | "main" | "frees";
  /** Why it cannot be pressed now: it stays within reach of the keyboard, and says so there and under the pointer. */
  why?: string | false | null;
};

/** Presses that follow the answer of the one before within this time are the tail of the same press. */
const SETTLES_MS = 350;

/** Let what a button says of itself go to the side where there is room within its part of the page. */
function toSide({ currentTarget: button }: { currentTarget: HTMLButtonElement }) {
  const part = button.closest("main, section, header")?.getBoundingClientRect();
  const { left, right } = button.getBoundingClientRect();
  button.dataset.side = part && (left + right) / 2 > (part.left + part.right) / 2 ? "left" : "right";
}

/**
 * A button: a box, or as its class says a link in a sentence, a place in a list, a numeral.
 *
 * One press does one thing: a key that is held down repeats nothing, and a press while the one before is on its way,
 * or right behind its answer, is not a second order.
 */
export function Press({ onClick, onKeyDown, look, className, why, ...rest }: Props) {
  const until = useRef(0);
  const press = (event: MouseEvent<HTMLButtonElement>) => {
    if (why || performance.now() < until.current) return;
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
  const off = why
    ? { "aria-disabled": true, "aria-description": why, "data-why": why, onPointerEnter: toSide, onFocus: toSide }
    : {};
  return <UnstyledButton unstyled {...rest} {...off} className={classes} onClick={onClick && press} onKeyDown={key} />;
}
