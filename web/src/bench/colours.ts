import { useMemo } from "react";
import type { Body } from "../api/types";
import { useBlueprint } from "../house/theme";
import { ink } from "../theme/inks";

/** Calm, matt fills for bodies whose file gives no colour; alike bodies get the same. */
const FILLS = 8;

/** The fill of every body, by id, in the theme in force. */
export function useFills(bodies: Body[]): Map<string, string> {
  const blueprint = useBlueprint();
  // eslint-disable-next-line react-hooks/exhaustive-deps
  return useMemo(() => fillsOf(bodies), [bodies, blueprint]);
}

function fillsOf(bodies: Body[]): Map<string, string> {
  const fills = new Map<string, string>();
  const groups = new Map<string, string>();
  let next = 0;
  for (const body of bodies) {
    const group = body.alike ?? body.id;
    if (!groups.has(group)) groups.set(group, ink(`--body-${next++ % FILLS}`));
    fills.set(body.id, body.colour ?? groups.get(group)!);
  }
  return fills;
}

/** A fill drawn back towards the paper: what is not selected. */
export function paler(colour: string): string {
  const paper = ink("--paper");
  const part = (of: string, i: number) => parseInt(of.slice(1 + 2 * i, 3 + 2 * i), 16);
  const mixed = [0, 1, 2].map((i) => Math.round(part(colour, i) * 0.4 + part(paper, i) * 0.6));
  return `#${mixed.map((value) => value.toString(16).padStart(2, "0")).join("")}`;
}
