import { Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api } from "../../../api/client";
import type { RoundWall, Vec3 } from "../../../api/types";
import { Choice } from "../../../blocks/Choice";
import { Fold } from "../../../blocks/Fold";
import { mm } from "../../../blocks/numbers";
import { TypedField } from "../../../blocks/TypedField";
import css from "../Division.module.css";
import { Do, LengthRow, Row, Rows, useShaping, useTyped, type Way, busyOr } from "./parts";

/** A thread on a bore or a boss: cut into its wall, or added to it. */
export function Thread(props: Way) {
  return (
    <Fold title="Thread" name="division-thread" says="on a bore or a boss">
      <OnWall {...props} />
    </Fold>
  );
}

const wallSays = (wall: RoundWall) =>
  `${wall.kind} ø ${mm(wall.diameter_mm)} at ${wall.at.map((value) => mm(Math.round(value! * 10) / 10)).join(", ")}`;

function OnWall(props: Way) {
  const { view } = props.handle;
  const { body } = props.dividing;
  const [chosen, choose] = useState("");
  const { data: walls } = useQuery({
    queryKey: ["round-walls", view.id, view.number, body.id],
    queryFn: () => api.roundWalls(view.id, body.id),
    placeholderData: (known) => known,
  });
  const wall = walls?.find((one) => String(one.face) === chosen) ?? walls?.[0];
  if (!walls) return <p className={css.line}>looking for bores and bosses …</p>;
  if (!wall) return <p className={css.line}>{body.name} has no whole bore and no boss.</p>;
  const options = walls.map((one) => [String(one.face), wallSays(one)] as const);
  return (
    <ThreadOf {...props} wall={wall}>
      <Row says="wall">
        <Choice label="Wall of the thread" value={String(wall.face)} options={options} width={228} choose={choose} />
      </Row>
    </ThreadOf>
  );
}

/** Size, length and clearance of the thread on a wall, and how it is made. */
function ThreadOf({ wall, children, ...props }: Way & { wall: RoundWall; children: ReactNode }) {
  const { body } = props.dividing;
  const shape = useShaping(props);
  const [size, setSize] = useTyped("");
  const [length, setLength] = useTyped("");
  const [clearance, setClearance] = useTyped("");
  const [add, toAdd] = useState(false);
  const [left, toLeft] = useState(false);
  const suits = add ? wall.added : wall.cut;
  const picks: [{ face: number; point: Vec3 }] = [{ face: wall.face, point: [0, 0, 0] }];
  const asked = { by: "thread" as const, picks, size, length, clearance, add, left, geometry: body.geometry };
  const whole = mm(wall.depth_mm);
  return (
    <>
      <Rows>
        {children}
        <Row says="size">
          <TypedField
            label="Size of the thread"
            value={size}
            placeholder={suits || "M5"}
            width={90}
            commit={setSize}
            words
          />
        </Row>
        <LengthRow says="length" label="Length of the thread" value={length} placeholder={whole} put={setLength} />
        <LengthRow
          says="clearance"
          label="Clearance of this thread"
          value={clearance}
          placeholder="0"
          put={setClearance}
        />
        <Row says="">
          <Checkbox label="added to the wall" checked={add} onChange={() => toAdd(!add)} />
          <Checkbox label="left-hand" checked={left} onChange={() => toLeft(!left)} />
        </Row>
      </Rows>
      <Do
        says={add ? "Add the thread" : "Cut the thread"}
        why={busyOr(props.busy, !(size || suits) && "type a size of thread")}
        act={() => shape(asked)}
      >
        {!size && !suits && <span className="soft">type a size: none suits ø {mm(wall.diameter_mm)}</span>}
      </Do>
    </>
  );
}
