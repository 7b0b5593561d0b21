import type { ReactNode } from "react";
import type { JobHandle } from "../api/useJob";
import type { SheetName } from "../api/types";
import { ChooseOne } from "../job/ChooseOne";
import type { Subject } from "../job/subject";
import type { Selection } from "../job/useSelection";
import { DivisionSheet } from "./division/DivisionSheet";
import type { Dividing } from "./division/useDivision";
import { DetailSheet } from "./fit/DetailSheet";
import { FitSheet } from "./fit/FitSheet";
import { IntakeSheet } from "./intake/IntakeSheet";
import { ReleaseSheet } from "./release/ReleaseSheet";
import { SeatingSheet } from "./seating/SeatingSheet";
import type { Seating } from "./seating/useSeating";
import { Together } from "./truing/Together";
import { TruingSheet } from "./truing/TruingSheet";
import type { Picking } from "./truing/usePicking";

/** All that a sheet may show of the job that is open. */
export interface SheetProps {
  handle: JobHandle;
  selection: Selection;
  subject: Subject | null;
  picking: Picking;
  /** Drag the factor in the bench: how many times its value, or null when it is let go. */
  drag: (ratio: number | null) => void;
  seating: Seating | null;
  dividing: Dividing | null;
}

/** One sheet: what it is called in the strip, and what stands at the left of the bench. */
export interface SheetEntry {
  title: string;
  /** What is done there, in the words that somebody may look for. */
  does: string;
  Sheet: (props: SheetProps) => ReactNode;
  /** Whether the bench draws bodies as they stand on their plates. */
  seated?: boolean;
  /** Drawn over the bench; says whether it covers it, which is then out of reach. */
  Over?: (props: { handle: JobHandle; cover: (covered: boolean) => void }) => ReactNode;
}

/** The sheets, in the order of the work. A new one is a line here. */
export const SHEETS: Record<SheetName, SheetEntry> = {
  intake: {
    title: "Intake",
    does: "unit, which way is up, bodies, colours, kits, mending, duplicates, fineness of a CAD file, add or replace files, stock parts",
    Sheet: ({ handle, selection }) => <IntakeSheet handle={handle} selection={selection} />,
  },
  truing: {
    title: "Truing",
    does: "readings, measure with a caliper, factor, correction, scale to a size, allowance, shrinkage, clearance, calibration",
    Sheet: ({ subject, ...props }) =>
      subject ? (
        <TruingSheet {...props} subject={subject} />
      ) : (
        <ChooseOne title="Truing" view={props.handle.view} selection={props.selection}>
          <Together handle={props.handle} bodies={props.selection.selected} />
        </ChooseOne>
      ),
  },
  fit: {
    title: "Fit",
    does: "pairs, clearances, walls, what must hold, printed parts, inspection, stock, does a bolt go through",
    Sheet: ({ handle, selection }) => <FitSheet handle={handle} selection={selection} />,
    Over: DetailSheet,
  },
  division: {
    title: "Division",
    does: "cut, planes, pins and dowels, trials, hollow, split by colour, join, thread",
    Sheet: ({ handle, dividing, selection }) => (
      <DivisionSheet handle={handle} dividing={dividing} selection={selection} />
    ),
  },
  seating: {
    title: "Seating",
    does: "face down, turn, place, plates, machine, copies, layers, supports, time and material",
    seated: true,
    Sheet: ({ handle, seating }) => <SeatingSheet handle={handle} seating={seating} />,
  },
  release: {
    title: "Release",
    does: "format, names, proof, write files, hand over, print the sheet",
    seated: true,
    Sheet: ({ handle, selection }) => <ReleaseSheet handle={handle} selected={selection.selected} />,
  },
};
