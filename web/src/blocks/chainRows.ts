import type { Axis, SizeChain } from "../api/types";

/** One axis of the size chain. */
export interface ChainRow {
  axis: Axis;
  number: number;
  mm_per_unit: number;
  factor: number;
  size_mm: number;
  size_in: number;
  allowance_mm: number;
  released_mm: number;
}

const AXES: Axis[] = ["x", "y", "z"];

/** The size chain, which travels by columns, by rows. */
export function chainRows(chain: SizeChain): ChainRow[] {
  return AXES.map((axis, i) => ({
    axis,
    number: chain.number[i]!,
    mm_per_unit: chain.mm_per_unit,
    factor: chain.factor[i]!,
    size_mm: chain.size_mm[i]!,
    size_in: chain.size_in[i]!,
    allowance_mm: chain.allowance_mm[i]!,
    released_mm: chain.released_mm[i]!,
  }));
}
