import { Problem } from "../../api/client";
import type { AskPins, DivisionPreview } from "../../api/types";
import { Checkbox } from "@mantine/core";
import { Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { typedNumber } from "../../blocks/typed";
import { TypedField } from "../../blocks/TypedField";
import css from "./Division.module.css";
import { placeIn } from "./places";
import type { Dividing } from "./useDivision";

const KINDS = [
  ["", "none"],
  ["dowel", "loose dowels"],
  ["fixed", "pin and hole"],
] as const;
const USUAL: AskPins = {
  kind: "dowel",
  diameter: "3",
  depth: "8",
  clearance: "0.2",
  wall: "1.2",
  count: null,
  keyed: false,
  places: [],
  by_hand: false,
};

type PinShown = DivisionPreview["pins"][number];

/** Pins that line the pieces up: their kind and size; the app places them, and a hand may move them. */
export function PinFields({ dividing }: { dividing: Dividing }) {
  const { draft, edit, prospect } = dividing;
  const pins = draft.pins;
  const put = (change: Partial<AskPins>) => edit((now) => ({ pins: { ...(now.pins ?? USUAL), ...change } }));
  return (
    <Fold
      title="Pins"
      name="division-pins"
      says={
        pins
          ? `ø ${pins.diameter} × ${pins.depth}${prospect?.pins.length ? `, ${prospect.pins.length} of them` : ""}`
          : "none"
      }
    >
      <div className={css.line}>
        <Segments
          label="Pins"
          value={pins?.kind ?? ""}
          options={KINDS}
          choose={(kind) => (kind ? put({ kind: kind as "dowel" | "fixed" }) : edit({ pins: null }))}
          width="100%"
        />
      </div>
      {pins && (
        <>
          <PinMeasures pins={pins} put={put} />
          <div className={css.line}>
            <Checkbox
              label="keyed: a flat lets them in one way only"
              checked={pins.keyed ?? false}
              onChange={(event) => put({ keyed: event.currentTarget.checked })}
            />
          </div>
          {(prospect?.without ?? []).map((says) => (
            <p key={says} className={css.told}>
              {says}
            </p>
          ))}
          <Places dividing={dividing} put={put} />
        </>
      )}
    </Fold>
  );
}

type PinMeasure = "diameter" | "depth" | "clearance" | "wall";

interface PinChanges {
  pins: AskPins;
  put: (change: Partial<AskPins>) => void;
}

interface PinMeasureFieldProps {
  name: PinMeasure;
  label: string;
  value: string;
  put: PinChanges["put"];
}

/** One measure of pins, in mm. */
function PinMeasureField({ name, label, value, put }: PinMeasureFieldProps) {
  return (
    <>
      <dt>{label}</dt>
      <dd>
        <TypedField
          label={`Pin ${name}`}
          value={value}
          width={76}
          commit={async (text) => put({ [name]: text.trim() })}
        />{" "}
        mm
      </dd>
    </>
  );
}

/** The measures of pins. */
function PinMeasures({ pins, put }: PinChanges) {
  const field = (name: PinMeasure, label: string) => (
    <PinMeasureField name={name} label={label} value={pins[name] ?? ""} put={put} />
  );
  return (
    <dl className={css.fields}>
      {field("diameter", "diameter")}
      {field("depth", "into each piece")}
      {field("clearance", "clearance across")}
      {!pins.by_hand && field("wall", "material around")}
      {!pins.by_hand && (
        <>
          <dt>on each face</dt>
          <dd>
            <TypedField
              label="Pins on each face"
              value={pins.count ? String(pins.count) : ""}
              placeholder="by size"
              width={76}
              commit={async (text) => put({ count: countIn(text) })}
            />
          </dd>
        </>
      )}
    </dl>
  );
}

/** How many pins were typed for each face; none where the field was emptied. */
function countIn(text: string): number | null {
  if (!text.trim()) return null;
  const count = typedNumber(text);
  if (!Number.isInteger(count))
    throw new Problem(422, "count", `“${text.trim()}” is no whole number`, "", "type one, or empty the field");
  return count;
}

/** Where the pins are: placed by the app until one is moved, removed or added by hand. */
function Places({ dividing, put }: { dividing: Dividing; put: (change: Partial<AskPins>) => void }) {
  const { draft, prospect } = dividing;
  const pins = prospect?.pins ?? [];
  const hand = (places: Pick<PinShown, "plane" | "point">[]) =>
    put({ by_hand: true, places: places.map(({ plane, point }) => ({ plane, point })) });
  const add = (plane: number) => {
    const ring = (prospect!.planes[plane]!.rings[0] ?? []) as number[][];
    const middle = [0, 1, 2].map((i) =>
      Number((ring.reduce((sum, one) => sum + one[i]!, 0) / Math.max(1, ring.length)).toFixed(2)),
    );
    hand([...pins, { plane, point: middle as PinShown["point"] }]);
  };
  if (!prospect?.planes.length) return null;
  return (
    <>
      {pins.length > 0 && (
        <ul className={css.pins} aria-label="Places of pins">
          {pins.map((pin, i) => (
            <PinPlace key={i} i={i} pin={pin} prospect={prospect} hand={hand} pins={pins} />
          ))}
        </ul>
      )}
      <div className={css.line}>
        <span className="soft">Add a pin on</span>
        {prospect.planes.map((plane, i) => (
          <Press key={plane.letter} className="link" onClick={() => add(i)}>
            {plane.letter}
          </Press>
        ))}
        {draft.pins?.by_hand && (
          <Press className="link" onClick={() => put({ by_hand: false, places: [] })}>
            Place them for me
          </Press>
        )}
      </div>
    </>
  );
}

interface PinPlaceProps {
  i: number;
  pin: PinShown;
  prospect: DivisionPreview;
  hand: (places: Pick<PinShown, "plane" | "point">[]) => void;
  pins: PinShown[];
}

/** The place of one pin, typed. */
function PinPlace({ i, pin, prospect, hand, pins }: PinPlaceProps) {
  return (
    <li>
      <span className={css.letter}>{prospect.planes[pin.plane]?.letter}</span>
      <TypedField
        label={`Place of pin ${i + 1}, ${axesOf(prospect.planes[pin.plane])
          .map((k) => "XYZ"[k])
          .join(" and ")}`}
        value={axesOf(prospect.planes[pin.plane])
          .map((k) => String(Number(pin.point[k]!.toFixed(2))))
          .join(", ")}
        width={128}
        commit={async (text) =>
          hand(
            pins.map((shown, k) =>
              k === i ? { ...shown, point: placeIn(text, axesOf(prospect.planes[pin.plane]), pin.point) } : shown,
            ),
          )
        }
      />
      {!pin.good && <span className="stop">too near an edge or another cut</span>}
      <Press className="link" aria-label={`Remove pin ${i + 1}`} onClick={() => hand(pins.filter((_, k) => k !== i))}>
        ×
      </Press>
    </li>
  );
}

/** The axes that tell a place in a plane: the other two of one across an axis. */
const axesOf = (plane: DivisionPreview["planes"][number] | undefined) =>
  [0, 1, 2].filter((k) => !plane?.axis || "xyz"[k] !== plane.axis);
