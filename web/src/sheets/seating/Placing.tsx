import { useState } from "react";
import { Problem } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Kit, PlateState, RoomCheck, SeatState } from "../../api/types";
import { Choice, Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { mm } from "../../blocks/numbers";
import { sheetCss } from "../../blocks/Sheet";
import { typedNumber } from "../../blocks/typed";
import { TypedField } from "../../blocks/TypedField";
import css from "./Seating.module.css";
import { seatOf, type Seating } from "./useSeating";

const HOWS = [
  ["beside", "beside"],
  ["on-top", "on top of"],
  ["in-line", "in line with"],
] as const;

const STANDS = [
  ["one", "as one"],
  ["apart", "each by itself"],
] as const;

/** Where a seat is: typed, centred, by another, lifted, copied, on which plate. */
export function Placing({ handle, seat, seating }: { handle: JobHandle; seat: SeatState; seating: Seating }) {
  const { view } = handle;
  const room = seat.room;
  const middle = (i: number) => (room ? (room.low[i]! + room.high[i]!) / 2 : 0);
  const move = (fields: { x?: string; y?: string; lift?: string }) =>
    handle.act({ do: "move-seat", ...seatOf(seat), x: "", y: "", lift: "", ...fields });
  const copies = view.survey.seats.filter((one) => one.subject === seat.subject).length;
  const first = view.job.bodies.find((body) => body.id === seat.bodies[0]?.body);
  const kit = view.job.kits.find((one) => one.id === first?.kit);
  const others = seating.seats.filter((one) => one.id !== seat.id);
  const [how, setHow] = useState<(typeof HOWS)[number][0]>("beside");
  const [other, setOther] = useState("");
  const by = others.find((one) => one.id === other) ?? others[0];
  const plates = view.survey.plates;
  return (
    <Fold
      title="Position on the plate"
      name="seating-place"
      open
      says={
        room ? `${seat.zone}, ${seat.lift_mm ? `lifted by ${mm(seat.lift_mm)} mm` : "on the plate"}` : "on no plate"
      }
    >
      <dl className={css.fields}>
        {room && <PlaceAndLift middle={middle} move={move} handle={handle} seat={seat} />}
        <dt>copies</dt>
        <dd>
          <TypedField
            label="Copies"
            value={String(copies)}
            width={84}
            commit={(typed) => handle.act({ do: "set-copies", body: seat.subject, typed })}
          />
        </dd>
        {kit && <KitTogether kit={kit} handle={handle} />}
        {by && room && (
          <CopiesAndLift
            how={how}
            setHow={setHow}
            by={by}
            others={others}
            setOther={setOther}
            handle={handle}
            seat={seat}
          />
        )}
        <dt>plate</dt>
        <OtherPlates plates={plates} seat={seat} handle={handle} room={room} />
      </dl>
      {room && <PlaceInWords room={room} seating={seating} />}
    </Fold>
  );
}

/** Where it is on the plate, and by how much the arrow keys move it. */
function PlaceInWords({ room, seating }: { room: RoomCheck; seating: Seating }) {
  const stepTo = async (typed: string) => {
    const mm = typedNumber(typed, "mm");
    if (!(mm > 0 && mm <= 100))
      throw new Problem(422, "step", `“${typed.trim()}” is no step`, "", "type one up to 100 mm");
    seating.stepBy(mm);
  };
  return (
    <p className={sheetCss.text}>
      <span className="number">
        {mm(room.low[0]!)} {mm(room.low[1]!)} … {mm(room.high[0]!)} {mm(room.high[1]!)}
      </span>{" "}
      from the front left corner. In the plan, drag it or use the arrow keys, by{" "}
      <TypedField label="Step of the arrow keys" value={String(seating.step)} width={44} commit={stepTo} /> mm; Shift
      moves ten steps.
    </p>
  );
}

interface PlaceAndLiftProps {
  middle: (i: number) => number;
  move: (fields: { x?: string; y?: string; lift?: string }) => Promise<unknown>;
  handle: JobHandle;
  seat: SeatState;
}

/** Where the seat is on its plate, and how high it is lifted. */
function PlaceAndLift({ middle, move, handle, seat }: PlaceAndLiftProps) {
  return (
    <>
      <dt>middle at X, Y</dt>
      <StepPlace middle={middle} move={move} handle={handle} seat={seat} />
      <dt>lift over the plate</dt>
      <dd>
        <TypedField
          label="Lift"
          value={mm(seat.lift_mm)}
          full={String(seat.lift_mm)}
          width={84}
          commit={(lift) => move({ lift })}
        />
        {seat.lift_mm !== 0 && (
          <Press className="link" onClick={() => void move({ lift: "0" }).catch(tell)}>
            Put down
          </Press>
        )}
      </dd>
    </>
  );
}

/** Whether the bodies of a kit stand together or each by itself. */
function KitTogether({ kit, handle }: { kit: Kit; handle: JobHandle }) {
  return (
    <>
      <dt>bodies of {kit.name}</dt>
      <dd>
        <Segments
          label="Bodies of the kit"
          acts
          value={kit.free ? "apart" : "one"}
          options={STANDS}
          choose={(how) => void handle.act({ do: "stand-apart", kit: kit.id, apart: how === "apart" }).catch(tell)}
          width={180}
        />
      </dd>
    </>
  );
}

interface StepPlaceProps {
  middle: (i: number) => number;
  move: (fields: { x?: string; y?: string; lift?: string }) => Promise<unknown>;
  handle: JobHandle;
  seat: SeatState;
}

/** The place of the seat, typed or stepped. */
function StepPlace({ middle, move, handle, seat }: StepPlaceProps) {
  return (
    <dd>
      <TypedField
        label="Middle at X"
        value={mm(middle(0))}
        full={String(Number(middle(0).toPrecision(10)))}
        width={84}
        commit={(x) => move({ x })}
      />
      <TypedField
        label="Middle at Y"
        value={mm(middle(1))}
        full={String(Number(middle(1).toPrecision(10)))}
        width={84}
        commit={(y) => move({ y })}
      />
      <Press className="link" onClick={() => void handle.act({ do: "centre-seat", ...seatOf(seat) }).catch(tell)}>
        Centre
      </Press>
    </dd>
  );
}

interface CopiesAndLiftProps {
  how: "beside" | "on-top" | "in-line";
  setHow: (value: "beside" | "on-top" | "in-line") => void;
  by: SeatState;
  others: SeatState[];
  setOther: (value: string) => void;
  handle: JobHandle;
  seat: SeatState;
}

/** The part of the place that is about copies. */
function CopiesAndLift({ how, setHow, by, others, setOther, handle, seat }: CopiesAndLiftProps) {
  return (
    <>
      <dt>put it</dt>
      <dd className={css.by}>
        <Choice label="How to put it" value={how} options={HOWS} choose={setHow} width={92} />
        <Choice
          label="By which seat"
          value={by.id}
          options={others.map((one) => [one.id, `${one.number} ${one.name}`] as const)}
          choose={setOther}
          width={108}
        />
        <Press
          className="link"
          onClick={() => handle.act({ do: "put-by", ...seatOf(seat), other: by.id, how, gap: "5" }).catch(tell)}
        >
          Put
        </Press>
      </dd>
    </>
  );
}

interface OtherPlatesProps {
  plates: PlateState[];
  seat: SeatState;
  handle: JobHandle;
  room: RoomCheck | null;
}

/** The plates that the seat can be brought to. */
function OtherPlates({ plates, seat, handle, room }: OtherPlatesProps) {
  return (
    <dd className={css.by}>
      {plates.map((plate, i) => (
        <Press
          key={plate.id}
          look="box"
          aria-pressed={plate.id === seat.plate}
          onClick={() =>
            plate.id !== seat.plate && void handle.act({ do: "put-on", ...seatOf(seat), plate: plate.id }).catch(tell)
          }
        >
          {i + 1}
        </Press>
      ))}
      {room && (
        <Press className="link" onClick={() => void handle.act({ do: "take-off", ...seatOf(seat) }).catch(tell)}>
          Remove from its plate
        </Press>
      )}
    </dd>
  );
}
