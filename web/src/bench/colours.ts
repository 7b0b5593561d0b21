import type { Body } from "../api/types";

/** Calm, matt fills for bodies whose file gives no colour; alike bodies get the same. */
const FILLS = ["#b3bfc2", "#c9bda6", "#aebba8", "#bdb3c1", "#c6b3a9", "#a9b9c4", "#bfc0a8", "#b9b4ae"];

/** The fill of every body, by id. */
export function fillsOf(bodies: Body[]): Map<string, string> {
  const fills = new Map<string, string>();
  const groups = new Map<string, string>();
  let next = 0;
  for (const body of bodies) {
    const group = body.alike ?? body.id;
    if (!groups.has(group)) groups.set(group, FILLS[next++ % FILLS.length]!);
    fills.set(body.id, body.colour ?? groups.get(group)!);
  }
  return fills;
}

/** A fill drawn back towards the paper: what is not selected. */
export function paler(colour: string): string {
  const paper = [0xf6, 0xf3, 0xec];
  const mixed = paper.map((to, i) => Math.round(parseInt(colour.slice(1 + 2 * i, 3 + 2 * i), 16) * 0.4 + to * 0.6));
  return `#${mixed.map((value) => value.toString(16).padStart(2, "0")).join("")}`;
}
