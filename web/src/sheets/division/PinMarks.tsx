import { useState, type PointerEvent } from "react";
import type { PinShown, Vec3 } from "../../api/types";
import type { Ground } from "../../bench/Bench";
import type { Point2 } from "../../bench/view";
import css from "./Division.module.css";
import type { useDrag } from "./useDrag";
import type { Dividing } from "./useDivision";

const SIDES = 28;
/** Of the square of a pixel per millimetre: a plane seen so much from its edge is not dragged in. */
const EDGE_ON = 0.02;

interface Props {
  ground: Ground;
  dividing: Dividing;
  project: (point: Vec3) => Point2;
  grab: ReturnType<typeof useDrag>;
}

/** The pins that are thought of, each a circle in its plane; dragged, they stay in it. One without room is crossed out. */
export function PinMarks({ ground, dividing, project, grab }: Props) {
  const { prospect, draft, edit } = dividing;
  const [held, hold] = useState<{ number: number; to: Vec3 } | null>(null);
  const pins = prospect?.pins ?? [];
  if (!draft.pins || !pins.length) return null;
  const radius = (parseFloat(draft.pins.diameter!) || 3) / 2;
  const down = (event: PointerEvent, number: number) => {
    const pin = pins[number]!;
    const [u, v] = waysIn(prospect!.planes[pin.plane]!.normal as Vec3);
    const [a, b] = [ground.view.along(u), ground.view.along(v)];
    const area = a[0] * b[1] - a[1] * b[0];
    if (Math.abs(area) < EDGE_ON * (Math.hypot(...a) * Math.hypot(...b) + 1e-9)) return;
    let to = pin.point as Vec3;
    const move = (dx: number, dy: number) => {
      const [s, t] = [(dx * b[1] - dy * b[0]) / area, (dy * a[0] - dx * a[1]) / area];
      to = (pin.point as Vec3).map((one, i) => Number((one + s * u[i]! + t * v[i]!).toFixed(3))) as Vec3;
      hold({ number, to });
    };
    grab(event, move, (moved) => {
      hold(null);
      if (moved)
        edit({
          pins: {
            ...draft.pins!,
            by_hand: true,
            places: pins.map((shown, i) => ({ plane: shown.plane, point: i === number ? to : shown.point })),
          },
        });
    });
  };
  return (
    <g aria-label="Pins">
      {pins.map((pin, i) => {
        const at = held?.number === i ? held.to : (pin.point as Vec3);
        const [u, v] = waysIn(prospect!.planes[pin.plane]!.normal as Vec3);
        const ring = Array.from({ length: SIDES }, (_, k) => {
          const angle = (2 * Math.PI * k) / SIDES;
          return project(
            at.map((one, n) => one + radius * (Math.cos(angle) * u[n]! + Math.sin(angle) * v[n]!)) as Vec3,
          );
        });
        const [x, y] = project(at);
        return <PinMark key={i} i={i} pin={pin} ring={ring} down={down} x={x} y={y} />;
      })}
    </g>
  );
}

interface PinMarkProps {
  i: number;
  pin: PinShown;
  ring: Point2[];
  down: (event: PointerEvent<Element>, number: number) => void;
  x: number;
  y: number;
}

/** One pin in the drawing. */
function PinMark({ i, pin, ring, down, x, y }: PinMarkProps) {
  return (
    <g data-pin={pin.good ? "good" : "without room"}>
      <path
        className={pin.good ? css.pin : css.badPin}
        d={`M${ring.map((one) => one.map((value) => value.toFixed(1)).join(" ")).join("L")}Z`}
        onPointerDown={(event) => down(event, i)}
      >
        <title>
          {pin.good ? "Drag to move the pin" : "It comes out of its piece, or meets another: drag it elsewhere"}
        </title>
      </path>
      {!pin.good && (
        <path d={`M${x - 6} ${y - 6}l12 12m0 -12l-12 12`} stroke="var(--stop)" strokeWidth="1.6" pointerEvents="none" />
      )}
    </g>
  );
}

/** Two directions in a plane, square to each other. */
function waysIn(normal: Vec3): [Vec3, Vec3] {
  const aside: Vec3 = Math.abs(normal[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0];
  const first = cross(normal, aside);
  const long = Math.hypot(...first);
  const u = first.map((one) => one / long) as Vec3;
  return [u, cross(normal, u)];
}

const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
