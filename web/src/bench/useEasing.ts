import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

/** A picture that takes longer than this is late, in milliseconds; after two the machine is known to be slow. */
const LATE = 60;
/** So long after the last change the bench stands still. */
const STILL = 250;
const FEWER_PIXELS = 0.5;

/**
 * Tells to draw less while the bench moves, on a machine that was seen to be late with pictures.
 *
 * A machine that keeps up never sees a difference; on any other the factor and the view follow the hand, and the whole
 * drawing comes as soon as it rests.
 */
export function useEasing(controls: OrbitControls, dragged: unknown, ease: (on: boolean) => void) {
  const { setDpr, invalidate } = useThree();
  const whole = useThree((three) => three.viewport.initialDpr);
  const asked = useRef(false);
  const late = useRef(0);
  const eased = useRef(false);
  const rest = useRef(0);
  const held = useRef({ view: false, factor: false });

  const moved = useRef(() => {});
  moved.current = () => {
    asked.current = true;
    const set = (on: boolean) => {
      if (eased.current === on) return;
      eased.current = on;
      setDpr(on ? whole * FEWER_PIXELS : whole);
      ease(on);
      invalidate();
    };
    if (late.current >= 2) set(true);
    window.clearTimeout(rest.current);
    // A hand that holds still is not done yet.
    if (!held.current.view && !held.current.factor) rest.current = window.setTimeout(() => set(false), STILL);
  };

  useFrame(() => {
    if (!asked.current || late.current >= 2) return;
    asked.current = false;
    const drawn = performance.now();
    // The browser asks for the next picture when this one is through: that is how long it took.
    requestAnimationFrame(() => {
      late.current = performance.now() - drawn > LATE ? late.current + 1 : 0;
    });
  });

  useEffect(() => {
    const changed = () => moved.current();
    const hold = (on: boolean) => () => {
      held.current.view = on;
      if (!on) moved.current();
    };
    const [start, end] = [hold(true), hold(false)];
    controls.addEventListener("change", changed);
    controls.addEventListener("start", start);
    controls.addEventListener("end", end);
    return () => {
      controls.removeEventListener("change", changed);
      controls.removeEventListener("start", start);
      controls.removeEventListener("end", end);
      window.clearTimeout(rest.current);
    };
  }, [controls]);

  useEffect(() => {
    const was = held.current.factor;
    held.current.factor = dragged != null;
    if (was || dragged != null) moved.current();
  }, [dragged]);
}
