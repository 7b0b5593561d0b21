import { useQuery } from "@tanstack/react-query";
import { api } from "../../../api/client";
import type { CostSurvey, JobView, PathKind, PlateCost } from "../../../api/types";
import { rounded } from "../../../blocks/numbers";

/** What the plates of a job take: asked for where it is looked at, so that no other sheet waits for it. */
export function useCost(view: JobView): CostSurvey | undefined {
  const { data } = useQuery({
    queryKey: ["cost", view.id, view.number],
    queryFn: () => api.cost(view.id),
    placeholderData: (before) => before,
    gcTime: 60_000,
  });
  return data;
}

/** What a plate takes; nothing while nothing stands on it. */
export const usePlateCost = (view: JobView, plate: string): PlateCost | undefined =>
  useCost(view)?.plates?.find((one) => one.plate === plate);

export const grams = (value: number): string => rounded(value, value < 10 ? 2 : 1);
export const metres = (value: number): string => rounded(value, value < 10 ? 2 : 1);
export const money = (value: number): string => (value ? rounded(value, 2) : "–");

/** What paths of a kind are called, in the order in which they are told. */
export const KINDS: Readonly<Record<PathKind, string>> = {
  outline: "outline",
  shell: "shells",
  solid: "tops and bottoms",
  infill: "infill",
  support: "support",
  around: "around",
  travel: "travel",
};
