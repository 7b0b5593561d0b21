import type { JobView, Layers } from "../../api/types";
import { Cell, Stamp, TitleGrid } from "../../blocks/TitleBlock";
import titleCss from "../../blocks/TitleBlock.module.css";
import { mm, rounded } from "../../blocks/numbers";
import { grams, usePlateCost } from "./cost/costOf";
import type { Seating } from "./useSeating";

/** The corner block on Seating: the chosen seat, where it is, how full its plate, how high of its machine. */
export function SeatBlock({ view, seating, layers }: { view: JobView; seating: Seating; layers: Layers | undefined }) {
  const { seat, plate, plan } = seating;
  const room = seat?.room;
  const cost = usePlateCost(view, plate.id);
  const best = cost?.full ?? cost?.quick;
  const high = plate.machine.volume!.shape === "round" ? plate.machine.volume.height : plate.machine.volume!.size![2]!;
  const look = seat?.marks.some((mark) => mark !== "lifted");
  return (
    <TitleGrid>
      <Cell span={4} says={seat ? (seat.plate ? `seat ${seat.number}` : "on no plate") : "seat"}>
        <b title={seat?.name}>{seat?.name ?? "–"}</b>
      </Cell>
      <Cell span={2} last>
        {look ? <span className={`${titleCss.stamp} look`}>LOOK</span> : <Stamp view={view} />}
      </Cell>
      <Cell span={4} says={seat?.zone ? `zone ${seat.zone}, size as it stands, mm` : "size"}>
        <p className={titleCss.mm} data-testid="overall">
          {room ? room.high.map((one, i) => mm(one! - room.low[i]!)).join(" × ") : "–"}
        </p>
        {room && <p className={titleCss.in}>{[0, 1].map((i) => mm(room.low[i]!)).join(", ")} from front left</p>}
      </Cell>
      <Cell span={2} says="plate full" last>
        <p className="number">{plan ? `${Math.round(100 * plan.fill)} %` : "–"}</p>
      </Cell>
      <Cell span={2} says="machine" foot>
        <p title={plate.machine.name}>{plate.machine.name}</p>
      </Cell>
      <Cell
        span={2}
        says={layers?.heights.length ? `${layers.heights.length} layers of ${layers.layer_mm}` : "height"}
        foot
      >
        <p className="number">
          {layers && layers.heights.length
            ? `${rounded(Math.max(0, ...seating.seats.map((one) => one.room?.high[2] ?? 0)), 1)} of ${high}`
            : "–"}
        </p>
      </Cell>
      <Cell span={2} says={cost ? `${cost.full ? "" : "≈ "}${grams(best!.grams)} g` : "it takes"} foot last>
        <p className="number" data-testid="takes">
          {cost ? (cost.full ? cost.time : `≈ ${cost.time_quick}`) : "–"}
        </p>
      </Cell>
    </TitleGrid>
  );
}
