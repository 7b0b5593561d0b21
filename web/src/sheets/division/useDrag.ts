import { useEffect, useRef, type PointerEvent } from "react";

interface Held {
  from: [number, number];
  move: (dx: number, dy: number) => void;
  done: (moved: boolean) => void;
  moved: boolean;
}

/** Something in a drawing taken by the pointer: told how far it goes, in pixels, and when it is let go. */
export function useDrag() {
  const held = useRef<Held | null>(null);
  useEffect(() => {
    const move = (event: globalThis.PointerEvent) => {
      const now = held.current;
      if (!now) return;
      now.moved = true;
      now.move(event.clientX - now.from[0], event.clientY - now.from[1]);
    };
    const up = () => {
      const now = held.current;
      held.current = null;
      now?.done(now.moved);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    return () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
    };
  }, []);
  return (event: PointerEvent, move: Held["move"], done: Held["done"]) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    event.preventDefault();
    held.current = { from: [event.clientX, event.clientY], move, done, moved: false };
  };
}
