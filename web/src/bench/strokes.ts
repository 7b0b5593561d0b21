import { useSyncExternalStore } from "react";
import { BufferAttribute, BufferGeometry } from "three";
import type { SurfaceStrokes } from "../api/types";

/** Lines drawn on the surface of a body: hatch and contours. */
export interface DrawnStrokes {
  body: string;
  /** What they tell, for the legend. */
  title: string;
  surface: SurfaceStrokes;
  /** What the body was before, if that is what the lines are about. */
  earlier?: Earlier;
}

/** What a body was: its mesh, where that lies in numbers of the body's file, and whether it is drawn in its place. */
export interface Earlier {
  mesh: string;
  rows: readonly (readonly number[])[];
  shift: readonly number[];
  shown: boolean;
}

/** Show what a body was in its place, or the body again. */
export function showEarlier(shown: boolean): void {
  if (drawn?.earlier) drawStrokes({ ...drawn, earlier: { ...drawn.earlier, shown } });
}

let drawn: DrawnStrokes | null = null;
const listeners = new Set<() => void>();

/** Draw lines on a body, in place of those that were drawn before; null draws none. */
export function drawStrokes(strokes: DrawnStrokes | null): void {
  drawn = strokes;
  listeners.forEach((tell) => tell());
}

function listen(tell: () => void) {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

/** The lines that are drawn just now. */
export const useStrokes = (): DrawnStrokes | null => useSyncExternalStore(listen, () => drawn);

/** The ends of lines as they are sent, relative to the origin of their surface. */
export function linesOf(band: SurfaceStrokes["bands"][number]): BufferGeometry {
  const bytes = Uint8Array.from(atob(band.strokes), (one) => one.charCodeAt(0));
  return new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(bytes.buffer), 3));
}
