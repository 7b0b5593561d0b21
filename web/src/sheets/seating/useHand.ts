import { useCallback, useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { SeatState, TriedMove } from "../../api/types";
import type { Frame } from "./PlanFrame";
import { announce } from "../../house/announce";
import { seatOf, type Seating } from "./useSeating";

/** How far a seat is carried, in mm, and turned, in degrees, counter-clockwise. */
export interface Held {
  dx: number;
  dy: number;
  turn: number;
}

interface Moving extends Held {
  seat: SeatState;
  /** Where the pointer took hold, in pixels; nowhere when keys move. */
  from: [number, number] | null;
  /** The middle that it is turned about, in pixels; null while it is carried. */
  about: [number, number] | null;
}

export const SNAP = 15;
const STILL: Held = { dx: 0, dy: 0, turn: 0 };
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
const SIGNS: Record<string, number> = { "+": 1, "=": 1, "-": -1, _: -1 };
/** Several presses are one move, which is taken when the keys rest for so long. */
const REST = 400;

/** What is moved just now, and what it would come to, which is asked while it moves. */
function useTriedMove(job: string) {
  const [held, setHeld] = useState<Held | null>(null);
  const [tried, setTried] = useState<(TriedMove & { at: Held }) | null>(null);
  const moving = useRef<Moving | null>(null);
  const asking = useRef(false);
  const advised = useRef("");
  /** What it would come to is written over the plan; who cannot see that is told, too, once. */
  const advise = useCallback((says: string) => {
    if (says !== advised.current) announce(says || "Here it stands free.");
    advised.current = says;
  }, []);
  const ask = useCallback(
    (seat: SeatState, at: Held) => {
      if (asking.current) return;
      asking.current = true;
      void api
        .tryMove(job, seat.subject, seat.copy_number, at.dx, at.dy, at.turn)
        .then((move) => {
          asking.current = false;
          const now = moving.current;
          if (!now) return;
          setTried({ ...move, at });
          advise(move.says.slice(0, 2).join("; "));
          if (now.dx !== at.dx || now.dy !== at.dy || now.turn !== at.turn)
            ask(seat, { dx: now.dx, dy: now.dy, turn: now.turn });
        })
        .catch(() => undefined)
        .finally(() => (asking.current = false));
    },
    [job, advise],
  );
  const to = useCallback(
    (next: Held) => {
      if (!moving.current) return;
      Object.assign(moving.current, next);
      setHeld(next);
      ask(moving.current.seat, next);
    },
    [ask],
  );
  const clear = useCallback(() => {
    moving.current = null;
    setHeld(null);
    setTried(null);
  }, []);
  return { held, tried, moving, to, clear };
}

type Move = ReturnType<typeof useTriedMove>;

/** What becomes of a move when it is let go: on its plate, or on another that it is let go over. */
function useLetGo({ act }: JobHandle, { carry }: Seating, { moving, clear }: Move) {
  const rest = useCallback(() => {
    carry(false);
    clear();
  }, [carry, clear]);
  /** When a move is there: keys may have begun the next one meanwhile, which goes on. */
  const arrived = useCallback(() => {
    if (!moving.current) rest();
  }, [moving, rest]);
  const put = useCallback(
    (seat: SeatState, plate: string) =>
      act({ do: "put-on", ...seatOf(seat), plate })
        .catch(tell)
        .finally(arrived),
    [act, arrived],
  );
  const letGo = useCallback(
    (over: Element | null) => {
      const now = moving.current;
      if (!now || (!now.dx && !now.dy && !now.turn)) return rest();
      const plate = over?.closest<HTMLElement>("[data-plate]")?.dataset.plate;
      moving.current = null;
      carry(false);
      if (plate && !now.about && plate !== now.seat.plate) return void put(now.seat, plate);
      const done = now.turn
        ? act({ do: "turn-seat", ...seatOf(now.seat), axis: "z", typed: String(now.turn), absolute: false, here: true })
        : act({ do: "shift-seat", ...seatOf(now.seat), dx: now.dx, dy: now.dy });
      void done.catch(tell).finally(arrived);
    },
    [act, carry, moving, put, rest, arrived],
  );
  return { put, letGo };
}

/** Follow the pointer while it holds a seat. */
function usePointer(
  { moving, to }: Move,
  scale: number,
  carry: Seating["carry"],
  letGo: (over: Element | null) => void,
) {
  useEffect(() => {
    const move = (event: globalThis.PointerEvent) => {
      const now = moving.current;
      if (!now?.from) return;
      if (now.about) {
        const angle = degreesFrom(now.about, [event.clientX, event.clientY]) - degreesFrom(now.about, now.from);
        return to({ ...STILL, turn: snapped(angle, !event.shiftKey) });
      }
      carry(true);
      to({
        ...STILL,
        dx: round((event.clientX - now.from[0]) / scale),
        dy: round(-(event.clientY - now.from[1]) / scale),
      });
    };
    const up = (event: globalThis.PointerEvent) =>
      moving.current?.from && letGo(document.elementFromPoint(event.clientX, event.clientY));
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    return () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
    };
  }, [scale, moving, to, letGo, carry]);
}

