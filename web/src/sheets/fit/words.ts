import type { PairState } from "../../api/types";
import type { Option } from "../../blocks/Choice";
import { rounded } from "../../blocks/numbers";

export const INTENTS: readonly Option<PairState["intent"]>[] = [
  ["slides", "slides"],
  ["snug", "snug"],
  ["press", "press"],
  ["apart", "apart"],
];

/** A clearance, with its sign where material is too much. */
export const clearance = (mm: number): string => rounded(mm, 3).replace("-", "−");

/** The sizes of a pair: the outer one, and what is in it. */
export function sizesOf({ kind, sizes_mm }: { kind: string; sizes_mm: readonly number[] }): string {
  if (!sizes_mm.length) return "flat faces";
  const sign = kind === "bore and shaft" || kind === "thread and thread" ? "ø " : "";
  return `${sign}${rounded(sizes_mm[1]!, 3)} in ${sign}${rounded(sizes_mm[0]!, 3)}`;
}

/** How a verdict is drawn: in the colour of the mark that it stands for. */
export const MARKS: Record<string, string> = { holds: "settled", "may hold": "look", "does not hold": "stop" };

/** By how much a pair misses its band, in words; empty where it does not. */
export function missOf(pair: PairState): string {
  const now = pair.states.at(-1);
  if (!now || pair.band_low_mm === null) return "";
  if (pair.verdict !== "does not hold") return pair.verdict;
  const seen = pair.printed?.clearance_mm ?? now.clearance_mm;
  if (seen < pair.band_low_mm!) return `${rounded(pair.band_low_mm! - seen, 2)} short`;
  return pair.band_high_mm === null ? pair.verdict : `${rounded(seen - pair.band_high_mm!, 2)} loose`;
}

/** The clearance to be expected of the print, and how sure that is. */
export const printedOf = (printed: NonNullable<PairState["printed"]>): string =>
  `${clearance(printed.clearance_mm)} ± ${rounded(printed.uncertainty_mm, 2)}`;

/** What a pair is called: what is in what, or what looks at what. */
export function nameOf({ kind, names }: PairState): string {
  const [one, other] = names;
  if (one === other) return `${kind} of ${one}`;
  return kind === "facing planes" ? `${one} to ${other}` : `${other} in ${one}`;
}
