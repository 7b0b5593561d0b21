import type { AskPins } from "../../api/types";
import { Checkbox } from "@mantine/core";
import { Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { TypedField } from "../../blocks/TypedField";
import css from "./Division.module.css";
import type { Dividing } from "./useDivision";

const KINDS = [
  ["", "none"],
  ["dowel", "loose dowels"],
  ["fixed", "pin and hole"],
] as const;
const USUAL: AskPins = { kind: "dowel", diameter: "3", depth: "8", clearance: "0.2", wall: "1.2", count: null, keyed: false, places: [] };

/** Pins that line the pieces up: their kind and size; the app places them. */
export function PinFields({ dividing }: { dividing: Dividing }) {
  const { draft, edit } = dividing;
  const pins = draft.pins;
  const put = (change: Partial<AskPins>) => edit({ pins: { ...(pins ?? USUAL), ...change } });
  const field = (name: "diameter" | "depth" | "clearance" | "wall", label: string) => (
    <>
      <dt>{label}</dt>
      <dd>
        <TypedField label={`Pin ${name}`} value={pins?.[name] ?? ""} width={76} commit={async (text) => put({ [name]: text.trim() })} /> mm
      </dd>
    </>
  );
  return (
    <Fold title="Pins" name="division-pins" says={pins ? `ø ${pins.diameter} × ${pins.depth}` : "none"}>
      <div className={css.line}>
        <Segments label="Pins" value={pins?.kind ?? ""} options={KINDS} choose={(kind) => (kind ? put({ kind: kind as "dowel" | "fixed" }) : edit({ pins: null }))} width="100%" />
      </div>
      {pins && (
        <>
          <dl className={css.fields}>
            {field("diameter", "diameter")}
            {field("depth", "into each piece")}
            {field("clearance", "clearance across")}
            {field("wall", "material around")}
            <dt>on each face</dt>
            <dd>
              <TypedField label="Pins on each face" value={pins.count ? String(pins.count) : ""} placeholder="by size" width={76} commit={async (text) => put({ count: /^\d+$/.test(text.trim()) ? Math.min(24, Number(text)) || null : null })} />
            </dd>
          </dl>
          <div className={css.line}>
            <Checkbox label="keyed: a flat lets them in one way only" checked={pins.keyed ?? false} onChange={(event) => put({ keyed: event.currentTarget.checked })} />
          </div>
        </>
      )}
    </Fold>
  );
}
