import { useLocalStorage } from "@mantine/hooks";
import type { ReleaseFormat, ReleasePlace, ReleaseShape, Unit } from "../../api/types";

/** How one releases, as it was last chosen in this browser. */
export interface Order {
  format: ReleaseFormat;
  unit: Unit;
  place: ReleasePlace;
  shape: ReleaseShape;
  once: boolean;
  plate: string;
  pattern: string;
  short: boolean;
}

const USUAL: Order = { format: "3mf", unit: "mm", place: "seated", shape: "together", once: false, plate: "all", pattern: "", short: false };

export function useOrder(): [Order, (change: Partial<Order>) => void] {
  const [kept, keep] = useLocalStorage<Partial<Order>>({ key: "aimtrue-release", defaultValue: {}, getInitialValueInEffect: false });
  return [{ ...USUAL, ...kept }, (change) => keep((before) => ({ ...before, ...change }))];
}
