import type { JobView, SheetName } from "../api/types";
import { NextStep } from "./NextStep";

const TITLES: Record<SheetName, string> = {
  intake: "Intake",
  truing: "Truing",
  fit: "Fit",
  division: "Division",
  seating: "Seating",
  release: "Release",
};

interface Props {
  view: JobView;
  from: SheetName;
  /** How it stands on this sheet, where the core has nothing more pressing to say. */
  says: string;
}

/** The one next step of a sheet: to the next one that has something to do, with what there is to do, or why. */
export function GoOn({ view, from, says }: Props) {
  const step = view.survey.next_steps.find(({ of }) => of === from);
  if (!step) return null;
  return (
    <NextStep to={`/jobs/${view.id}/${step.to}`} says={step.says || says}>
      Go on to {TITLES[step.to]}
    </NextStep>
  );
}
