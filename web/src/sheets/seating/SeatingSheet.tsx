import { Term } from "../../house/Term";
import { type JobHandle, tell } from "../../api/useJob";
import { Fold } from "../../blocks/Fold";
import { GoOn } from "../../blocks/GoOn";
import { Press } from "../../blocks/Press";
import { Findings, Head, Sheet, sheetCss, UnitFirst } from "../../blocks/Sheet";
import { Level } from "./Level";
import { Machines } from "./Machines";
import { Placing } from "./Placing";
import { Arranging, Plates } from "./Plates";
import css from "./Seating.module.css";
import { SeatTable } from "./SeatTable";
import { WhatItTakes } from "./cost/WhatItTakes";
import { Turning } from "./Turning";
import { seatOf, type Seating } from "./useSeating";
import { WaysToStand } from "./WaysToStand";

/** Sheet 5: what stands on the plates, flat, level and in the right place. */
export function SeatingSheet({ handle, seating }: { handle: JobHandle; seating: Seating | null }) {
  const { view } = handle;
  if (!seating || !view.survey.seats.length) {
    return (
      <Sheet label="Seating">
        <UnitFirst job={view.id} doing="any place on the plate" />
      </Sheet>
    );
  }
  const { seat, off } = seating;
  const findings = view.survey.findings.filter((finding) => finding.sheet === "seating");
  return (
    <Sheet label="Seating">
      <Head title={`Plate ${seating.number}, ${seating.plate.machine.name}`}>
        <Term of="seat">what is a seat?</Term>
      </Head>
      <Plates handle={handle} seating={seating} />
      <SeatTable seating={seating} />
      {off.length > 0 && (
        <Fold title="On no plate" name="seating-off" open says={`${off.length} ${off.length === 1 ? "seat" : "seats"}`}>
          {off.map((one) => (
            <div key={one.id} className={css.off}>
              <span>{one.name}</span>
              <Press
                className="link"
                onClick={() => void handle.act({ do: "put-on", ...seatOf(one), plate: seating.plate.id }).catch(tell)}
              >
                Put on plate {seating.number}
              </Press>
            </div>
          ))}
        </Fold>
      )}
      <Findings handle={handle} here="seating" findings={findings} />
      {seat && (
        <>
          {seat.plate && <Level key={`level ${seat.id}`} handle={handle} seat={seat} />}
          <WaysToStand handle={handle} seat={seat} seating={seating} />
          <Placing key={`place ${seat.id}`} handle={handle} seat={seat} seating={seating} />
          <Turning key={`turn ${seat.id}`} handle={handle} seat={seat} seating={seating} />
        </>
      )}
      <WhatItTakes handle={handle} seating={seating} />
      <Arranging handle={handle} seating={seating} />
      <Machines handle={handle} seating={seating} />
      <GoOn view={view} from="seating" says="Everything stands on its plate, inside the machine." />
      <span className={sheetCss.text} />
    </Sheet>
  );
}