/** Several presses of keys are one move, which is taken when they rest; one that is held down does not rest. */
function useKeyRest(letGo: (over: Element | null) => void) {
  const begun = useRef<{ timer: number; leave: () => void } | null>(null);
  /** Whether keys had begun a move that is not taken yet; it is taken by whoever asks. */
  const pending = () => {
    if (!begun.current) return false;
    window.clearTimeout(begun.current.timer);
    begun.current.leave();
    begun.current = null;
    return true;
  };
  const begin = () => {
    pending();
    const rest = () => {
      window.clearTimeout(begun.current?.timer);
      const timer = window.setTimeout(() => pending() && letGo(null), REST);
      if (begun.current) begun.current.timer = timer;
    };
    const leave = () => {
      window.removeEventListener("keyup", rest);
      window.removeEventListener("blur", rest);
    };
    begun.current = { timer: 0, leave };
    window.addEventListener("keyup", rest);
    window.addEventListener("blur", rest);
  };
  return { pending, begin };
}

/** A seat moved or turned by hand or by keys; what it would come to is asked while it moves. */
export function useHand(handle: JobHandle, seating: Seating, frame: Frame) {
  const move = useTriedMove(handle.view.id);
  const { held, tried, moving, to } = move;
  const { put, letGo } = useLetGo(handle, seating, move);
  usePointer(move, frame.scale, seating.carry, letGo);
  const keys = useKeyRest(letGo);
  const { seat } = seating;
  const down = (event: PointerEvent, one: SeatState, turning = false) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    if (keys.pending()) return letGo(null); // what keys began is done before a hand begins
    seating.choose(one.id);
    const edge = event.currentTarget.closest("svg")!.getBoundingClientRect();
    const [x, y] = frame.at((one.room!.low[0]! + one.room!.high[0]!) / 2, (one.room!.low[1]! + one.room!.high[1]!) / 2);
    moving.current = {
      ...STILL,
      seat: one,
      from: [event.clientX, event.clientY],
      about: turning ? [edge.left + x, edge.top + y] : null,
    };
  };
  const toPlate = (by: number) => {
    const plates = handle.view.survey.plates;
    const next = plates[plates.findIndex((plate) => plate.id === seat!.plate) + by];
    if (next) void put(seat!, next.id).then(() => seating.choosePlate(next.id));
  };
  const pressed = (event: KeyboardEvent) => {
    if (!seat?.room || event.ctrlKey || event.metaKey) return;
    const [way, sign] = [ARROWS[event.key], SIGNS[event.key]];
    const plates = { PageUp: -1, PageDown: 1 }[event.key];
    if (!way && !sign && !plates) return;
    event.preventDefault();
    if (plates) return toPlate(plates);
    // Keys carry or turn; what was begun in the other way is done first.
    if (moving.current && (moving.current.about !== null) !== !!sign) letGo(null);
    moving.current ??= { ...STILL, seat, from: null, about: sign ? [0, 0] : null };
    const { dx, dy, turn } = moving.current;
    keys.begin();
    if (sign) return to({ ...STILL, turn: round(turn + sign * (event.altKey ? 1 : SNAP)) });
    const far = event.shiftKey ? 10 * seating.step : seating.step;
    to({ ...STILL, dx: round(dx + way![0] * far), dy: round(dy + way![1] * far) });
  };
  return { held, tried, down, pressed };
}

const round = (value: number) => Math.round(value * 1000) / 1000;

/** The direction of a pixel from another, in degrees counter-clockwise from the right. */
const degreesFrom = ([x0, y0]: readonly [number, number], [x, y]: readonly [number, number]) =>
  (Math.atan2(y0 - y, x - x0) * 180) / Math.PI;

/** An angle from -180 to 180, at the next mark or to a tenth. */
export function snapped(angle: number, snap: boolean): number {
  const step = snap ? SNAP : 0.1;
  const around = ((((angle + 180) % 360) + 360) % 360) - 180;
  return round(Math.round(around / step) * step);
}
