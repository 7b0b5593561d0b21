import type { CostSurvey, JobView, PathKind, PlateCost } from "../../../api/types";
import { rounded } from "../../../blocks/numbers";

/** What the plates of a job take. */
export const costOf = (view: JobView): CostSurvey | undefined =>
  view.survey.rooms?.cost as unknown as CostSurvey | undefined;

/** What a plate takes; nothing while nothing stands on it. */
export const plateCost = (view: JobView, plate: string): PlateCost | undefined =>
  costOf(view)?.plates?.find((one) => one.plate === plate);

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
