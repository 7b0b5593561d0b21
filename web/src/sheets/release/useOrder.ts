import { useLocalStorage } from "@mantine/hooks";
import type { ReleaseFormat, ReleasePlace, ReleaseShape, Unit } from "../../api/types";

/** How one releases. */
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

const USUAL: Order = {
  format: "3mf",
  unit: "mm",
  place: "seated",
  shape: "together",
  once: false,
  plate: "all",
  pattern: "",
  short: false,
};

const KEPT = { defaultValue: {}, getInitialValueInEffect: false } as const;

/**
 * How a job is released: as it was last chosen for this very job, else as usual. What was chosen for another job is not
 * taken over, since a format without a unit would pass unseen.
 */
export function useOrder(job: string): [Order, (change: Partial<Order>) => void] {
  const [kept, keep] = useLocalStorage<Partial<Order>>({ key: `aimtrue-release-${job}`, ...KEPT });
  const [, keepLast] = useLocalStorage<Partial<Order>>({ key: "aimtrue-release", ...KEPT });
  const order = { ...USUAL, ...kept };
  const set = (change: Partial<Order>) => {
    keep((before) => ({ ...before, ...change }));
    keepLast({ ...order, ...change });
  };
  return [order, set];
}

/** As it was last chosen in this browser, whichever the job: for several released at once, where it is said. */
export function useLastOrder(): Order {
  const [kept] = useLocalStorage<Partial<Order>>({ key: "aimtrue-release", ...KEPT });
  return { ...USUAL, ...kept };
}
